"""How the joints of a chain turn so that its end comes to a goal."""
