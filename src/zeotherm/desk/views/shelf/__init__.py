"""The parts shelf: what is on it, what its figures decide, and the shop's own parts."""
