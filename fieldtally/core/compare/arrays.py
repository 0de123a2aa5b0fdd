"""The array types used throughout :mod:`fieldtally.core.compare`."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Labels = npt.NDArray[np.int16] | npt.NDArray[np.int8]
Flags = npt.NDArray[np.bool_]
