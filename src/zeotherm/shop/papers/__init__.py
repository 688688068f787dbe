"""What is printed and handed on: report, work order, results as data."""
