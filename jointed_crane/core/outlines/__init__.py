"""What painted things cover: curves as lines, fills and strokes as areas, and the rings round all of it."""
