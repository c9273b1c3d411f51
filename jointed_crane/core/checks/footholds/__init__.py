"""Findings about what parts stand on."""
