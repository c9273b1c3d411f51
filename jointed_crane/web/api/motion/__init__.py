"""What is evaluated: poses and previews, baked motion, what views see of both, and courses over time."""
