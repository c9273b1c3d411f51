"""Constraints, one module a kind: what it is, how it places a part from others, what stays of it when others go."""
