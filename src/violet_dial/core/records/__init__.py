"""Plain records that rooms and documents share: frozen, nothing computed, no NumPy."""
