"""Huvren: a bench for limited color."""

import os
from pathlib import Path

__version__ = "0.4.0"

# Compiled kernels are kept on disk so that only the very first run compiles. The folder must be
# named before Numba is imported; OpenMP is the threading layer that bears several web threads.
_state = Path(os.environ.get("HUVREN_STATE", Path(__file__).resolve().parent.parent / ".huvren"))
os.environ.setdefault("NUMBA_CACHE_DIR", str(_state / "numba"))
os.environ.setdefault("NUMBA_THREADING_LAYER", "omp")
# Idle threads of the kernels soon sleep instead of spinning, which would take a core from the server or the browser.
os.environ.setdefault("GOMP_SPINCOUNT", "2000")
