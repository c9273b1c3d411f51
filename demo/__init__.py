"""The Heron Lock world: two scenes, brought in, rigged and keyed through the product's own edits."""
