"""A hotend put together from the shelf: what it is wanted for, its slots, what comes of it, the cheapest that does."""
