"""A second model of the enclosure, of other build and by other published laws; shares numbers with `twin`, no code.

Where `twin` has two halves of air and two radiant means, this has eight layers and one mean of all surfaces (Carroll,
1980). Plumes fill the layers from below as they entrain, by Awbi (2003): V = 5 l/s per cubic root of a watt at a metre,
from an origin 2.1 widths below; what falls back goes down layer by layer. Air beside a cooler wall falls as Jaluria's
boundary layer (1980), 2.87 l/s of each metre, and takes what the wall took down with it. Films by Alamdari & Hammond
(1983), fans along walls by Jürges' slope, air through openings by the pressures across them, a warm layer under a cool
one by its buoyancy. Run until nothing moves.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt
from scipy.optimize import brentq

from tests.verification.second_hotend import GRAVITY, KELVIN, SIGMA, air_at
from zeotherm.core.parts.enclosure.model.inputs import ChamberInputs, HeatedFrom
from zeotherm.core.parts.enclosure.model.model import EnclosureAround

Array = npt.NDArray[np.float64]
LAYERS = 8
BED = LAYERS // 4  # the layer into which it gives its heat
BAND_K = 0.5  # of the control
PASSES_K = 0.3  # over which a plume goes on, or spreads
STRAIGHT_DOWN, STRAIGHT_UP = 0.4, 0.25  # of the bed's radiation, onto floor and roof without a way round
LONG = 3e4  # s
STEPS, MOST_K, NUDGE_K, SETTLED_W, LEAST_S = 1500, 8.0, 1e-4, 0.1, 1.0
FALLS = 2.87e-3  # m³/s along a metre of wall
WALKED = 1.0e-2  # m/s by a kelvin, at which layers turn over


class Enclosure:
    """Layers of air, inner and outer faces of the walls, frame."""

    def __init__(self, given: ChamberInputs, around: EnclosureAround) -> None:
        self.given, self.around = given, around
        self.area = np.array([wall.area for wall in given.walls])
        self.through = self.area / (given.wall_factor * np.array([wall.resistance for wall in given.walls]))
        inside = np.array([wall.inside for wall in given.walls])
        self.radiant = self.area / ((1.0 - inside) / inside + 1.0 - self.area / self.area.sum() + 1e-9)
        self.frame = given.frame * float(self.radiant.sum())
        self.lies = {name: n for n, wall in enumerate(given.walls) for name in ("floor", "roof") if wall.name == name}
        self.share = np.zeros((len(given.walls), LAYERS))  # of each wall's area that stands in each layer
        for n, wall in enumerate(given.walls):
            if wall.name in self.lies:
                self.share[n, 0 if wall.name == "floor" else -1] = 1.0
            else:
                self.share[n] = 1.0 / LAYERS
        mean = air_at(40.0, given.pressure)
        self.carries = mean.density * mean.capacity
        floor = given.width * given.depth
        self.floor, self.layer = floor, given.height / LAYERS
        walls = 0.5 * np.array([wall.capacity for wall in given.walls])
        air = np.full(LAYERS, self.carries * floor * self.layer)
        self.heat = np.concatenate([air, walls, walls, [given.content]])

    def settle(self) -> dict[str, float]:
        """Every station once nothing moves, and the heaters' watts."""
        at, step = np.full(len(self.heat), self.around.room + 5.0), 1.0
        flows = self._flows(at)[0]
        for _turn in range(STEPS):
            if float(np.abs(flows).max()) < SETTLED_W and step >= LONG:
                return self.stations(at)
            slopes = np.array([(self._flows(at + nudge)[0] - flows) / NUDGE_K for nudge in NUDGE_K * np.eye(len(at))]).T
            by = np.linalg.solve(np.diag(self.heat / step) - slopes, flows)
            after = self._flows(at + by)[0]
            worse = np.abs(after - self.heat * by / step).max() > 0.5 * np.abs(flows).max()
            if np.abs(by).max() > MOST_K or (worse and step > LEAST_S):
                step *= 0.3
                continue
            at, flows, step = at + by, after, min(1.6 * step, 10.0 * LONG)
        raise RuntimeError(f"{float(np.abs(flows).max()):g} W are left over")

    def stations(self, at: Array) -> dict[str, float]:
        """By the stations' names."""
        air, inner = at[:LAYERS], at[LAYERS : LAYERS + len(self.area)]
        return {
            "case_low": float(air[BED : LAYERS // 2].mean()),  # at the print, from the bed upwards
            "case_high": float(air[LAYERS // 2 :].mean()),
            "case_sensor": self._sensed(air),
            "case_face": float(inner.max()),
            "watts": self._flows(at)[1],
        }

    def _sensed(self, air: Array) -> float:
        return float(np.interp(self.given.sensor, (np.arange(LAYERS) + 0.5) / LAYERS, air))

    def _flows(self, at: Array) -> tuple[Array, float]:
        """Watts into every node, and those of the heaters."""
        given, around, count = self.given, self.around, len(self.area)
        air, inner, outer = at[:LAYERS], at[LAYERS : LAYERS + count], at[LAYERS + count : -1]
        frame = float(at[-1])
        heaters = self._heaters(air)
        watts = sum(by for by, _place in heaters)
        turned = given.recirculation + (sum(place.blown for _by, place in heaters) if watts > 1.0 else 0.0)
        into = self._moved(air, heaters, turned)
        films = self._inner(inner, air, turned) * self.share * self.area[:, None]
        off = films * (inner[:, None] - air)
        into += self._fallen(off, inner, air)
        crossed = self.through * (inner - outer)
        to_mean, frame_out = self._radiation(inner, frame)
        shed = (self._outer(outer) + self._outer_radiant(outer)) * self.area * (outer - around.room)
        shed[self.lies["floor"]] *= 0.5  # on its bench
        sun = around.on_walls * self.area / self.area.sum()
        by_air = given.content / given.content_lag * (frame - float(air.mean()))
        into += by_air / LAYERS
        low, high = slice(0, LAYERS // 2), slice(LAYERS // 2, LAYERS)
        into[low] += around.low / (LAYERS // 2)
        into[high] += around.high / (LAYERS // 2)
        return np.concatenate(
            [into, -off.sum(axis=1) - crossed - to_mean, crossed - shed + sun, [-by_air - frame_out]]
        ), watts

    def _heaters(self, air: Array) -> list[tuple[float, HeatedFrom]]:
        """What every heater gives now."""
        given = self.given
        asked = 1.0
        if given.target > 0.0:
            asked = min(max((given.target - self._sensed(air)) / BAND_K, 0.0), 1.0)
        found = []
        for rated, place, cap, fades in ((given.heater, given.heater_from, given.heater_cap, given.heater_fades),
                                         (given.second, given.second_from, given.second_cap, 0.0)):  # fmt: skip
            here = float(air[LAYERS // 2 :].mean() if place.high else air[: LAYERS // 2].mean())
            fade = max((fades - here) / (fades - 20.0), 0.0) if fades else 1.0
            under = min(max((cap - here) / 2.0, 0.0), 1.0) if cap else 1.0
            if rated > 0.0:
                found.append((rated * fade * under * (asked if given.target > 0.0 else 0.0), place))
        return found

    def _moved(self, air: Array, heaters: list[tuple[float, HeatedFrom]], turned: float) -> Array:
        """Watts that moving air brings into every layer."""
        given, around = self.given, self.around
        into, up, down = np.zeros(LAYERS), np.zeros(LAYERS - 1), np.zeros(LAYERS - 1)
        watts = around.bed_up * (around.bed - air[BED])
        self._plume(watts, 1, around.bed_size, BED, air, into, down)
        into[BED] += around.bed_down * (around.bed - air[max(BED - 1, 0)])
        for given_off, place in heaters:
            at = min(int(place.height * LAYERS), LAYERS - 1)
            self._plume(given_off, place.units, place.side, at, air, into, down)
        blown = given.mixing * turned  # in below, out above, and down again through all of it
        down += blown
        into[-1] += self.carries * blown * (air[0] - air[-1])
        through = self._vented(float(air.mean()))
        up += max(through[0], 0.0)
        into[0] += self.carries * max(through[0], 0.0) * (around.room - air[0])
        into[-1] += self.carries * max(through[1], 0.0) * (around.room - air[-1])
        apart = air[:-1] - air[1:]
        turns = WALKED * self.floor * np.logaddexp(0.0, 8.0 * apart) / 8.0
        into[1:] += self.carries * (up + turns) * apart
        into[:-1] -= self.carries * (down + turns) * apart
        return into

    def _plume(self, watts: float, units: int, side: float, start: int, air: Array, into: Array, down: Array) -> None:
        """A plume that fills layers from its own up: what it takes and brings [W], and what falls back [m³/s]."""
        if watts <= 0.0:
            into[start] += watts
            return
        origin = 2.1 * side

        def flow(height: float) -> float:
            full = 0.005 * (watts / units) ** (1 / 3) * ((height + origin) ** (5 / 3) - origin ** (5 / 3))
            return self.given.plume * units * full

        carried, warm = 0.0, 0.0  # m³/s, and its temperature
        for layer in range(start, LAYERS):
            drawn = flow((layer - start + 0.5) * self.layer) - flow(max(layer - start - 0.5, 0.0) * self.layer)
            whole = carried + drawn
            warm = (carried * warm + drawn * air[layer]) / whole + (watts / (self.carries * whole) * (layer == start))
            if layer == LAYERS - 1:
                into[layer] += self.carries * (whole * warm - drawn * air[layer])
                into[layer] -= self.carries * carried * air[layer]
                break
            onward = whole / (1.0 + math.exp(min((air[layer + 1] - warm) / PASSES_K, 60.0)))
            into[layer] += self.carries * ((whole - onward) * warm - drawn * air[layer])
            into[layer] -= self.carries * (whole - onward - drawn) * air[layer]
            down[layer] += onward
            carried = onward

    def _fallen(self, off: Array, inner: Array, air: Array) -> Array:
        """Watts into every layer by its walls, off: from each wall to each layer: where upright walls are the cooler,
        by the air that falls along them."""
        upright = [n for n in range(len(inner)) if n not in self.lies.values()]
        into, around = off.sum(axis=0), 2.0 * (self.given.width + self.given.depth)
        cooled = np.minimum(off[upright], 0.0).sum(axis=0)
        into -= cooled
        apart = max(float(air[-1] - np.average(inner[upright], weights=self.area[upright])), 0.0)
        falls = FALLS * around * apart**0.25

        carried, cool = 0.0, 0.0
        for layer in range(LAYERS - 1, -1, -1):
            depth = (LAYERS - 1 - layer) * self.layer
            drawn = falls * ((depth + self.layer) ** 0.75 - depth**0.75) + 1e-9
            whole = carried + drawn
            cool = (carried * cool + drawn * air[layer]) / whole + cooled[layer] / (self.carries * whole)
            onward = 0.0
            if layer:
                onward = whole / (1.0 + math.exp(min((cool - air[layer - 1]) / PASSES_K, 60.0)))
                into[layer] += self.carries * onward * (air[layer - 1] - air[layer])  # comes up for it
            into[layer] += self.carries * ((whole - onward) * (cool - air[layer]))
            carried = onward
        return np.asarray(into)

    def _vented(self, mean: float) -> tuple[float, float]:
        """Air that comes in by the low openings, and by the high ones [m³/s]; fans draw above and blow in below."""
        given = self.given
        inside, outside = (air_at(one, given.pressure).density for one in (mean, self.around.room))
        lift = (outside - inside) * GRAVITY * given.rise
        wide = given.discharge * given.openings
        if wide <= 0.0:
            both = max(given.intake, given.exhaust)
            return both, 0.0

        def by(pressure: float) -> float:
            return wide * math.copysign(math.sqrt(2.0 * abs(pressure) / outside), pressure)

        def left(low: float) -> float:
            return by(low) + by(low - lift) + given.intake - given.exhaust

        most = ((given.intake + given.exhaust) / wide) ** 2 * outside + abs(lift) + 1e-6
        low = float(brentq(left, -most, most))
        return by(low) + given.intake, by(low - lift)

    def _radiation(self, inner: Array, frame: float) -> tuple[Array, float]:
        """Watts to the radiant mean of every wall, and of the frame."""
        around = self.around
        mean = float(np.average(inner, weights=self.radiant))
        linear = 4.0 * SIGMA * (0.5 * (inner + mean) + KELVIN) ** 3 * self.radiant
        own = 4.0 * SIGMA * (0.5 * (frame + mean) + KELVIN) ** 3 * self.frame
        down, up = STRAIGHT_DOWN * around.bed_rad_down, STRAIGHT_UP * around.bed_rad_up
        bed = around.bed_rad_up + around.bed_rad_down - down - up
        star = (float(linear @ inner) + own * frame + bed * around.bed) / (float(linear.sum()) + own + bed)
        left = linear * (inner - star)
        for name, straight in (("floor", down), ("roof", up)):
            left[self.lies[name]] -= straight * (around.bed - inner[self.lies[name]])
        return left, own * (frame - star)

    def _inner(self, faces: Array, air: Array, turned: float) -> Array:
        """Coefficient of every layer on every wall [W/m²K]."""
        apart = faces[:, None] - air[None, :]
        films = _upright(np.abs(apart), self.given.height)
        across = 4.0 * self.floor / (2.0 * (self.given.width + self.given.depth))
        for name, sign in (("floor", 1.0), ("roof", -1.0)):
            n = self.lies[name]
            alive = np.where(sign * apart[n] > 0.0, _lively(np.abs(apart[n]), across), _calm(np.abs(apart[n]), across))
            films[n] = self.given.level * alive
        films = films * math.sqrt(self.given.pressure / 101325.0)
        return np.asarray(self.given.film * (films + 3.8 * turned / self.floor))

    def _outer(self, faces: Array) -> Array:
        apart = np.abs(faces - self.around.room)
        films = _upright(apart, self.given.height)
        across = 4.0 * self.floor / (2.0 * (self.given.width + self.given.depth))
        films[self.lies["roof"]] = self.given.level * _lively(apart[self.lies["roof"]], across)
        films[self.lies["floor"]] = self.given.level * _calm(apart[self.lies["floor"]], across)
        return np.asarray(self.given.shed * self.given.film * films * math.sqrt(self.given.pressure / 101325.0))

    def _outer_radiant(self, faces: Array) -> Array:
        one, other = faces + KELVIN, self.around.room + KELVIN
        return np.array([wall.outside for wall in self.given.walls]) * SIGMA * (one**2 + other**2) * (one + other)


def _blend(one: Array, other: Array) -> Array:
    return np.asarray((one**6 + other**6) ** (1 / 6))


def _upright(apart: Array, height: float) -> Array:
    """On an upright wall, of the kelvins to its air."""
    apart = np.maximum(apart, 0.2)
    return _blend(1.5 * (apart / height) ** 0.25, 1.23 * np.cbrt(apart))


def _lively(apart: Array, across: float) -> Array:
    """Where a level wall makes its air move."""
    apart = np.maximum(apart, 0.2)
    return _blend(1.4 * (apart / across) ** 0.25, 1.63 * np.cbrt(apart))


def _calm(apart: Array, across: float) -> Array:
    """Where a level wall keeps its air in layers."""
    return np.asarray(0.6 * (np.maximum(apart, 0.2) / across**2) ** 0.2)
