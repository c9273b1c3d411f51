"""The command line: serve, demo, import, track, send, pose, scenes, new, rename, remove, edit."""

from jointed_crane.cli import coming_in, sending, serving, shelf
from jointed_crane.cli.group import main

__all__ = ["coming_in", "main", "sending", "serving", "shelf"]
