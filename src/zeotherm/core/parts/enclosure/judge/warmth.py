"""How warm the air at the print may be: until a filament's cold end creeps on this machine, and as it wants it."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue, shipped
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import first_answer, with_bands
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.whole.around import resolve_around
from zeotherm.core.parts.whole.network import AIR, BOARD, CARRIAGE, MOTOR, ROOF
from zeotherm.core.parts.whole.run import History, simulate
from zeotherm.core.solver.axisymmetric import CancelledError, NotConvergedError

LIMITS = ("feed",)  # of the cold end
LEAST_C, MOST_C = -10.0, 150.0  # of the air that is tried
WITHIN_K = 0.25
FINENESS = 0.5  # of the hotend's grid, as in the machine's hours
SLOPE_K = 2.0  # over which the room's fall is taken
Cancelled = Callable[[], bool]


@dataclass(frozen=True, slots=True)
class Warmth:
    """One filament in a case."""

    filament: str
    nozzle: float  # °C
    wants: tuple[Figure, Figure]  # air at the print, from and to
    creeps_from: float | None  # air from which its cold end creeps [°C]; None: from none that was tried
    band: float  # 95 % half-width of that [K]
    air: float  # as the case stands [°C]

    @property
    def holds(self) -> bool:
        """Whether its cold end holds in the case as it stands."""
        return self.creeps_from is None or self.air < self.creeps_from

    @property
    def surely(self) -> bool:
        """Whether the band leaves no doubt of that."""
        return self.creeps_from is None or abs(self.air - self.creeps_from) > self.band

    @property
    def warm_enough(self) -> bool:
        """Whether the case is as warm as the filament wants it."""
        return self.air >= self.wants[0].value

    @property
    def possible(self) -> bool:
        """Whether any air suits both the print and the cold end."""
        return self.creeps_from is None or self.creeps_from > self.wants[0].value


def airs_of(setup: Setup, run: History) -> Callable[[float], HotendAir]:
    """What the hotend stands in late in a print, by the air at the print [°C]: with it go roof, carriage, motor and
    board; bed and room stay. Its fan draws by the setup's own surroundings, which may be others than the run's."""
    time = max(run.off - 1.0, 0.0)
    network, bodies = run.at(time)[1].system.network, run.bodies(time)
    if setup.surroundings != run.setup.surroundings:
        network = replace(network, around=resolve_around(setup, run.catalogue).around)
    room = network.around.room(run.clock(time))
    stated = network.around.stated

    def at(air: float) -> HotendAir:
        if stated is not None:
            by = air - stated.fan
            return HotendAir(air, stated.block + by, stated.mount + by)
        moved = bodies.copy()
        moved[[AIR, ROOF, CARRIAGE, MOTOR, BOARD]] += air - float(bodies[AIR])
        return network.air_at(moved, room)

    return at


def air_late(run: History) -> float:
    """The air at the print late in it, by which `airs_of` tells what a hotend stands in [°C]."""
    stated = run.around.around.stated
    return stated.fan if stated is not None else float(run.bodies(max(run.off - 1.0, 0.0))[AIR])


def airs_late(setup: Setup, run: History) -> HotendAir:
    """What the hotend stands in late in a print, as the machine stands."""
    return airs_of(setup, run)(air_late(run))


def compared(setup: Setup, catalogue: Catalogue, besides: Collection[str] = ()) -> list[str]:
    """Filaments that a machine is compared by: its own first, then by where they soften."""
    own, every = setup.printing.filament, catalogue.filaments
    keys = [key for key, one in every.items()
            if key == own or one.compared or key in besides or key not in shipped().filaments]  # fmt: skip
    return sorted(keys, key=lambda one: (one != own, every[one].softening_c.value))


def printing(setup: Setup, filament: str, catalogue: Catalogue) -> Setup:
    """The machine with another filament in it, at that one's usual nozzle temperature; its own as it is set."""
    if filament == setup.printing.filament:
        return setup
    nozzle = catalogue.filaments[filament].nozzle_c.value
    return patched(setup, {"printing": {"filament": filament, "nozzle_c": nozzle}})


