"""Array types used across the core."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating[Any]]
Bytes = NDArray[np.uint8]
Words = NDArray[np.uint32]
Integers = NDArray[np.integer[Any]]
Flags = NDArray[np.bool_]
