"""Recordings as samples: plain WAV, any usual depth and number of channels."""

from __future__ import annotations

import io
import wave
from pathlib import Path

import numpy as np
import numpy.typing as npt

from zeotherm.core.machine.measured import Heard
from zeotherm.core.runs.fan_sound import Tone
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.reading import Cancelled, content_of, never

Array = npt.NDArray[np.float64]
LARGEST = 100_000_000  # bytes
LOUD = 0.001  # of the samples at full scale
LONGEST_S = 60.0  # of a recording that is used


def read_sound(path: Path, cancelled: Cancelled = never) -> tuple[Array, float]:
    """A recording as one channel with full scale one, its first minute, and its rate [1/s]. Raises ShopError."""
    name = path.name or str(path)
    data = content_of(path, LARGEST, cancelled)
    if not data.startswith(b"RIFF"):
        raise ShopError(f"{name} is no WAV recording. Record or export it as WAV, uncompressed.")
    try:
        with wave.open(io.BytesIO(data)) as sound:
            rate, width, channels = sound.getframerate(), sound.getsampwidth(), sound.getnchannels()
            frames = sound.readframes(min(sound.getnframes(), int(LONGEST_S * max(rate, 1))))
    except (wave.Error, EOFError, ValueError, OverflowError, RuntimeError, ZeroDivisionError) as wrong:
        raise ShopError(f"{name} is damaged or compressed: {str(wrong)[:80]}. Export it as plain WAV.") from None
    if not 4000 <= rate <= 400_000 or not 1 <= channels <= 16:
        raise ShopError(
            f"{name}: {rate} samples a second in {channels} channels is no usual recording. Export it again."
        )
    samples = _samples(frames, width, name)
    whole = len(samples) // channels * channels
    if whole == 0:
        raise ShopError(f"{name} holds no sound. Record a few seconds.")
    return samples[:whole].reshape(-1, channels).mean(axis=1), float(rate)


def _samples(frames: bytes, width: int, name: str) -> Array:
    whole = frames[: len(frames) // width * width]
    if width == 1:
        return np.frombuffer(whole, dtype=np.uint8).astype(np.float64) / 127.5 - 1.0
    if width == 2:
        return np.frombuffer(whole, dtype="<i2").astype(np.float64) / 32768.0
    if width == 3:
        raw = np.frombuffer(whole, dtype=np.uint8).reshape(-1, 3).astype(np.int32)
        value = raw[:, 0] | raw[:, 1] << 8 | raw[:, 2] << 16
        return np.where(value >= 1 << 23, value - (1 << 24), value).astype(np.float64) / float(1 << 23)
    if width == 4:
        return np.frombuffer(whole, dtype="<i4").astype(np.float64) / float(1 << 31)
    raise ShopError(f"{name} has {8 * width} bits a sample. Export it with 16 bits.")


def as_heard(tone: Tone, blades: int, name: str) -> Heard:
    """What a job keeps of a recording."""
    return Heard(
        source=name[:200] or "sound", blades=blades, hertz=tone.hertz, doubt_hz=tone.doubt, sure=tone.sure,
        rival_hz=tone.rival, too_loud=tone.clipped > LOUD,
    )  # fmt: skip


def write_sound(path: Path, samples: Array, rate: int) -> None:
    """Write 16-bit WAV; raises ShopError."""
    from zeotherm.shop.files.job_files import write_bytes

    out = io.BytesIO()
    with wave.open(out, "wb") as sound:
        sound.setnchannels(1)
        sound.setsampwidth(2)
        sound.setframerate(rate)
        sound.writeframes((np.clip(samples, -1.0, 1.0) * 32767.0).astype("<i2").tobytes())
    write_bytes(path, out.getvalue())