def warmths(
    setup: Setup,
    catalogue: Catalogue,
    run: History,
    air: float,
    tolerances: dict[str, float] | None = None,
    cancelled: Cancelled = lambda: False,
    *,
    own_only: bool = False,
) -> list[Warmth]:
    """The filaments that are compared, in a case whose air at the print is so warm [°C]: the one on the machine first,
    or that alone, then the usual ones and the shop's own.

    The hotend is solved at rest in air ever warmer until the softened front reaches the cold zone. A filament whose
    nozzle the heater does not reach is left out. Raises CancelledError.
    """
    own, found = setup.printing.filament, []
    for key in [own] if own_only else compared(setup, catalogue):
        one, trial = catalogue.filaments[key], printing(setup, key, catalogue)
        nozzle = trial.printing.nozzle_c
        try:
            limit, band = creeps_from(trial, catalogue, airs_of(setup, run), tolerances, cancelled)
        except (DoesNotFitError, NotConvergedError):
            continue
        found.append(Warmth(key, nozzle, (one.air_low_c, one.air_high_c), limit, band, air))
    return found


def on_machine(job: Job, catalogue: Catalogue, plastic: str, cancelled: Cancelled = lambda: False) -> Warmth | None:
    """A plastic on a machine as it stands, its hours run with what it prints now; catalogue: the shipped one.

    None where the plastic is not known there, its nozzle is not reached, or nothing can be said of the machine. Raises
    CancelledError.
    """
    own, setup = catalogue.with_own(job.catalogue), job.setup()
    if plastic not in own.filaments:
        return None
    nozzle = setup.printing.nozzle_c if plastic == setup.printing.filament else own.filaments[plastic].nozzle_c.value
    try:
        run = simulate(setup, own, job.tolerances, cancelled=cancelled)
        trial = patched(setup, {"printing": {"filament": plastic, "nozzle_c": nozzle}})
        found = warmths(trial, own, run, air_late(run), job.tolerances, cancelled, own_only=True)
    except (DoesNotFitError, NotConvergedError):
        return None
    return found[0] if found else None


def creeps_from(
    setup: Setup, catalogue: Catalogue, airs: Callable[[float], HotendAir], tolerances: dict[str, float] | None,
    cancelled: Cancelled,
) -> tuple[float | None, float]:  # fmt: skip
    """The air from which a filament's cold end creeps, by what the hotend stands in there [°C], and its 95 % half-width
    [K]; none: from none that was tried; the coolest that was tried: in any. Raises CancelledError, DoesNotFitError,
    NotConvergedError: its nozzle is not reached."""
    last: Answer | None = None

    def at(air: float) -> Answer:
        nonlocal last
        if cancelled():
            raise CancelledError
        last = first_answer(setup, catalogue, tolerances, last, cancelled, air=airs(air), fineness=FINENESS)
        return last

    def room(answer: Answer) -> float:
        rooms = [one.room for one in answer.margins if one.key in LIMITS and one.room is not None]
        return min(rooms, default=1.0)

    low, high = LEAST_C, MOST_C
    if room(at(high)) >= 0.0:
        return None, 0.0
    if room(at(low)) < 0.0:
        return low, 0.0
    while high - low > WITHIN_K:
        middle = 0.5 * (low + high)
        low, high = (middle, high) if room(at(middle)) >= 0.0 else (low, middle)
    answer = with_bands(at(low), cancelled)  # by the side on which the front moves steadily: beyond it leaps
    fall = (room(answer) - room(at(low + SLOPE_K))) / SLOPE_K
    bands = answer.bands
    assert bands is not None
    worst = min((one.room, one.key) for one in answer.margins if one.key in LIMITS and one.room is not None)
    return 0.5 * (low + high), bands.rooms[worst[1]].up / max(fall, 1e-3)
