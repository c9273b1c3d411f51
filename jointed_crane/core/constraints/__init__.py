"""How constraints place a part from others, one module a kind; what they are stands in `model.constraints`."""
