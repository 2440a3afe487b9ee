"""Colours, type and style sheet for day and night."""
