"""A cleaned drawing as what it paints: a tree of plain values, whatever draws it or writes it."""
