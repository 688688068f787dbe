"""A fan's speed from a recording: its blade-pass tone and the overtones of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
LOWEST, HIGHEST = 40.0, 4000.0  # Hz in which a blade-pass tone of a small fan lies
LEAST_S = 0.5
OVERTONES = 4
SILENT = 1e-4  # of full scale, root mean square
SURE, LIKELY = 8.0, 4.0  # times the noise about it that the tone stands out


@dataclass(frozen=True, slots=True)
class Tone:
    """What a recording tells of a fan."""

    hertz: float  # blade-pass tone
    doubt: float  # 95 % half-width [Hz]
    speed: float  # 1/min
    speed_doubt: float  # 95 % half-width [1/min]
    stands_out: float  # times the noise about it
    clipped: float  # share of samples at full scale
    rival: float | None  # a second tone nearly as strong that could be the fan [Hz]

    @property
    def sure(self) -> Literal["sure", "likely", "no tone"]:
        """How surely the tone is the fan's."""
        return "sure" if self.stands_out >= SURE and self.rival is None else (
            "likely" if self.stands_out >= LIKELY else "no tone"
        )  # fmt: skip


class NoToneError(ValueError):
    """A recording that tells nothing, with the reason."""


def blade_pass(samples: Array, rate: float, blades: int) -> Tone:
    """The fan's speed from its sound.

    samples: one channel, full scale one; rate: samples a second; blades: of the fan. The tone is where the spectrum and
    its overtones stand out most above the noise about them (harmonic sum on the logarithm of a Welch spectrum, Hann
    windows half over each other); speed = 60 f / blades. A strong rival that is no overtone is named: a second fan, a
    motor, the mains' hum. Valid for 40 to 4000 Hz. Raises NoToneError for too short, silent or broken recordings.
    """
    if blades < 2 or blades > 40:
        raise NoToneError(f"{blades} blades cannot be; count them and type 2 to 40.")
    if not np.isfinite(samples).all():
        raise NoToneError("The recording holds values that are no numbers. Record it again.")
    if rate < 2.5 * LOWEST or len(samples) < LEAST_S * rate:
        raise NoToneError(f"The recording lasts {len(samples) / max(rate, 1.0):.2f} s; at least 0.5 s are needed.")
    if float(np.sqrt((samples**2).mean())) < SILENT:
        raise NoToneError("The recording is silent. Hold the microphone nearer, out of the air stream.")
    hertz, power = _spectrum(samples, rate)
    level = np.log(power + 1e-30)
    above = level - _floor(level)
    score = _harmonic(hertz, above)
    inside = (hertz >= LOWEST) & (hertz <= min(HIGHEST, 0.45 * rate))
    score = np.where(inside, score, -np.inf)
    best = int(np.argmax(score))
    step = float(hertz[1] - hertz[0])
    tone = float(hertz[best] + step * _vertex(above, best))
    noise = float(np.median(np.abs(score[inside] - np.median(score[inside])))) * 1.4826
    out = float((score[best] - np.median(score[inside])) / max(noise, 1e-9))
    doubt = step * 0.6
    clipped = float((np.abs(samples) > 0.985).mean())
    rival = _rival(hertz, score, best, float(np.median(score[inside])))
    return Tone(tone, doubt, 60.0 * tone / blades, 60.0 * doubt / blades, out, clipped, rival)


def _spectrum(samples: Array, rate: float) -> tuple[Array, Array]:
    """Welch's estimate with windows of about a second, fewer for short recordings."""
    size = int(min(len(samples), 2 ** int(np.log2(rate))))
    window = np.hanning(size)
    starts = range(0, len(samples) - size + 1, max(1, size // 2))
    total = np.zeros(size // 2 + 1)
    for start in starts:
        part = samples[start : start + size]
        total += np.abs(np.fft.rfft((part - part.mean()) * window)) ** 2
    return np.asarray(np.fft.rfftfreq(size, 1.0 / rate)), total / len(starts)


def _floor(level: Array, wide: int = 61) -> Array:
    """The noise about each line: a running median."""
    padded = np.pad(level, wide // 2, mode="edge")
    return np.asarray(np.median(np.lib.stride_tricks.sliding_window_view(padded, wide), axis=1))


def _harmonic(hertz: Array, above: Array) -> Array:
    """How far a line and its overtones stand out together, overtones weighted less."""
    total = np.maximum(above, 0.0)
    weight = 1.0
    for times in range(2, OVERTONES + 1):
        weight *= 0.6
        total = total + weight * np.interp(hertz * times, hertz, np.maximum(above, 0.0), right=0.0)
    half = np.interp(hertz / 2.0, hertz, np.maximum(above, 0.0), left=0.0)
    return np.where(np.maximum(above, 0.0) > 0.5, total - 0.5 * half, 0.0)


def _vertex(values: Array, at: int) -> float:
    if at == 0 or at == len(values) - 1:
        return 0.0
    left, middle, right = values[at - 1 : at + 2]
    bend = left - 2.0 * middle + right
    return float(np.clip(0.5 * (left - right) / bend, -0.5, 0.5)) if bend < 0.0 else 0.0


def _rival(hertz: Array, score: Array, best: int, floor: float) -> float | None:
    """The strongest other line that is no multiple or part of the tone, where it is nearly as strong."""
    tone = hertz[best]
    ratio = hertz / tone
    near = np.abs(ratio - np.round(ratio)) < 0.03
    with np.errstate(divide="ignore"):
        inverse = tone / np.maximum(hertz, 1e-9)
    part = np.abs(inverse - np.round(inverse)) < 0.03
    others = np.where(near & (np.round(ratio) >= 1) | part, -np.inf, score)
    at = int(np.argmax(others))
    strong = np.isfinite(others[at]) and others[at] - floor > 0.8 * (score[best] - floor)
    return float(hertz[at]) if strong else None
