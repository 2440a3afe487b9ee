"""The Trace station: the circuit, its suspects, the next test."""
