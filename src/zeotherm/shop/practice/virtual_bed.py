"""A stand-in for a wide heated bed with its log, its plug meter and a thermal camera above it.

It shares nothing with the model that explains it. It has what the model lacks: a heater that lies on its plate with
spots that let go, a steel sheet that is warped and so stands off in places, air that cools one side better than the
other, a sensor that lags in its pocket and rounds, a bang-bang thermostat, and layers that each hold their own heat.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
STEP = 2.0  # s
SIGMA = 5.670374419e-8
KELVIN = 273.15
IDLE_W, SUPPLY_SHARE = 8.0, 0.88  # at the wall, and what the supply passes on
CAMERA_COLUMNS, CAMERA_ROWS = 80, 60
RENEWED = 30.0  # s between two looks at films and radiation


@dataclass(frozen=True)
class BedSetting:
    """How the bed is made and how it stands. Lengths in m, the rest in SI, temperatures in °C."""

    width: float = 0.400
    depth: float = 0.300
    columns: int = 24
    rows: int = 18
    border: float = 0.025
    plate: float = 0.004
    heater_w: float = 286.0
    room: float = 7.0
    target: float = 75.0
    hysteresis: float = 0.6
    insulation: float = 0.0
    insulation_conductivity: float = 0.041
    pad_spots: float = 1.0  # how badly the heater has let go; zero: nowhere
    warp: float = 1.0  # how far the sheet stands off; zero: flat
    draught: float = 0.25  # more film at the door's side, less at the other, as a share
    films: float = 1.1
    mass: float = 1.0
    sensor_lag: float = 9.0  # s
    idle_min: float = 1.0  # logged before switching on
    hold_min: float = 60.0
    cool_min: float = 30.0
    logged_s: float = 5.0
    noise: float = 1.0
    seed: int = 3
    start_h: float = 7.5


@dataclass(frozen=True, slots=True)
class BedRow:
    """One row of its log."""

    clock_h: float
    bed: float
    target: float
    watts: float  # at the wall
    room: float


class VirtualBed:
    """Heater, plate and sheet, each a layer of cells."""

    def __init__(self, setting: BedSetting) -> None:
        self.setting = s = setting
        self._rng = np.random.default_rng(s.seed)
        self.count = s.columns * s.rows
        self.cell = s.width / s.columns * s.depth / s.rows
        x = (np.arange(s.columns) + 0.5) / s.columns - 0.5
        y = (np.arange(s.rows) + 0.5) / s.rows - 0.5
        self.x, self.y = (part.ravel() for part in np.meshgrid(x, y))
        inside = (np.abs(self.x) * s.width < 0.5 * s.width - s.border) & (
            np.abs(self.y) * s.depth < 0.5 * s.depth - s.border
        )
        self.heated = inside / inside.sum()
        self.capacity = np.concatenate(
            [np.full(self.count, 1.5e-3 * 1.7e6), np.full(self.count, s.plate * 2.42e6 * s.mass),
             np.full(self.count, 0.8e-3 * 3.0e6 + 0.5e-3 * 3.75e6)]
        ) * self.cell  # fmt: skip
        self.capacity[: self.count] += 0.5 * s.insulation * 1.2e5 * self.cell
        self.now = np.full(3 * self.count, s.room)
        self.read = s.room
        self.on = True
        self._since = math.inf
        self._sideways = self._spread()
        self._between = self._contacts()
        self._solve: Callable[[Array], Array] = lambda given: given
        self._outside = (np.zeros(3 * self.count), np.zeros(3 * self.count))

    def _spread(self) -> Any:
        from scipy.sparse import csc_matrix, diags, kron

        s = self.setting
        along = s.depth / s.rows / (s.width / s.columns)

        def line(count: int) -> Any:
            main = np.full(count, 2.0)
            main[[0, -1]] = 1.0
            return diags([main, -np.ones(count - 1), -np.ones(count - 1)], [0, 1, -1]).tocsc()

        flat = (
            kron(diags(np.ones(s.rows)), line(s.columns)) * along
            + kron(line(s.rows), diags(np.ones(s.columns))) / along
        )
        sheets = (0.25 * 1.5e-3, 158.0 * s.plate, 46.0 * 0.5e-3 + 0.6 * 0.8e-3)  # W/K, of heater, plate, sheet
        return csc_matrix(kron(diags(sheets), flat))

    def _contacts(self) -> Any:
        """Heater to plate with spots that let go, plate to sheet with a gap that the warp opens."""
        from scipy.sparse import csc_matrix

        s = self.setting
        bond = 0.75e-3 / 0.25 + 0.2e-3 / 0.2
        spots = [(0.31, -0.22, 0.09), (-0.27, 0.30, 0.07), (-0.05, -0.38, 0.06)]
        loose = sum(np.exp(-(((self.x - x) ** 2 + (self.y - y) ** 2) / size**2)) for x, y, size in spots)
        inner = self.cell / (bond + s.pad_spots * loose * 0.3e-3 / 0.028)
        gap = 0.03e-3 + s.warp * 0.16e-3 * (self.x**2 + self.y**2) / 0.5  # corners stand off
        outer = self.cell / (0.8e-3 / 0.6 + 0.1e-3 / 0.18 + gap / 0.028)
        n = self.count
        links = np.concatenate([inner, outer])
        one, other = np.arange(2 * n), np.arange(n, 3 * n)
        data = np.concatenate([links, links, -links, -links])
        rows, columns = np.concatenate([one, other, one, other]), np.concatenate([one, other, other, one])
        return csc_matrix((data, (rows, columns)), shape=(3 * n, 3 * n))

    def _losses(self) -> tuple[Array, Array]:
        """Conductance of each cell to the room and heat it radiates beyond that, from the state as it is [W/K, W]."""
        s, n = self.setting, self.count
        conductance = np.zeros(3 * n)
        face, heater = self.now[2 * n :], self.now[:n]
        by = np.maximum(face - s.room, 0.5)
        tilt = 1.0 + s.draught * 2.0 * self.x
        rim = 1.0 + 0.5 * np.exp(-(0.5 - np.maximum(np.abs(self.x), np.abs(self.y))) / 0.06)  # more at the rim
        film = 2.05 * by**0.25 * s.films * tilt * rim
        radiated = 0.91 * SIGMA * ((face + KELVIN) ** 4 - (s.room + KELVIN) ** 4) / by
        conductance[2 * n :] = self.cell * (film + radiated)
        under = np.maximum(heater - s.room, 0.5)
        down = 1.05 * under**0.25 * s.films + 0.88 * SIGMA * ((heater + KELVIN) ** 4 - (s.room + KELVIN) ** 4) / under
        r = 0.75e-3 / 0.25 + (s.insulation / s.insulation_conductivity if s.insulation > 0.0 else 0.0)
        conductance[:n] = self.cell / (r + 1.0 / down)
        edge = np.zeros(n)
        edge[(np.abs(self.x) > 0.5 - 0.51 / s.columns)] += 11.0 * (s.plate + 3e-3) * s.depth / s.rows
        edge[(np.abs(self.y) > 0.5 - 0.51 / s.rows)] += 11.0 * (s.plate + 3e-3) * s.width / s.columns
        conductance[n : 2 * n] = edge
        return conductance, conductance * s.room

    def step(self, heats: bool) -> float:
        """One step; returns the heater's watts."""
        from scipy.sparse import csc_matrix, diags
        from scipy.sparse.linalg import splu

        s, n = self.setting, self.count
        self._since += STEP
        if self._since >= RENEWED:
            self._since = 0.0
            self._outside = self._losses()
            matrix = self._sideways + self._between + diags(self.capacity / STEP + self._outside[0])
            self._solve = splu(csc_matrix(matrix)).solve
        if heats:
            self.on = self.read < s.target + (0.5 if self.on else -0.5) * s.hysteresis
        watts = s.heater_w if heats and self.on else 0.0
        given = self.capacity / STEP * self.now + self._outside[1]
        given[:n] += watts * self.heated
        self.now = self._solve(given)
        middle = np.argsort(self.x**2 + self.y**2)[:4]
        true = float(0.2 * self.now[n + middle].mean() + 0.8 * self.now[middle].mean())
        self.read += (true - self.read) * (1.0 - math.exp(-STEP / s.sensor_lag))
        return watts

    @property
    def face(self) -> Array:
        """The sheet's temperature, (rows, columns) [°C]; rows from the front."""
        return self.now[2 * self.count :].reshape(self.setting.rows, self.setting.columns)


