"""One page per station."""
