"""Further toolheads: hotends that stand by while the one in front prints."""
