"""Figures of a run with their doubt, from its traces."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.measuring import Kind
from zeotherm.core.runs.estimates import Z95, Estimate
from zeotherm.core.runs.phases import crossing
from zeotherm.core.runs.series import Array, Series, Trace
from zeotherm.core.runs.settling import Settling, settle

WITHIN = 1.0  # K of its target at which a part counts as there
BATCHES = 8
JOULE_PER_KWH = 3.6e6
AGREE = 0.08  # share by which V x A x power factor may differ from the meter's own watts


@dataclass(frozen=True, slots=True)
class Doubt:
    """95 % half-widths of an instrument."""

    offset: float
    relative: float
    repeat: float


@dataclass(frozen=True)
class AlignedRun:
    """A run on the common clock: zero is the moment by which runs are lined up."""

    series: Series
    on: float  # s at which heating began; zero when lined up by it
    off: float  # s
    on_doubt: float  # standard deviation of when it began [s]
    doubts: Mapping[str, Doubt]  # of channels whose instrument is better or worse than usual
    catalogue: Catalogue

    def trace(self, channel: str, begin: float = -np.inf, end: float = np.inf) -> Trace | None:
        """A channel between two times; None where nothing of it lies there."""
        trace = self.series.trace(channel)
        part = trace.within(begin, end) if trace is not None else None
        return part if part is not None and len(part.values) else None

    def doubt(self, channel: str) -> Doubt:
        """What can be believed of a channel."""
        if channel in self.doubts:
            return self.doubts[channel]
        kind = self.kind(channel)
        return Doubt(kind.offset, kind.relative, kind.repeat)

    def kind(self, channel: str) -> Kind:
        """The kind of a channel; an unnamed one counts as a temperature."""
        known = self.catalogue.channels.get(channel)
        return self.catalogue.kinds[known.kind if known is not None else "temperature"]


def with_power(series: Series) -> tuple[Series, str]:
    """The series with a power where voltage, current and power factor or a counter tell it, and what is to be said.

    P = V I pf; without a power factor V I is apparent power and is not taken for watts. A counter's power is its slope
    over at least twenty of its steps. Raises nothing.
    """
    volts, amps, factor = (series.values.get(key) for key in ("voltage", "current", "power_factor"))
    product = volts * amps * factor if volts is not None and amps is not None and factor is not None else None
    if "power" in series.values:
        return series, _agrees(series.values["power"], product)
    if product is not None:
        return _added(series, product), "power_by_product"
    counter = series.trace("energy")
    if counter is not None and len(counter.values) > 2:
        return _added(series, _slope_of_counter(series.time, counter)), "power_by_counter"
    return series, "apparent_only" if volts is not None and amps is not None else ""


def _added(series: Series, power: Array) -> Series:
    return Series(series.time, {**series.values, "power": power}, series.start_h)


def _agrees(power: Array, product: Array | None) -> str:
    """Whether a meter's own watts are its volts times amps times power factor."""
    if product is None:
        return ""
    busy = np.isfinite(power) & np.isfinite(product) & (power > 20.0)
    if not busy.any():
        return ""
    apart = float(np.median(np.abs(product[busy] / power[busy] - 1.0)))
    return "power_disagrees" if apart > AGREE else ""


def _slope_of_counter(time: Array, counter: Trace) -> Array:
    step = max(counter.resolution, 1e-9)
    wide = max(3, int(np.ceil(20.0 * step / max(float(np.ptp(counter.values)) / len(counter.values), 1e-12))))
    wide = min(wide, len(counter.values) - 1)
    middle = 0.5 * (counter.time[wide:] + counter.time[:-wide])
    watts = (counter.values[wide:] - counter.values[:-wide]) * JOULE_PER_KWH
    watts = watts / np.maximum(counter.time[wide:] - counter.time[:-wide], 1e-9)
    return np.interp(time, middle, watts)


def _estimate(run: AlignedRun, channel: str, value: float, scatter: float, *, differs: bool = False) -> Estimate:
    """With the instrument's doubt; differs: of two readings of one instrument, so its offset falls out."""
    doubt = run.doubt(channel)
    return Estimate(value, scatter, 0.0 if differs else doubt.offset / Z95, doubt.relative / Z95)


