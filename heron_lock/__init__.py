"""The Heron Lock world: eight scenes, brought in, rigged and keyed through the product's own edits."""
