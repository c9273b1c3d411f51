"""Who hangs on whom: the tree, everything else that parts are placed from, and names with a side in them."""
