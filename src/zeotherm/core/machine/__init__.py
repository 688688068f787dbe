"""What a printer is: frozen documents. Units, bounds and validation live here, once."""
