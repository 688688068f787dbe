"""What a hotend comes to in its job, against its limits, and why."""
