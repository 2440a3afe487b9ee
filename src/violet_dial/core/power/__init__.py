"""Power: stored charge and how it is let out."""
