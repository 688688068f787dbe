"""The whole machine in Explain: its picture, its cards, what tells of it."""