def bed_day(setting: BedSetting) -> tuple[list[BedRow], Array]:
    """A log from cold: warm-up, hold, cool-down; and the face late in the hold."""
    bed = VirtualBed(setting)
    rng = np.random.default_rng(setting.seed + 100)
    rows: list[BedRow] = []
    face = bed.face.copy()
    wall = 0.0
    ready: float | None = None
    every = max(round(setting.logged_s / STEP), 1)
    for count in range(round(4.0 * 3600.0 / STEP)):
        time = count * STEP - 60.0 * setting.idle_min
        heats = time >= 0.0 and (ready is None or time < ready + 60.0 * setting.hold_min)
        if ready is not None and time >= ready + 60.0 * (setting.hold_min + setting.cool_min):
            break
        watts = bed.step(heats)
        wall += watts / SUPPLY_SHARE + IDLE_W
        if ready is None and bed.read >= setting.target - 1.0:
            ready = time
        if heats and ready is not None:
            face = bed.face.copy()
        if (count + 1) % every == 0:
            shown = round(bed.read + setting.noise * rng.normal(0.0, 0.05), 1)
            meter = round(wall / every + setting.noise * rng.normal(0.0, 0.6), 1)
            rows.append(BedRow(setting.start_h + (count + 1) * STEP / 3600.0, shown, setting.target if heats else 0.0,
                               meter, round(setting.room + setting.noise * rng.normal(0.0, 0.05), 1)))  # fmt: skip
            wall = 0.0
    return rows, face


def picture(face: Array, room: float, *, emissivity: float = 0.92, noise: float = 0.15, seed: int = 5) -> Array:
    """What a camera above the bed shows: apparent temperatures, (rows, columns), the back of the bed at the top."""
    rows, columns = face.shape
    y = np.clip((np.arange(CAMERA_ROWS) + 0.5) / CAMERA_ROWS * rows - 0.5, 0, rows - 1)
    x = np.clip((np.arange(CAMERA_COLUMNS) + 0.5) / CAMERA_COLUMNS * columns - 0.5, 0, columns - 1)
    low, left = np.minimum(y.astype(int), rows - 2), np.minimum(x.astype(int), columns - 2)
    down, along = (y - low)[:, None], (x - left)[None, :]
    one = face[low][:, left] * (1 - along) + face[low][:, left + 1] * along
    other = face[low + 1][:, left] * (1 - along) + face[low + 1][:, left + 1] * along
    true = one * (1 - down) + other * down
    seen = (emissivity * (true + KELVIN) ** 4 + (1.0 - emissivity) * (room + KELVIN) ** 4) ** 0.25 - KELVIN
    shot = seen + np.random.default_rng(seed).normal(0.0, noise, seen.shape)
    return np.asarray(np.round(shot[::-1], 1))
