"""The shelf: the page of scenes."""
