"""What arrays hold: by these names signals and their measures are written everywhere."""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Samples = NDArray[np.float32]  # of sounds that are kept
Ints = NDArray[np.int64]
