"""Instruments on the bench: links, what they speak, and simulated stand-ins."""
