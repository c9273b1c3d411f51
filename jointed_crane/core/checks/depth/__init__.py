"""What checks find in scenes with depth: edges that do not quite meet, and backs that are seen."""
