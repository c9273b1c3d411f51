"""What a scene is made of, as frozen values: parts, channels, shapes, constraints, levers, markers."""
