"""Plain tables: followed points in, the motion of a scene out, and rows that fill a template."""
