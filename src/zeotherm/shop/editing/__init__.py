"""Edits: a job, and the job that comes of it."""
