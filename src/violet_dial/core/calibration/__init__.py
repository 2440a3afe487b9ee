"""Errors in stops, response models, best adjustment and verdict of a light meter."""
