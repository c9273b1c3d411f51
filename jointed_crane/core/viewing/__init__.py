"""How planes in space are seen: views, the map of each plane into a view, its face, and the order of painting."""
