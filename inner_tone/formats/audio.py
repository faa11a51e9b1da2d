"""Audio files: 32-bit float WAV."""

from io import BytesIO
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.io import wavfile

from inner_tone.core.engine.render import Render

Samples = NDArray[np.float64] | NDArray[np.float32]


def wav_bytes(samples: Samples, rate: float) -> bytes:
    """Return samples, shape (n,) or (n, channels), as a 32-bit float WAV file; the same samples, the same bytes."""
    buffer = BytesIO()
    wavfile.write(buffer, int(rate), samples.astype(np.float32))
    return buffer.getvalue()


def write_wav(path: Path, samples: Samples, rate: float) -> None:
    """Write samples, shape (n,) or (n, channels), as a 32-bit float WAV file; raises OSError."""
    path.write_bytes(wav_bytes(samples, rate))


def stereo(render: Render) -> NDArray[np.float32]:
    """Return what is heard, shape (n, 2)."""
    return np.stack([render.left, render.right], axis=1)
