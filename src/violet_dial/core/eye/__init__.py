"""A camera that reads a needle: the dial in the picture, the needle on it, lamps; what cannot be read is refused."""
