"""Pictures of heat: geometry, and painting for window and report alike."""
