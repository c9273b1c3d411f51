"""What formats that carry motion themselves have in common: factors, keyframes, and what has to be baked."""
