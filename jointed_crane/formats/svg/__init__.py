"""SVG in: reading safely, resolving styles and references, splitting into layers, measuring outlines."""
