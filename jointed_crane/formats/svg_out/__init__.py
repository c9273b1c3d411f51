"""SVG out: the scene as one file, still or moving, that needs nothing beside it."""
