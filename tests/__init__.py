"""Tests mirror the source; ``reference`` holds published values with their source."""
