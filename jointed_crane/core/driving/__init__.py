"""Levers, and the links by which they and other channels drive channels: `kinds`, and in which `order` they act."""
