"""The parts of a machine: of each its model and what is made of it."""
