"""Matrices, decompositions, outlines and the points of a box."""
