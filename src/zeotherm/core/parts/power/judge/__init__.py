"""What is judged of the power path: temperatures, volts, ratings, fuses, what to change, and what is wired wrongly."""
