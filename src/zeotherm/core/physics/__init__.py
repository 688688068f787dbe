"""Laws: pure functions of numbers and arrays. They know nothing of printers."""
