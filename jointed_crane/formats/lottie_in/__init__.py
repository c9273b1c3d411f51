"""Vector animation JSON (Lottie) as a scene: layers to parts, anchors to pivots, keys to keys, shapes to art."""
