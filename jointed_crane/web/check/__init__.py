"""The check page: what may be wrong with a rig."""
