"""The outside world: the workshop file, jobs as files, reports, settings."""
