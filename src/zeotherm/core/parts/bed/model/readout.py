"""A solved bed read back: places on its face, interfaces of its stack, where its watts go."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.bed.model.in_time import BedRun
from zeotherm.core.parts.bed.model.inputs import Slab
from zeotherm.core.parts.bed.model.model import BedModel, SolvedBed

Array = npt.NDArray[np.float64]
INSET = 0.010  # m from the rim, within which nobody prints
NEARLY = 1.0  # K below what a face comes to that count as there
EVEN = 2.0  # K about the wanted face that count as within
PLACES = {
    "centre": (0.0, 0.0), "left": (-1.0, 0.0), "right": (1.0, 0.0), "front": (0.0, -1.0), "back": (0.0, 1.0),
    "front left": (-1.0, -1.0), "front right": (1.0, -1.0), "back left": (-1.0, 1.0), "back right": (1.0, 1.0),
}  # fmt: skip
EDGES = ("left", "right", "front", "back")
CORNERS = ("front left", "front right", "back left", "back right")
ROUND = 0.5**0.5  # a round bed's corners lie on its rim, askew
LAYERS = {
    "heater": "bed_heater", "glue": "bed_glue", "magnet glue": "bed_magnet_glue", "magnet": "bed_magnet",
    "face glue": "bed_face_glue", "face": "bed_face", "glass": "bed_glass",
}  # fmt: skip
INSULATION = "bed_insulation"


@dataclass(frozen=True, slots=True)
class Interface:
    """Where two layers meet, at one place of the bed: what is below and above, and how warm it is there [°C]."""

    below: str
    above: str
    temperature: float


@dataclass(frozen=True, slots=True)
class BedWatts:
    """Where a bed's heat goes [W]."""

    heater: float
    up: float
    down: float
    rim: float
    mounts: float

    @property
    def taken_up(self) -> float:
        """By the bed itself as it warms; zero at rest, but for what the balance loses."""
        return self.heater - self.up - self.down - self.rim - self.mounts


@dataclass(frozen=True, slots=True)
class BedReadout:
    """What there is to say of a bed at one moment."""

    values: dict[str, float]  # by station
    edge: str  # the coldest one
    corner: str
    share: float  # of the face within EVEN of what is wanted [-]
    watts: BedWatts
    interfaces: tuple[Interface, ...]  # through the middle, from the print face down


def place(model: BedModel, name: str) -> tuple[float, float]:
    """Where a named place lies [m from the middle]."""
    shape = model.inputs.shape
    across, along = PLACES[name]
    by = ROUND if shape.outline == "round" and across and along else 1.0
    return (
        by * across * (0.5e-3 * shape.width_mm - INSET),
        by * along * (0.5e-3 * shape.depth_mm - INSET),
    )


def at_place(model: BedModel, name: str, values: Array) -> float:
    """A field's value at a named place."""
    weights = model.grid.weights(*place(model, name))
    near = weights > 0.0
    return float((weights[near] * values[near]).sum())


def read_bed(solved: SolvedBed) -> BedReadout:
    """Everything there is to say of a solved bed."""
    model, at = solved.model, solved.through
    inside, area = model.grid.inside, model.grid.area
    face = {name: at_place(model, name, at.face) for name in PLACES}
    edge, corner = _coldest(face, EDGES), _coldest(face, CORNERS)
    plate = np.nan_to_num(solved.plate, nan=model.air.below)
    values = {
        "bed_centre": face["centre"],
        "bed_edge": face[edge],
        "bed_corner": face[corner],
        "bed_sensor": model.reading(plate, at.heater),
        "bed_under": float(at.lower[inside].mean()),
        "bed_watts": solved.power,
    }
    values |= {LAYERS[name]: hot for name, hot in _hottest(solved).items() if name in LAYERS}
    if model.inputs.insulated:
        values[INSULATION] = float(_insulation_face(solved)[model.covered > 0.0].max())
    apart = plate - model.air.below
    watts = BedWatts(
        solved.power,
        float((at.up * area)[inside].sum()),
        float((at.down * area)[inside].sum()),
        float((model.plate.edge * apart)[inside].sum()),
        float((model.mounts * area * apart)[inside].sum()),
    )
    near = np.abs(at.face[inside] - model.inputs.aim) <= EVEN
    return BedReadout(values, edge, corner, float(near.mean()), watts, _interfaces(solved))


def _insulation_face(solved: SolvedBed) -> Array:
    """The warm side of what is fitted under the bed: the underside of the heater."""
    outward = 0.5 * solved.model.inputs.slabs[0].resistance
    return np.asarray(solved.through.heater - solved.through.down * outward)


