"""Receiving a device: where things are on it, what was found, how it was tried, what to make sure of first."""
