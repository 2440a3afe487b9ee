"""Exposure quantities, marked series and reference chains."""
