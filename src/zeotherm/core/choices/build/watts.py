"""How many watts a hotend wants: seconds to its temperature, and the flow that it holds, against what is stamped on the
cartridge."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue.fitting import fed_volts
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.bands import Band
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.hotend.judge.bands import moved
from zeotherm.core.parts.hotend.judge.capacity import with_ample_heater
from zeotherm.core.parts.hotend.model.inputs import Inputs, resolve
from zeotherm.core.parts.hotend.model.model import solve, with_input
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.parts.power.judge.voltage import power_times
from zeotherm.core.parts.whole.run import heat_up

Array = npt.NDArray[np.float64]
Cancelled = Callable[[], bool]
HELD = ("block_extra", "block_film")  # doubts beside the watts that slow a heat-up; what others do is a fiftieth of it
LEAST_W, MOST_W = 15.0, 120.0  # of the picture
STEPS = 5  # of watts at which a heat-up is marched; between them its inverse runs straight
WITHIN = 0.002  # of the seconds, at which watts count as found
TRIES = 8
MM3 = 1e-9


@dataclass(frozen=True)
class WattsPicture:
    """Two answers over one axis of watts stamped on a cartridge, rated for the volts of this supply."""

    watts: Array  # (points,) [W]
    seconds: Array  # (points,), nominal; infinite where the temperature is not reached [s]
    slowest: Array  # the same at the slow end of the band: least watts, most heat held [s]
    quickest: Array
    flows: Array  # (points,), that the heater holds, by what the nozzle melts too [mm³/s]
    least_flows: Array
    melts: float  # flow that the nozzle melts, whatever the watts [mm³/s]
    rule: float  # what the rule of thumb says [W]
    for_time: float | None  # watts that reach the temperature in the time asked for, surely [W]; none: none do
    for_flow: float | None  # watts that hold the flow asked for, surely [W]; none: the nozzle does not melt it
    volts: float  # that such a cartridge is stamped with


def share_that_arrives(setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None) -> tuple[float, float]:
    """Watts that a cartridge gives over what is stamped on one rated for its supply's volts, and the half-width [-]."""
    resolved = resolve(setup, catalogue, tolerances)
    of_supply = power_times(setup.hotend.heater_rated_v, rated_for(setup, catalogue))
    stamped = setup.hotend.heater_power_w * of_supply
    return resolved.inputs.heater_power / stamped, resolved.doubts["heater_power"] / stamped


def rated_for(setup: Setup, catalogue: Catalogue) -> float:
    """Volts that a cartridge for this machine's supply is stamped with [V]."""
    fed = fed_volts(setup, catalogue)
    return min({one.rated_v for one in catalogue.cartridges.values()}, key=lambda volts: abs(volts - fed))


def heat_up_band(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None, seconds: float, cancelled: Cancelled
) -> Band:
    """95 % band of a heat-up's seconds: each doubt that slows it is marched at its ends and summed in squares; what
    holds heat acts in proportion, so that one end tells both."""
    resolved = resolve(setup, catalogue, tolerances)
    doubts = resolved.doubts

    def moved_by(name: str, sign: float) -> float:
        return heat_up(setup, catalogue, tolerances, _by(name, sign * doubts[name]), cancelled) - seconds

    slower, quicker = moved_by("heater_power", -1.0), -moved_by("heater_power", 1.0)
    held = sum(moved_by(name, 1.0) ** 2 for name in HELD if doubts.get(name, 0.0) > 0.0)
    return Band(math.sqrt(quicker**2 + held), math.sqrt(slower**2 + held))


def _by(name: str, by: float) -> Callable[[Inputs], Inputs]:
    return lambda inputs: moved(inputs, name, by)


def with_watts(setup: Setup, watts: float, catalogue: Catalogue) -> Setup:
    """The machine with a cartridge of so many watts for its supply's volts."""
    return patched(setup, {"hotend": {"heater_power_w": watts, "heater_rated_v": rated_for(setup, catalogue)}})


