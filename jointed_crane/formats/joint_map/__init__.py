"""The joint map: the rig laid out as a graph, and that drawn as SVG."""
