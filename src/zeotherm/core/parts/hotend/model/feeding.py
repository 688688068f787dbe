"""How the cold end of a solved hotend feeds: softened filament in it, the push through it, the air at which it jams."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from zeotherm.core.parts.hotend.model.inputs import MM, Inputs
from zeotherm.core.parts.hotend.model.model import HotendModel
from zeotherm.core.physics.jamming import BEGINS, FULL, STANDING, melt_push, push_through, pushes, soft_share

Array = npt.NDArray[np.float64]
Number = Array | float
MINUTE = 60.0
SKIPS_FROM = 0.5  # of the drive's push, from which it slips at peaks and less flows than is asked: no air mends that
WARMER = (-90.0, 150.0)  # K of the air within which a jam is looked for
PROBES, PASSES = 9, 2  # of the air, in passes of which each looks between two of the last
ONCE = ("metal", "lengths")  # of a cold end, by its layout
LEAST_SHARE = 1e-3  # of the air's warmth that anything in it is taken to follow
HOTTER_K = 20.0  # of the block over its air from which its warmth can be told apart


class Feeder(NamedTuple):
    """The numbers that the feed hangs on: each of one machine, or (draws,) of them."""

    softening: Number  # °C
    usual_core: Number  # °C
    flow: Number  # m³/s
    orifice: Number  # m
    strand: Number  # m
    bore: Number  # m
    skin_share: Number
    friction_metal: Number
    friction_tube: Number
    shear_scale: Number
    melt_scale: Number
    drive: Number  # N
    bears: Number  # N of the strand between drive and bore; infinite where it never gives way before the drive
    retractions: Number  # a minute
    residue_rate: Number  # N a metre and retraction
    soft_free: Number  # m


def guided(of: Feeder) -> Feeder:
    """The same with a strand that never gives way, which no air mends."""
    return of._replace(bears=np.inf)


def feeder(given: Inputs) -> Feeder:
    """Those of a machine's inputs."""
    return Feeder(
        given.softening, given.usual_core, given.feed_flow, given.orifice, MM * given.shape.strand_d,
        MM * given.shape.bore_d, given.skin_share, given.friction_metal, given.friction_tube, given.shear_scale,
        given.melt_scale, given.drive, given.buckles if given.may_buckle else np.inf,
        given.retractions, given.residue_rate, given.soft_free,
    )  # fmt: skip


class ColdEnd(NamedTuple):
    """What the filament meets above the thin neck, rows from below upwards, (..., rows) where not said."""

    wall: Array  # °C
    drawn: Array  # by which retracted filament is warmer [K]
    by_air: Array  # how far each row follows its air [-]
    metal: npt.NDArray[np.bool_]  # (rows,)
    lengths: Array  # (rows,) [m]
    grip: Array  # (...) where the strand must stay stiff for the drive's sake [°C]
    grip_by_air: Array  # (...) [-]
    core: Array  # (...) of the strand at the exit [°C]

    def at(self, kept: npt.NDArray[np.intp]) -> ColdEnd:
        """Some of many."""
        return ColdEnd(
            self.wall[kept], self.drawn[kept], self.by_air[kept], self.metal, self.lengths, self.grip[kept],
            self.grip_by_air[kept], self.core[kept],
        )  # fmt: skip


class Feeding(NamedTuple):
    """What a cold end says of its feed, (...) each."""

    soft_length: Array  # m of strand that swells and holds
    push: Array  # N
    room: Array  # N that the drive has left
    growth: Array  # by which residue grows in a minute, by its rate [m]


