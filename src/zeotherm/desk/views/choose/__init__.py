"""Choose: options side by side, and sizes."""
