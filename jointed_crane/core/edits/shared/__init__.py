"""What the families of edits share: what an edit is, values as they are shown, points, mirrors."""
