"""Files of others and of ours: read, or refused in words."""
