"""Signals: what a recorded trace is like."""
