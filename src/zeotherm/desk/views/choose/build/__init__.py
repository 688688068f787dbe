"""Build a hotend: slots from the shelf, the section, what the job asks for, and the cheapest that does."""
