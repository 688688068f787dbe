"""From what was told, tried and read to the likeliest cause and the next check."""
