"""Single-purpose widgets shared by the stations."""