def _mean(part: Trace) -> tuple[float, float]:
    """Time mean and the standard deviation of it, by the means of batches: slow wandering counts, gaps weigh nothing.

    (Method of batch means; Law, Simulation Modeling and Analysis, 5th ed., section 9.5.3.)
    """
    count = len(part.values)
    span = float(part.time[-1] - part.time[0])
    if count < 2 or span <= 0.0:
        return float(part.values.mean()), part.noise
    mean = float(np.trapezoid(part.values, part.time)) / span
    batches = min(BATCHES, count // 2)
    if batches < 2:
        return mean, part.noise
    means = np.array([batch.mean() for batch in np.array_split(part.values, batches)])
    floor = part.resolution / np.sqrt(12.0) / np.sqrt(2.0)  # rounding that stands still does not average out
    return mean, float(np.hypot(means.std(ddof=1) / np.sqrt(batches), floor))


def level(run: AlignedRun, channel: str, begin: float, end: float) -> Estimate | None:
    """Mean of a channel over a stretch, in its unit; of one that drifts, as good as the run's beginning is known."""
    part = run.trace(channel, begin, end)
    if part is None:
        return None
    value, scatter = _mean(part)
    span = float(part.time[-1] - part.time[0])
    drift = abs(float(part.values[-1] - part.values[0])) / span if span > 0.0 else 0.0
    return _estimate(run, channel, value, float(np.hypot(scatter, drift * run.on_doubt)))


def to_target(run: AlignedRun, channel: str, target: float) -> Estimate | None:
    """Minutes from switching on to within 1 K of a target; None where it is never reached or was so at the start."""
    part = run.trace(channel, run.on, run.off)
    if part is None or part.values[0] >= target - WITHIN:
        return None
    found = crossing(part, target - WITHIN)
    if found is None:
        return None
    near = part.within(found.time - 6.0 * part.interval, found.time + 6.0 * part.interval)
    off = run.doubt(channel).offset / Z95 / max(abs(near.slope), 1e-6)
    scatter = float(np.hypot(found.doubt, run.on_doubt))
    return Estimate((found.time - run.on) / 60.0, scatter / 60.0, min(off, part.time[-1]) / 60.0)


def rate(run: AlignedRun, channel: str, target: float) -> Estimate | None:
    """K/min between a fifth and four fifths of the way from the start to a target."""
    part = run.trace(channel, run.on, run.off)
    if part is None or target - part.values[0] < 5.0:
        return None
    start = float(part.values[: max(1, min(3, len(part.values)))].mean())
    low, high = start + 0.2 * (target - start), start + 0.8 * (target - start)
    first = crossing(part, low)
    second = crossing(part, high, after=first.time) if first is not None else None
    if first is None or second is None or second.time <= first.time:
        return None
    took = second.time - first.time
    value = (high - low) / took * 60.0
    return _estimate(run, channel, value, value * float(np.hypot(first.read, second.read)) / took, differs=True)


def overshoot(run: AlignedRun, channel: str, target: float, end: float) -> Estimate | None:
    """The highest after first reaching a target, above what it is held at [K]."""
    part = run.trace(channel, run.on, end)
    found = crossing(part, target - WITHIN) if part is not None and part.values[0] < target - WITHIN else None
    if part is None or found is None:
        return None
    after = part.within(found.time, end)
    held = after.within(found.time + 0.5 * (end - found.time), end)
    if len(after.values) < 6 or not len(held.values):
        return None
    top = np.sort(after.values)[-3:].mean()
    return _estimate(run, channel, float(top - held.values.mean()), after.noise, differs=True)


def ripple(run: AlignedRun, channel: str, begin: float, end: float) -> Estimate | None:
    """Half of what lies between the 2.5th and the 97.5th of a hundred held samples, noise taken off [K]."""
    part = run.trace(channel, begin, end)
    if part is None or len(part.values) < 20:
        return None
    low, high = np.percentile(part.values, [2.5, 97.5])
    swing = 0.5 * float(high - low)
    clean = float(np.sqrt(max(swing**2 - (Z95 * part.noise) ** 2, 0.0)))
    return _estimate(run, channel, clean, float(max(part.noise, part.resolution / 2.0)), differs=True)


def peak(run: AlignedRun, channel: str, begin: float, end: float) -> Estimate | None:
    """The highest of a stretch: the third of its samples from above, so that one spike is none."""
    part = run.trace(channel, begin, end)
    if part is None:
        return None
    ordered = np.sort(part.values)
    return _estimate(run, channel, float(ordered[-min(3, len(ordered))]), part.noise)


def rise(run: AlignedRun, channel: str, other: str, begin: float, end: float) -> Estimate | None:
    """Mean of one channel less another over a stretch [K]; two sensors, so both their offsets count."""
    part, base = run.trace(channel, begin, end), run.trace(other, begin, end)
    if part is None or base is None:
        return None
    apart = Trace.of(part.time, part.values - np.interp(part.time, base.time, base.values))
    value, scatter = _mean(apart)
    offset = float(np.hypot(run.doubt(channel).offset, run.doubt(other).offset)) / Z95
    return Estimate(value, scatter, offset, run.doubt(channel).relative / Z95)


def end_value(run: AlignedRun, channel: str, begin: float, end: float) -> tuple[Settling, Estimate, Estimate] | None:
    """What a channel would settle at [its unit], and its time constant [min], by an exponential over a stretch."""
    part = run.trace(channel, begin, end)
    found = settle(part) if part is not None else None
    if found is None or not found.bounded:
        return None
    to = _estimate(run, channel, found.end, found.half / Z95)
    return found, to, Estimate(found.tau / 60.0, found.tau_half / Z95 / 60.0)


def energy(run: AlignedRun, begin: float, end: float, idle: tuple[float, float] | None = None) -> Estimate | None:
    """kWh over a stretch, idle power removed where it is known, by the trapezoid rule.

    idle: by the same meter, with its standard deviation [W]; None: nothing is removed. Scatter: what the samples leave
    open, by their second differences (zero for a curve that they follow, √n σ Δt for one that switches between
    them), and the idle's own. The meter's gain acts on the energy, its offset over the time unless idle took it along.
    """
    part = run.trace("power", begin, end)
    if part is None or len(part.values) < 2:
        return None
    base, base_doubt = idle if idle is not None else (0.0, 0.0)
    span = float(part.time[-1] - part.time[0])
    joule = float(np.trapezoid(part.values, part.time)) - base * span
    gaps = np.diff(part.time)
    bends = np.diff(part.values, 2) if len(part.values) > 2 else np.zeros(1)
    sampled = float(np.sqrt((bends**2 / 6.0 * (gaps[:-1] if len(gaps) > 1 else gaps) ** 2).sum()))
    scatter = float(np.hypot(sampled, base_doubt * span))
    doubt = run.doubt("power")
    offset = 0.0 if idle is not None else doubt.offset / Z95 * span
    return Estimate(joule / JOULE_PER_KWH, scatter / JOULE_PER_KWH, offset / JOULE_PER_KWH, doubt.relative / Z95)


def kelvin_hours(run: AlignedRun, channel: str, other: str, begin: float, end: float) -> Estimate | None:
    """How long and how far one channel stood above another: the integral of their difference [K h]."""
    part, base = run.trace(channel, begin, end), run.trace(other, begin, end)
    if part is None or base is None or len(part.values) < 2:
        return None
    apart = part.values - np.interp(part.time, base.time, base.values)
    hours = float(part.time[-1] - part.time[0]) / 3600.0
    offset = float(np.hypot(run.doubt(channel).offset, run.doubt(other).offset)) / Z95
    return Estimate(
        float(np.trapezoid(apart, part.time)) / 3600.0, part.noise * hours / np.sqrt(len(apart)), offset * hours
    )


def ratio(one: Estimate, other: Estimate, scale: float = 1.0) -> Estimate | None:
    """One figure for each unit of another, doubts of both by first order; None where the other is near zero."""
    if abs(other.value) < 1e-9:
        return None
    value = one.value / other.value * scale
    size = max(abs(one.value), 1e-12)
    scatter = abs(value) * float(np.hypot(one.scatter / size, other.scatter / other.value))
    gain = float(np.hypot(one.gain, other.offset / other.value))
    return Estimate(value, scatter, abs(one.offset / other.value) * scale, gain)


def counted(run: AlignedRun, begin: float, end: float) -> Estimate | None:
    """kWh over a stretch by the meter's own counter, idle not removed; each reading is good to half a step."""
    part = run.trace("energy", begin, end)
    if part is None or len(part.values) < 2:
        return None
    step = part.resolution / np.sqrt(12.0) * np.sqrt(2.0)
    return _estimate(run, "energy", float(part.values[-1] - part.values[0]), float(step), differs=True)


def cost(energy_used: Estimate, tariff: float) -> Estimate:
    """Money for an energy at so much a kWh."""
    return Estimate(
        energy_used.value * tariff, energy_used.scatter * tariff, energy_used.offset * tariff, energy_used.gain
    )
