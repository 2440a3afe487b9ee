"""The services without a window."""
