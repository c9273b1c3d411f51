"""The command line: serve, demo, import, track, send, pose, scenes, new, rename, remove, edit, farm."""

from jointed_crane.cli import coming_in, farming, sending, serving, shelf
from jointed_crane.cli.group import main

__all__ = ["coming_in", "farming", "main", "sending", "serving", "shelf"]
