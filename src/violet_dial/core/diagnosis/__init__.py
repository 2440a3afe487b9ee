"""Diagnosis: which faults explain all that was measured and seen, and which test to make next."""
