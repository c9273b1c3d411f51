"""Rules that place a part from others: what they are (`kinds`), and the placing itself, one module a kind."""
