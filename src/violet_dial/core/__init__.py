"""Computation and judgement: pure functions on arrays and frozen records."""
