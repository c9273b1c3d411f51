"""The Heron Lock world: four scenes, brought in, rigged and keyed through the product's own edits."""
