"""In which `order` links act, and what changes them; what they are stands in `model.levers`."""
