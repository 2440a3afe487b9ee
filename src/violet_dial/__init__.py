"""Violet Dial: the bench companion for light meters and exposure circuits."""

__version__ = "0.1.0"
