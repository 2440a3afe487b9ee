"""The simulated bench: a device under test, instruments on it, and a server that speaks for them."""
