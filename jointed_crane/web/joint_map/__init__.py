"""The joint map: the rig as a graph."""
