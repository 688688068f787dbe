"""The power path: supply, leads, contacts, switches."""