def cold_end(model: HotendModel, temperature: Array, wall: Array) -> ColdEnd:
    """The cold end of a field; temperature (..., rows, columns), wall (..., rows): of the bore."""
    given, mesh, at, here = model.given, model.layout.grid, model.layout.at, model.layout.places
    rows = np.arange(here.above_neck, -1, -1)
    back = max(given.retraction - given.feed_slack, 0.0)
    metal = mesh.height[rows] < (at.neck_top if given.lined else at.tube_end)
    starts, lengths = _joined(metal, mesh.thickness[rows])

    def joined(each: Array) -> Array:
        return np.asarray(np.add.reduceat(each * mesh.thickness[rows], starts, axis=-1) / lengths)

    from_below = _at(mesh.height, temperature[..., mesh.moving], joined(mesh.height[rows]) - back)
    cold = joined(wall[..., rows])
    grip = temperature[..., 0, here.core] if given.lined else temperature[..., here.above_neck, here.core]
    block = temperature.reshape(*temperature.shape[:-2], -1) @ here.means[:, 0]
    over = np.maximum(block - given.fan_air, HOTTER_K)
    return ColdEnd(
        wall=cold,
        drawn=np.maximum(from_below - cold, 0.0),
        by_air=np.clip((block[..., None] - cold) / over[..., None], 0.0, 1.0),
        metal=metal[starts],
        lengths=lengths,
        grip=grip,
        grip_by_air=np.clip((block - grip) / over, 0.0, 1.0),
        core=temperature[..., -1, 0],
    )


def _joined(metal: npt.NDArray[np.bool_], lengths: Array) -> tuple[npt.NDArray[np.intp], Array]:
    """Rows taken together by twos, none of metal with one of the tube: where each pair begins, and its length [m]."""
    tube_from = int(metal.sum())
    starts = np.concatenate([np.arange(0, tube_from, 2), np.arange(tube_from, len(metal), 2)])
    return starts, np.add.reduceat(lengths, starts)


def _at(heights: Array, values: Array, wanted: Array) -> Array:
    """Values (..., rows) at other heights; heights falling."""
    after = np.clip(np.searchsorted(-heights, -wanted), 1, len(heights) - 1)
    share = np.clip((heights[after - 1] - wanted) / (heights[after - 1] - heights[after]), 0.0, 1.0)
    return np.asarray(values[..., after - 1] + share * (values[..., after] - values[..., after - 1]))


def _start(of: Feeder, core: Array) -> Array:
    """Push that the melt zone takes, as far as the drive does not slip [N]; core [°C]."""
    melt = melt_push(of.flow, of.orifice, of.strand, of.usual_core - core) * of.melt_scale
    return np.asarray(np.minimum(melt, SKIPS_FROM * of.drive))


def feeding(of: Feeder, end: ColdEnd, warmer: Array) -> Feeding:
    """The feed with the air warmer by so much [K].

    warmer: of the cold end's leading shape, or of that and one more axis; numbers that are (draws,) go along its last.
    """
    beside = (..., None) if warmer.ndim > end.grip.ndim else (...,)
    along = (..., None, slice(None)) if warmer.ndim > end.grip.ndim else (..., slice(None))

    def by_row(number: Number) -> Array:
        return np.asarray(number)[..., None]

    wall = end.wall[along] + warmer[..., None] * end.by_air[along]
    held = np.where(end.metal, by_row(of.skin_share), 0.0)
    touched = wall + held * end.drawn[along]
    friction = np.where(end.metal, by_row(of.friction_metal), by_row(of.friction_tube))
    share = soft_share(touched - by_row(of.softening))
    push = push_through(
        np.broadcast_to(_start(of, end.core[beside]), warmer.shape), wall, touched, friction, end.lengths,
        of.softening, of.bore, of.shear_scale,
    )  # fmt: skip
    grip = end.grip[beside] + warmer * end.grip_by_air[beside]
    holds = (share * friction) @ end.lengths / of.friction_metal
    return Feeding(
        soft_length=share @ end.lengths,
        push=push,
        room=np.minimum(of.drive * (1.0 - soft_share(grip - of.softening)), of.bears) - push,
        growth=(of.retractions + STANDING) * np.maximum(holds - of.soft_free, 0.0),
    )


