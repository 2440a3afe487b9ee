"""Hostile files and peers, drawn by seed: the same ones each time."""
