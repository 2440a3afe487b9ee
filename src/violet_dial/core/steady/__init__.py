"""Readings as they come from an instrument: when one stands still, and how sure it is."""
