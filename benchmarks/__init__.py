"""How fast, as ratios in one run; never part of the tests."""
