"""Violet Dial: the bench companion for light meters and exposure circuits."""

import os

__version__ = "0.1.0"

# One thread for linear algebra, before NumPy is loaded: the systems here are small, and threads that wait for each other cost a
# fifth more than they save (measured on the tests); a worker's sums then take no processor from the window.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
