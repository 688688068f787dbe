"""What is said of an enclosure: what it comes to, what that does to what is in it, and what a change would do."""
