"""Huvren: a bench for limited color."""

import os

__version__ = "0.22.0"

# Read by Numba when it is first imported: OpenMP is the threading layer that bears several web threads, and idle threads
# of the kernels soon sleep instead of spinning, which would take a core from the server or the browser.
os.environ.setdefault("NUMBA_THREADING_LAYER", "omp")
os.environ.setdefault("GOMP_SPINCOUNT", "2000")
# Read by NumPy's linear algebra when it is loaded. Our systems of equations are small: one is solved within a millisecond, and in
# 200 where its threads wait for each other on processors that others are at work on.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
