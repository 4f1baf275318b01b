"""The types of arrays, once: what the numbers are, not what they mean. Shapes and units stand with each use."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
"""float64: times in s, beats, figures."""
Singles = NDArray[np.float32]
"""float32: features of the sound, strengths."""
Samples = NDArray[np.float32]
"""float32 sound, (frames,) or (frames, channels), full scale is 1."""
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
