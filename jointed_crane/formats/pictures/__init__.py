"""Bitmaps in: PNG, JPEG and WebP, and pictures that move by themselves."""
