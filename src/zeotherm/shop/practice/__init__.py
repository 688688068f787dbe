"""Stand-ins for devices, to practise with."""
