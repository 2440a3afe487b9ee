"""The Open station: off, the way back, the way in, and what may be done to what."""
