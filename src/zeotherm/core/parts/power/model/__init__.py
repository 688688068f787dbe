"""The power path: from the supply's terminals to the bed, electricity and heat solved together."""
