"""Frames of a scene as pictures, drawn in Python from what evaluation answers: no browser, no display."""
