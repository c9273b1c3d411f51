"""What is read off a scene: gaps, drift, seams, round ends, and the places that points are drawn to."""