def warmer_to_jam(of: Feeder, end: ColdEnd, left: float) -> Array:
    """How much warmer the air may be until the feed stops within what is left to print [K], of the cold end's shape.

    left: seconds to print as it stands. The profile is moved with the air, each row as far as it follows it; the feed's
    room falls with every kelvin. A strand that gives way before the drive is left out. Within -90 and 150 K.
    """
    of = guided(of)
    low, high = _bracket(of, end)
    parts = np.linspace(0.0, 1.0, PROBES)
    one = other = low
    for _turn in range(PASSES):
        warmer = low[..., None] + (high - low)[..., None] * parts
        found = feeding(of, end, warmer)
        room = found.room - of.residue_rate * found.growth * left / MINUTE
        after = np.clip((room > 0.0).sum(axis=-1), 1, PROBES - 1)[..., None]
        one, other = (np.take_along_axis(room, at, axis=-1)[..., 0] for at in (after - 1, after))
        low, high = (np.take_along_axis(warmer, at, axis=-1)[..., 0] for at in (after - 1, after))
    share = np.clip(one / np.where(one == other, 1.0, one - other), 0.0, 1.0)
    return np.asarray(low + share * (high - low))


def _bracket(of: Feeder, end: ColdEnd) -> tuple[Array, Array]:
    """Airs between which a jam lies: in one nothing is soft, in the other the drive has lost its hold [K more]."""
    touched = end.wall + np.where(end.metal, of.skin_share, 0.0) * end.drawn
    begins = (of.softening + BEGINS - touched) / np.maximum(end.by_air, LEAST_SHARE)
    follows = np.maximum(end.grip_by_air, LEAST_SHARE)[..., None]
    gives, lost = ((of.softening + over - end.grip[..., None]) / follows for over in (BEGINS, FULL))
    low = np.minimum(begins.min(axis=-1), gives[..., 0])
    return np.clip(low, *WARMER), np.clip(lost[..., 0], *WARMER)


def feeds_of(models: Sequence[HotendModel], fields: Sequence[Array], walls: Sequence[Array]) -> list[dict[str, float]]:
    """Readings of the feed of hotends of one layout, by station, all at once; each field (rows, columns), wall (rows,).

    Besides those of `feed_stations` by how much the air may be warmer until each jams within what it has to print, if
    it stands as it is.
    """
    ends = [cold_end(*one) for one in zip(models, fields, walls, strict=True)]
    parts = {name: [getattr(end, name) for end in ends] for name in ColdEnd._fields}
    end = ColdEnd(**{name: part[0] if name in ONCE else np.stack(part) for name, part in parts.items()})
    numbers = zip(*(feeder(model.given) for model in models), strict=True)
    of = Feeder(*(np.array(number)[:, None] for number in numbers))
    now = feeding(of, end, np.zeros((len(ends), 1)))
    room = warmer_to_jam(of, end, models[0].given.left)
    told = zip((now.soft_length[:, 0] / MM).tolist(), now.push[:, 0].tolist(), room.tolist(), strict=True)
    return [{"soft_length": soft, "push": push, "jam_room": warmer} for soft, push, warmer in told]


class Profile(NamedTuple):
    """How the push grows on its way up through the cold end, (rows,) from below."""

    height: Array  # above the neck's top, at each row's upper end [m]
    push: Array  # N
    soft: Array  # how far the strand swells there [-]


def profile(model: HotendModel, temperature: Array, wall: Array) -> Profile:
    """The push along the bore; temperature (rows, columns), wall (rows,)."""
    of, end = feeder(model.given), cold_end(model, temperature, wall)
    touched = end.wall + np.where(end.metal, of.skin_share, 0.0) * end.drawn
    friction = np.where(end.metal, of.friction_metal, of.friction_tube)
    push = np.full(len(end.lengths), _start(of, end.core))
    stretch = (end.wall, touched, friction, end.lengths, of.softening, of.bore, of.shear_scale)
    for row, above in pushes(push[0], *stretch):
        push[row:] = above
    return Profile(np.cumsum(end.lengths), push, soft_share(touched - of.softening))


def feed_stations(model: HotendModel, temperature: Array, wall: Array) -> dict[str, Array]:
    """Readings of the feed, by station; temperature (..., rows, columns), wall (..., rows)."""
    end = cold_end(model, temperature, wall)
    now = feeding(feeder(model.given), end, np.zeros(end.grip.shape))
    return {"soft_length": now.soft_length / MM, "push": now.push}
