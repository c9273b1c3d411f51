"""The guide: pages of a minute each, and the scenes that they begin with."""
