"""A stand-in for a bed's power path with a clamp meter, a multimeter, a plug-in meter and a thermal camera.

It shares nothing with the model that explains it. It has what the model lacks: a plug of several springs of which one
has let go, so that its poles differ and its current crowds, a shell that the camera sees instead of the contact, a
board that takes heat as it warms, meters that round and carry an offset, a supply with an efficiency of its own.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

STEP = 1.0  # s
COPPER = 1.72e-8


@dataclass(frozen=True)
class PathSetting:
    """How the path is made and how it stands. SI, temperatures in °C."""

    volts: float = 24.0
    bed_w: float = 308.0  # at its rated volts, cold
    rated: float = 24.0
    springs: tuple[float, ...] = (0.046, 0.043, 0.049, 0.150)  # ohms of each contact of the worse pole, side by side
    other_pole: float = 0.0034
    lead_mm2: float = 2.02
    lead_m: float = 2.63
    rest: float = 0.0205  # of the other joints, feed and switch
    others_w: float = 82.0  # beside the bed on the supply
    efficiency: float = 0.872
    room: float = 9.0
    board: float = 24.0
    minutes: float = 12.0  # after switching on, bed at full
    shell: float = 0.94  # share of the contact's rise that the shell shows
    camera_off: float = 0.8  # K
    meter_off: float = 0.0006  # V
    seed: int = 5


@dataclass(frozen=True, slots=True)
class PathReadings:
    """What the instruments show."""

    plug_c: float
    drop_v: float  # across the worse pole of the plug
    amps: float
    bed_v: float
    wall_w: float
    true_milliohm: float  # of that pole, as warm as it is


def survey(setting: PathSetting) -> PathReadings:
    """The plug under load, so long after switching on from cold."""
    noise = np.random.default_rng(setting.seed)
    lead = 2.0 * COPPER * setting.lead_m / (1e-6 * setting.lead_mm2)
    bed = setting.rated**2 / setting.bed_w
    contact, board, bed_warm, amps, pole = setting.room, setting.board, 0.0, 0.0, 0.0
    for n in range(int(60.0 * setting.minutes / STEP)):
        pole = _side_by_side(setting.springs, contact)
        loop = lead * (1.0 + 0.0039 * 8.0) + setting.rest + pole + setting.other_pole
        amps = setting.volts / (bed * (1.0 + 0.0002 * bed_warm) + loop)
        made = amps**2 * pole
        rise = contact - setting.room
        to_air = 0.0135 * rise * max(rise, 1.0) ** 0.08
        to_wire = 0.0125 * (contact - setting.room - 0.035 * amps**2)
        to_board = 0.016 * (contact - board)
        contact += STEP * (made - to_air - to_wire - to_board) / 4.6
        board += STEP * (to_board - 0.045 * (board - setting.board)) / 60.0
        bed_warm = 65.0 * (1.0 - math.exp(-n * STEP / 500.0))
    shown = setting.room + setting.shell * (contact - setting.room) + setting.camera_off
    bed_v = amps * bed * (1.0 + 0.0002 * bed_warm)
    wall = (setting.volts * amps + setting.others_w) / setting.efficiency
    return PathReadings(
        plug_c=round(shown + float(noise.normal(0.0, 0.4)), 1),
        drop_v=round(amps * pole + setting.meter_off + float(noise.normal(0.0, 0.0004)), 3),
        amps=round(amps * (1.0 + float(noise.normal(0.0, 0.008))), 1),
        bed_v=round(bed_v + float(noise.normal(0.0, 0.02)), 2),
        wall_w=round(wall * (1.0 + float(noise.normal(0.0, 0.004)))),
        true_milliohm=1e3 * pole,
    )


def plug_picture(setting: PathSetting, *, emissivity: float = 0.93) -> np.ndarray:
    """What a camera shows of the board's edge under that load: apparent temperatures, (rows, columns) [°C].

    The plug's shell stands in the middle; its wire leaves to the right and cools along its length.
    """
    read = survey(setting)
    rows, columns = np.mgrid[0:48, 0:64]
    warm = read.plug_c - setting.camera_off - setting.board
    across = np.abs(rows - 24.0)
    shell = (np.abs(columns - 24) < 6) & (across < 5)
    wire = (columns >= 30) & (across < 2)
    true = setting.board + 0.25 * warm * np.exp(-np.hypot(rows - 24.0, columns - 24.0) / 9.0)
    true = np.where(wire, setting.board + 0.8 * warm * np.exp(-(columns - 30) / 22.0), true)
    true = np.where(shell, setting.board + warm * (1.0 - 0.004 * np.hypot(rows - 24.0, columns - 24.0)), true)
    kelvin = 273.15
    seen = (emissivity * (true + kelvin) ** 4 + (1.0 - emissivity) * (setting.room + kelvin) ** 4) ** 0.25 - kelvin
    return np.asarray(np.round(seen + np.random.default_rng(setting.seed).normal(0.0, 0.15, seen.shape), 1))


def _side_by_side(springs: tuple[float, ...], warm: float) -> float:
    """Of contacts side by side, each grown with its warmth [Ω]."""
    grown = [ohms * (1.0 + 0.0029 * (warm - 20.0)) for ohms in springs]
    return 1.0 / sum(1.0 / one for one in grown)
