"""When a cold end jams, over everything that is doubtful of it: hours, and the chance to finish."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.bands import Doubted
from zeotherm.core.parts.hotend.model.feeding import MINUTE, Feeder
from zeotherm.core.parts.hotend.model.inputs import FACTORED, MM, Resolved
from zeotherm.core.parts.whole.fed import Fed
from zeotherm.core.parts.whole.run import History
from zeotherm.core.physics.jamming import melt_push

Array = npt.NDArray[np.float64]
DRAWS = 300
HALF_WIDTHS = 1.96  # standard deviations in a 95 % half-width
LEAST_SPARE_N = 0.1
MOMENTS = 24  # of a job at which the draws are looked at, about
UNLOOKED_K = 5.0  # 95 % half-width of the cold end's warmth, as air, before its bands are known
LEAST_SHARE = 0.15  # of its value that a number keeps
DOUBTED = (  # of a feeder's numbers, named as the inputs are
    "softening", "skin_share", "friction_metal", "friction_tube", "soft_free", "drive", "shear_scale", "melt_scale",
    "residue_rate",
)  # fmt: skip


@dataclass(frozen=True)
class Jams:
    """When a job's feed stops, if it went on as at its end: by the stated numbers and in every draw."""

    start: float  # of printing [s]
    end: float  # of the print [s]
    stated: float  # s; infinite where it never does
    drawn: Array  # (draws,) [s], sorted; infinite where it never does

    def quantile(self, share: float) -> float:
        """Time by which this share of the draws has jammed [s]; infinite where so many never do."""
        return float(self.drawn[min(int(share * len(self.drawn)), len(self.drawn) - 1)])

    def chance(self, hours: float) -> float:
        """Probability to print so many hours without a jam [-]; good to about 2 %."""
        return float((self.drawn > self.start + 3600.0 * hours).mean())

    @property
    def finishes(self) -> float:
        """Probability that the job is printed to its end [-]."""
        return float((self.drawn > self.end).mean())


@dataclass(frozen=True, slots=True)
class Plug:
    """Soft filament that froze in the cold end as the machine cooled."""

    time: float  # from which it is stiff again [s]
    length: float  # mm, beyond what leaves nothing behind
    drive: float  # N that the drive has
    melt: float  # N that the melt takes at a start
    sticks: float  # probability that the drive does not push it out at the next start, hot [-]


def plug(run: History) -> Plug | None:
    """What a job leaves frozen in the cold end; None where nothing, or where it is still soft at the end."""
    given, soft = run.printing.resolved.inputs, run.series["soft_length"] * MM
    beyond = (float(np.nanmax(soft)) - given.soft_free) / MM
    cooling = np.array([run.stretches[mark.stretch].kind == "cool" for mark in run.marks])
    held = np.flatnonzero(soft >= given.soft_free)
    if beyond <= 0.0 or held[-1] == len(soft) - 1 or not cooling[held[-1] + 1]:
        return None
    melt = float(melt_push(given.feed_flow, given.orifice, MM * given.shape.strand_d, 0.0)) * given.melt_scale
    sticks = sticking(beyond, given.drive, melt, run.catalogue)
    return Plug(float(run.times[held[-1] + 1]), beyond, given.drive, melt, sticks)


def sticking(length: float, drive: float, melt: float, catalogue: Catalogue) -> float:
    """Probability that frozen soft filament of a length [mm] stands against a drive [N], over the melt's push [N].

    Its push is so much by the millimetre, doubted by a factor (`plug_push` in `assumptions.toml`): an estimate.
    """
    takes = catalogue.assumptions["plug_push"]
    spare = math.log(max(drive - melt, LEAST_SPARE_N) / (takes.figure.value * length))
    return 0.5 * math.erfc(spare * HALF_WIDTHS / math.log(takes.factor) / math.sqrt(2.0))


def jams(run: History, bands: Doubted | None) -> Jams:
    """When a run's feed stops; bands: of its worst moment, for how doubtful its temperatures are."""
    feed, resolved = run.feed, run.printing.resolved
    stated = feed.stated
    if not len(stated.times):
        return Jams(run.end, run.end, math.inf, np.full(DRAWS, math.inf))
    every = max(len(stated.times) // MOMENTS, 1)
    z = _drawn(len(DOUBTED) + 1 + resolved.inputs.may_buckle)
    found = feed.over(_warmth(bands) * z[len(DOUBTED)], lambda of: _doubtful(of, resolved, z), every)
    return Jams(float(stated.times[0]), float(stated.times[-1]), float(_stops(stated)[0]), np.sort(_stops(found)))


@lru_cache(maxsize=4)
def _drawn(doubts: int) -> Array:
    """Half-widths by which each doubt lies off, (doubts, draws), the same each time."""
    return np.random.default_rng(3).standard_normal((doubts, DRAWS)) / 1.96


def _warmth(bands: Doubted | None) -> float:
    band = bands.values.get("bore") if bands is not None else None
    return max(band.up, band.down) if band is not None else UNLOOKED_K


def _doubtful(of: Feeder, resolved: Resolved, z: Array) -> Feeder:
    """The numbers of the feed in every draw."""
    found = {}
    for row, name in zip(z, DOUBTED, strict=False):  # of its warmth is the row after them, of its buckling the next
        value, width = getattr(of, name), resolved.doubts.get(name, 0.0)
        moved = value * np.exp(width * row) if name in FACTORED else value + width * row
        found[name] = moved if name == "softening" else np.maximum(moved, LEAST_SHARE * value)
    if resolved.inputs.may_buckle:
        found["bears"] = of.bears * np.exp(resolved.buckles_width * z[len(DOUBTED) + 1])
    return of._replace(**found)


def _stops(found: Fed) -> Array:
    """When each case jams [s]: where its residue meets what the drive has left, on a straight line between moments;
    beyond the last it goes on as there."""
    left = found.room - found.rate * found.drawn_up
    past = left < 0.0
    first, each = past.argmax(axis=0), np.arange(left.shape[1])
    before = np.maximum(first - 1, 0)
    one, other = left[before, each], left[first, each]
    share = np.clip(one / np.where(one == other, 1.0, one - other), 0.0, 1.0)
    within = found.times[before] + share * (found.times[first] - found.times[before])
    with np.errstate(divide="ignore", invalid="ignore"):
        beyond = found.times[-1] + left[-1] / (found.rate * found.growth[-1]) * MINUTE
    beyond = np.where(found.growth[-1] > 0.0, beyond, math.inf)
    return np.asarray(np.where(past.any(axis=0), within, beyond))
