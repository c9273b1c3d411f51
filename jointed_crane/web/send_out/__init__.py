"""The page on which a scene is sent out."""