def watts_for(setup: Setup, catalogue: Catalogue, seconds: float, slower: float, cancelled: Cancelled) -> float | None:
    """Watts stamped on a cartridge whose heat-up, times what the band makes it slower, takes just so long [W]; the
    least of the picture where fewer would do, none where all of it is too few. By secants on one over the
    seconds, which runs nearly straight over the watts."""

    def rate(watts: float) -> float:
        then = heat_up(with_watts(setup, watts, catalogue), catalogue, cancelled=cancelled)
        return 1.0 / (then * slower)

    wish = 1.0 / seconds
    low, high = LEAST_W, MOST_W
    at_low, at_high = rate(low), rate(high)
    if at_high < wish:
        return None
    if at_low >= wish:
        return low
    for _ in range(TRIES):
        watts = low + (wish - at_low) * (high - low) / (at_high - at_low)
        found = rate(watts)
        if abs(found / wish - 1.0) < WITHIN:
            return watts
        if found < wish:
            low, at_low = watts, found
        else:
            high, at_high = watts, found
    return high


def picture(
    setup: Setup, catalogue: Catalogue, solved: Solved, melts: float | None, seconds: float, flow: float,
    band: Band, taken: float, tolerances: dict[str, float] | None = None, cancelled: Cancelled = lambda: False,
) -> WattsPicture:  # fmt: skip
    """The picture of a build; solved: at rest, printing as wanted; melts: flow that its nozzle melts [m³/s]; band and
    taken: of its heat-up with the cartridge that is fitted [s]. Raises CancelledError, DoesNotFitError."""
    arrives, doubt = share_that_arrives(setup, catalogue, tolerances)
    slower = 1.0 + band.up / taken if math.isfinite(taken) and math.isfinite(band.up) else 1.0 + 2.0 * doubt / arrives
    quicker = 1.0 - band.down / taken if math.isfinite(taken) else 1.0 - doubt / arrives
    knots = np.geomspace(LEAST_W, MOST_W, STEPS)
    rates = np.array(
        [1.0 / heat_up(with_watts(setup, float(one), catalogue), catalogue, cancelled=cancelled) for one in knots]
    )
    watts = np.linspace(LEAST_W, MOST_W, 106)
    rate = np.interp(watts, knots, rates)
    with np.errstate(divide="ignore"):
        nominal = np.where(rate > 0.0, 1.0 / rate, math.inf)
    most = melts / MM3 if melts is not None else 0.0
    flows, needs = _needs(solved, cancelled)
    held = np.interp(arrives * watts, needs, flows, left=0.0)
    least = np.interp((arrives - doubt) * watts, needs, flows, left=0.0)
    need = float(np.interp(flow, flows, needs))
    for_flow = need / (arrives - doubt) if flow <= most else None
    return WattsPicture(
        watts, nominal, nominal * slower, nominal * quicker, np.minimum(held, most), np.minimum(least, most), most,
        rule_of_thumb(flow, catalogue), watts_for(setup, catalogue, seconds, slower, cancelled), for_flow,
        rated_for(setup, catalogue),
    )  # fmt: skip


def _needs(solved: Solved, cancelled: Cancelled) -> tuple[Array, Array]:
    """Watts that a nozzle's temperature takes at some flows [mm³/s, W], rising: solved, with a heater that is ample."""
    ample = with_ample_heater(solved)
    given = ample.resolved.inputs
    flows = np.array([0.5, 8.0, 20.0, 40.0, 60.0])
    needs = []
    field = solved.field
    for flow in flows:
        model = ample.model.like(with_input(given, "flow", float(flow) * MM3))
        field = solve(model, field, cancelled)
        needs.append(field.power)
    return flows, np.maximum.accumulate(np.array(needs))


def rule_of_thumb(flow: float, catalogue: Catalogue) -> float:
    """What a bench says without reckoning [W]: so many for any hotend, or so many for each mm³/s."""
    least, by_flow = (catalogue.assumptions[key].figure.value for key in ("watts_any", "watts_by_flow"))
    return max(least, by_flow * flow)
