"""Motion as plain tables: followed points in, the motion of a scene out."""