def _through(solved: SolvedBed) -> list[tuple[Slab, Array, Array]]:
    """Each slab with the temperature of its lower and of its upper side."""
    model, at = solved.model, solved.through
    slabs, plate_at = model.inputs.slabs, model.inputs.plate_at
    plate = np.nan_to_num(solved.plate, nan=model.air.below)
    found: list[tuple[Slab, Array, Array]] = []
    inner = np.asarray(solved.power * model.pattern - at.down)  # from the heater up into the plate
    for n, slab in enumerate(slabs):
        factor = model.inputs.up_factor if n > plate_at else model.inputs.heater_factor if n < plate_at else 1.0
        half = 0.5 * slab.resistance
        if n == plate_at:
            low = plate + (0.5 * slab.resistance * inner if plate_at > 0 else 0.5 * slab.resistance * -at.down)
            high = plate - half * at.up
        elif n == 0:
            low, high = at.heater - half * at.down, at.heater - factor * half * inner
        elif n < plate_at:
            low = found[-1][2] - (model.lift * inner if n == 1 else 0.0)
            high = low - factor * slab.resistance * inner
        else:
            low = found[-1][2]
            high = low - factor * slab.resistance * at.up
        found.append((slab, np.asarray(low), np.asarray(high)))
    return found


def _hottest(solved: SolvedBed) -> dict[str, float]:
    """The warmest that each layer gets anywhere; of the heater its middle."""
    inside = solved.model.grid.inside
    found = {slab.name: float(np.maximum(low, high)[inside].max()) for slab, low, high in _through(solved)}
    if solved.model.inputs.has_heater:
        found["heater"] = float(solved.through.heater[inside].max())
    return found


def _interfaces(solved: SolvedBed) -> tuple[Interface, ...]:
    layers, model = _through(solved), solved.model
    sides = [(slab.name, at_place(model, "centre", low)) for slab, low, _high in layers]
    top = Interface(layers[-1][0].name, "air", at_place(model, "centre", solved.through.face))
    downward = range(len(layers) - 1, 0, -1)
    found = [top, *(Interface(layers[n - 1][0].name, sides[n][0], sides[n][1]) for n in downward)]
    if model.inputs.insulated and at_place(model, "centre", model.covered) > 0.5:
        found.append(Interface("insulation", sides[0][0], sides[0][1]))
        found.append(Interface("air", "insulation", at_place(model, "centre", solved.through.lower)))
    else:
        found.append(Interface("air", sides[0][0], at_place(model, "centre", solved.through.lower)))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class BedCourse:
    """A bed's course by its places, over the ends of its steps."""

    times: Array  # s
    series: dict[str, Array]  # °C, W
    sensor_warm: float | None  # when the sensor came to its set value [s]
    ready: (
        float | None
    )  # when the middle of the face is within EVEN of what is wanted too, or nearly as warm as it gets
    release: float | None  # after switching off, until the middle of the face lets go of a print [s]
    joules: float  # put in by the heater
    peak: float  # W


def course_of(run: BedRun) -> BedCourse:
    """Places over a run."""
    keys = ("bed_centre", "bed_edge", "bed_corner", "bed_sensor", "bed_heater", "bed_watts")
    rows = [_row(run.solved(n)) for n in range(len(run.times))]
    series = {key: np.array([row.get(key, np.nan) for row in rows]) for key in keys}
    given = run.model.inputs
    settled = float(np.interp(run.off, run.times, series["bed_centre"])) - NEARLY
    ready = _first_passed(run.times, series["bed_centre"], min(given.aim - EVEN, settled), run.off)
    if ready is not None and run.warm is not None:
        ready = max(ready, run.warm)
    return BedCourse(
        run.times, series, run.warm, ready if run.warm is not None else None,
        _release(run.times, series["bed_centre"], given.release, run.off), run.joules["heater"],
        float(run.powers.max()),
    )  # fmt: skip


def _row(solved: SolvedBed) -> dict[str, float]:
    at, model = solved.through, solved.model
    face = {name: at_place(model, name, at.face) for name in PLACES}
    plate = np.nan_to_num(solved.plate, nan=model.air.below)
    return {
        "bed_centre": face["centre"],
        "bed_edge": min(face[name] for name in EDGES),
        "bed_corner": min(face[name] for name in CORNERS),
        "bed_sensor": model.reading(plate, at.heater),
        "bed_heater": float(at.heater[model.grid.inside].max()),
        "bed_watts": solved.power,
    }


def _coldest(face: dict[str, float], names: tuple[str, ...]) -> str:
    """The coldest of some places; of those as cold to a microkelvin the first, so that an even bed has one answer."""
    return min(names, key=lambda name: round(face[name], 6))


def _first_passed(times: Array, values: Array, level: float, before: float) -> float | None:
    for n in np.flatnonzero(values >= level):
        if times[n] > before:
            return None
        if n == 0:
            return float(times[0])
        share = (level - values[n - 1]) / (values[n] - values[n - 1])
        return float(times[n - 1] + share * (times[n] - times[n - 1]))
    return None


def _release(times: Array, values: Array, level: float, off: float) -> float | None:
    """From switching off until a value falls to a level [s]; zero where it is below at once."""
    after = np.flatnonzero(times >= off - 1e-6)
    for one, other in itertools.pairwise(after):
        if values[one] <= level:
            return 0.0
        if values[other] <= level:
            share = (values[one] - level) / (values[one] - values[other])
            return float(times[one] + share * (times[other] - times[one]) - off)
    return None
