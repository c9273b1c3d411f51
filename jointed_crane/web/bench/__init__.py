"""The bench: the page on which one scene is worked."""
