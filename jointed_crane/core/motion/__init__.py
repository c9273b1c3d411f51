"""Numbers over time: keys, segments, what lies outside the keys, sway."""
