"""Jointed Crane: animate cut-out figures about the joints you chose."""

__version__ = "0.2.0"
