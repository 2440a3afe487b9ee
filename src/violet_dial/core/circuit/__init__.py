"""Circuits: netlists as SPICE text, operating points of many variants at once, simple transients, instruments."""
