"""Audio files: 32-bit float WAV, and FLAC."""

from io import BytesIO
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.io import wavfile

from inner_tone.core.engine.render import Render
from inner_tone.core.errors import InnerToneError

Samples = NDArray[np.float64] | NDArray[np.float32]


def wav_bytes(samples: Samples, rate: float) -> bytes:
    """Return samples, shape (n,) or (n, channels), as a 32-bit float WAV file; the same samples, the same bytes."""
    buffer = BytesIO()
    wavfile.write(buffer, int(rate), samples.astype(np.float32))
    return buffer.getvalue()


def flac_bytes(samples: Samples, rate: float) -> bytes:
    """Return samples, shape (n,) or (n, channels), as a FLAC file of 24 bits; what is beyond full scale is cut off."""
    buffer = BytesIO()
    soundfile.write(buffer, np.clip(samples, -1.0, 1.0), int(rate), format="FLAC", subtype="PCM_24")
    return buffer.getvalue()


def write_wav(path: Path, samples: Samples, rate: float) -> None:
    """Write samples, shape (n,) or (n, channels), as a 32-bit float WAV file; raises OSError."""
    path.write_bytes(wav_bytes(samples, rate))


def read_wav(path: Path) -> tuple[NDArray[np.float64], float]:
    """Return the samples of a WAV file, shape (channels, n), full scale 1, and its rate in Hz.

    Raises InnerToneError if it is none that can be read, and OSError.
    """
    try:
        rate, samples = wavfile.read(path)
    except ValueError as error:
        raise InnerToneError(f"{path}: This is not a WAV file that can be read: {error}.") from error
    full = 1.0 if samples.dtype.kind == "f" else float(np.iinfo(samples.dtype).max) + 1.0
    middle = 128.0 if samples.dtype == np.uint8 else 0.0
    found = (samples.astype(np.float64) - middle) / (128.0 if samples.dtype == np.uint8 else full)
    return np.atleast_2d(found.T), float(rate)


def read_sound(data: bytes, longest_s: float) -> tuple[NDArray[np.float64], float]:
    """Return the samples of a sound file (WAV, FLAC, what libsndfile reads), shape (channels, n), and its rate in Hz.

    Raises InnerToneError if it is none that can be read, is empty, or lasts longer than `longest_s` seconds.
    """
    try:
        with soundfile.SoundFile(BytesIO(data)) as file:
            rate, count = float(file.samplerate), int(file.frames)
            if count == 0:
                raise InnerToneError("There is no sound in this file.")
            if count > longest_s * rate:
                said = f"It lasts {count / rate:.0f} seconds; at most {longest_s:.0f} can be kept. Cut it first."
                raise InnerToneError(said)
            samples = file.read(dtype="float64", always_2d=True)
    except soundfile.LibsndfileError as error:
        raise InnerToneError("This is not a sound file that can be read. WAV and FLAC can.") from error
    return np.ascontiguousarray(np.nan_to_num(samples).T), rate


def stereo(render: Render) -> NDArray[np.float32]:
    """Return what is heard, shape (n, 2)."""
    return np.stack([render.left, render.right], axis=1)
