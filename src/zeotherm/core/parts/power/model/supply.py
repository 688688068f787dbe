"""What a supply gives, asks of the wall and loses, as warm and old as it is."""

from __future__ import annotations

import numpy as np

from zeotherm.core.catalogue.power import SupplyKind

THIN_FROM_M, THIN_K = 2000.0, 5.0 / 1000.0  # altitude from which a supply's air counts as warmer, K a metre
BEYOND_K = 5.0  # above its hottest air from which a supply gives nothing: its protection has opened
CONTINUOUS = 0.8  # of an outlet's or strip's rating that may be drawn for hours
HEADROOM = 0.25  # that a supply is chosen with
RATINGS_W = (60.0, 90.0, 120.0, 150.0, 200.0, 240.0, 320.0, 350.0, 400.0, 450.0, 500.0, 600.0, 750.0, 800.0, 1000.0,
             1200.0, 1500.0, 2000.0)  # fmt: skip


def altitude(pressure: float) -> float:
    """Height above the sea by the air's pressure [m]; pressure [Pa]. ICAO standard atmosphere (1993), troposphere.

    >>> round(altitude(70e3))
    3012
    """
    return float(44330.8 * (1.0 - (pressure / 101325.0) ** 0.190263))


def derated(kind: SupplyKind, inlet: float, pressure: float = 101325.0) -> float:
    """Share of its rating that a supply gives at its inlet's temperature [-]; inlet [°C]; pressure [Pa].

    Whole up to `full_to_c`, then straight down to `share_hottest` at `hottest_c`, then nothing: the shape of data
    sheets. In thin air it stands as in air that is warmer by 5 K a kilometre above 2000 m.
    """
    warm = inlet + THIN_K * max(altitude(pressure) - THIN_FROM_M, 0.0)
    points = [kind.full_to_c.value, kind.hottest_c.value, kind.hottest_c.value + BEYOND_K]
    return float(np.interp(warm, points, [1.0, kind.share_hottest.value, 0.0]))


def gives(kind: SupplyKind, rating: float, years: float, inlet: float, pressure: float) -> float:
    """What a supply gives at an inlet, as old as it is [W]; rating [W], inlet [°C], pressure [Pa]."""
    return rating * aged(kind, years) * derated(kind, inlet, pressure)


def aged(kind: SupplyKind, years: float) -> float:
    """Share of its rating that a supply of some years still gives [-]."""
    return float(max(1.0 - kind.yearly.value * years, 0.3))


def inlet_limit(kind: SupplyKind, share: float, pressure: float = 101325.0) -> float:
    """Inlet [°C] up to which a supply gives a share of what it is rated, of its age already taken off.

    Where even cool air gives less, the temperature from which it gives less at all.
    """
    least = kind.share_hottest.value
    thin = THIN_K * max(altitude(pressure) - THIN_FROM_M, 0.0)
    full, hottest = kind.full_to_c.value - thin, kind.hottest_c.value - thin
    if share >= 1.0:
        return full
    if share <= least:
        return hottest
    return float(full + (1.0 - share) / (1.0 - least) * (hottest - full))


def efficiency(kind: SupplyKind, share: float) -> float:
    """Of a supply at a share of its rating [-]; the curve's ends beyond its ends."""
    shares, values = zip(*kind.efficiency, strict=True)
    return float(np.interp(share, shares, values))


def at_wall(kind: SupplyKind, watts: float, rating: float, factor: float = 1.0) -> float:
    """What a supply draws from the wall for what it gives [W], never less lost than idle; factor: on its efficiency."""
    gives = max(watts, 0.0)
    lost = gives / min(factor * efficiency(kind, gives / rating), 1.0) - gives
    return gives + max(lost, kind.idle_w)


def next_rating(watts: float) -> float | None:
    """The next rating that is sold [W]; None: none is."""
    return next((one for one in RATINGS_W if one >= watts), None)
