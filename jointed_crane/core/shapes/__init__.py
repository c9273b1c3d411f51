"""Shapes at work: the picture of one, one whose numbers move, and the paths that parts run along."""
