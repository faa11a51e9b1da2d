"""Audio files: 32-bit float WAV, FLAC, and Opus."""

from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import scipy
import soundfile
from numpy.typing import NDArray

from inner_tone.core.errors import InnerToneError

if TYPE_CHECKING:  # who only reads a file needs no engine
    from inner_tone.core.engine.render import Render

MOST_CHANNELS = 2
LOWEST_RATE, HIGHEST_RATE = 8_000.0, 192_000.0
LONGEST_BELIEVED_S = 1e6
OPUS_RATE = 48_000

Samples = NDArray[np.float64] | NDArray[np.float32]


def wav_bytes(samples: Samples, rate: float) -> bytes:
    """Return samples, shape (n,) or (n, channels), as a 32-bit float WAV file; the same samples, the same bytes."""
    buffer = BytesIO()
    scipy.io.wavfile.write(buffer, int(rate), samples.astype(np.float32))
    return buffer.getvalue()


def flac_bytes(samples: Samples, rate: float) -> bytes:
    """Return samples, shape (n,) or (n, channels), as a FLAC file of 24 bits; what is beyond full scale is cut off."""
    buffer = BytesIO()
    soundfile.write(buffer, np.clip(samples, -1.0, 1.0), int(rate), format="FLAC", subtype="PCM_24")
    return buffer.getvalue()


def opus_bytes(samples: Samples) -> bytes:
    """Return samples at 48 kHz, shape (n,) or (n, channels), as Opus in Ogg (RFC 7845): small, and good to be heard."""
    buffer = BytesIO()
    soundfile.write(buffer, np.clip(samples, -1.0, 1.0), OPUS_RATE, format="OGG", subtype="OPUS")
    return buffer.getvalue()


def write_wav(path: Path, samples: Samples, rate: float) -> None:
    """Write samples, shape (n,) or (n, channels), as a 32-bit float WAV file; raises OSError."""
    path.write_bytes(wav_bytes(samples, rate))


def read_wav(path: Path) -> tuple[NDArray[np.float64], float]:
    """Return the samples of a WAV file, shape (channels, n), full scale 1, and its rate in Hz.

    Raises InnerToneError if it is none that can be read, and OSError.
    """
    try:
        rate, samples = scipy.io.wavfile.read(path)
    except ValueError as error:
        raise InnerToneError(f"{path}: This is not a WAV file that can be read: {error}.") from error
    full = 1.0 if samples.dtype.kind == "f" else float(np.iinfo(samples.dtype).max) + 1.0
    middle = 128.0 if samples.dtype == np.uint8 else 0.0
    found = (samples.astype(np.float64) - middle) / (128.0 if samples.dtype == np.uint8 else full)
    return np.atleast_2d(found.T), float(rate)


def read_sound(data: bytes, longest_s: float) -> tuple[NDArray[np.float64], float]:
    """Return the samples of a sound file (WAV, FLAC, what libsndfile reads), shape (channels, n), and its rate in Hz.

    No more is read than is allowed, however long a file says that it is. Raises InnerToneError if it is none that can
    be read, is empty or cut off, has samples that are no numbers, has more than two channels, a rate at which nothing
    can be heard, or lasts longer than `longest_s` seconds.
    """
    if is_cut_off(data):
        raise InnerToneError("The file ends before it says that it does. Save or record it once more.")
    try:
        with soundfile.SoundFile(BytesIO(data)) as file:
            rate, channels = float(file.samplerate), int(file.channels)
            if channels > MOST_CHANNELS:
                raise InnerToneError(f"It has {channels} channels; one or two can be compared. Mix it down first.")
            if not LOWEST_RATE <= rate <= HIGHEST_RATE:
                said = f"It has {rate:g} samples a second; {LOWEST_RATE:.0f} to {HIGHEST_RATE:.0f} can be read."
                raise InnerToneError(f"{said} Record it at 44,100 or 48,000.")
            lasts = file.frames / rate
            samples = file.read(int(longest_s * rate) + 1, dtype="float64", always_2d=True)
    except (soundfile.LibsndfileError, MemoryError) as error:
        raise InnerToneError("This is not a sound file that can be read. WAV and FLAC can.") from error
    if len(samples) == 0:
        raise InnerToneError("There is no sound in this file.")
    if len(samples) > longest_s * rate:
        much = f"{lasts:.0f} seconds" if lasts < LONGEST_BELIEVED_S else "longer than it says"
        raise InnerToneError(f"It lasts {much}; at most {longest_s:.0f} seconds can be kept. Cut it first.")
    if not np.all(np.isfinite(samples)):
        raise InnerToneError("Some of its samples are no numbers. Save it once more, in another format.")
    return np.ascontiguousarray(samples.T), rate


def samples_of(flac: bytes) -> NDArray[np.float32]:
    """Return a sound as samplers play it, shape (n,), from the FLAC file as which it is kept."""
    samples, _ = soundfile.read(BytesIO(flac), dtype="float32")
    return np.ascontiguousarray(samples)


def is_cut_off(data: bytes) -> bool:
    """Tell whether a WAV file says that it has more samples than it has."""
    if data[:4] != b"RIFF" or data[8:12] != b"WAVE":
        return False
    place = 12
    while place + 8 <= len(data):
        name, size = data[place : place + 4], int.from_bytes(data[place + 4 : place + 8], "little")
        if name == b"data":
            return place + 8 + size > len(data)
        place += 8 + size + size % 2
    return False


def stereo(render: "Render") -> NDArray[np.float32]:
    """Return what is heard, shape (n, 2)."""
    return np.stack([render.left, render.right], axis=1)
