"""One cause at a time in a machine that is sound otherwise."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from pydantic import BaseModel, JsonValue, ValidationError

from zeotherm.core.catalogue.knowledge import Cause, World
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.departures import departs, good_of
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import Patch, composed, patch_at, value_at
from zeotherm.core.machine.quantity import declared
from zeotherm.core.parts.whole.run import check

AROUND = ("case", "heats")
AS_FOUND = -1  # stands for the machine as it was found, beside the worlds of the causes
LEAST_PRINT_MIN = 240.0  # a world is run at least this long, so that what comes late can come
DEPARTURE_SEEN, DEPARTURE_BY_CHANCE = 0.85, 0.15  # shares of machines in which a cause's own sign was noted


@dataclass(frozen=True, slots=True)
class Departure:
    """Where the machine found is worse than a sound one."""

    path: str
    value: JsonValue
    text: str


@dataclass(frozen=True)
class Hypothesis:
    """A cause in one of its worlds; setup: the machine in it, none where nothing is simulated."""

    cause: str
    share: float  # of the cause
    setup: Setup | None
    signs: tuple[Departure, ...] = ()  # departures found that this cause would explain


def departures(setup: Setup, catalogue: Catalogue) -> dict[str, Departure]:
    """What of the machine found is worse than sound, by path."""
    found = {}
    bore = catalogue.hotends[setup.hotend.template].bore
    stated = catalogue.air_sources[setup.surroundings.air_from].stated
    for path, rule in catalogue.sound.items():
        if stated and path.split(".")[0] in AROUND:
            continue  # the air is stated: what is around plays no part
        value = value_at(setup, path)
        shown = ", ".join(heat.label for heat in value.values()) if isinstance(value, dict) else value
        if rule.bore in ("any", bore) and departs(shown, good_of(rule, setup, catalogue), rule):
            text = rule.text.format(value=f"{shown:g}" if isinstance(shown, float) else shown)
            found[path] = Departure(path, _plain(value), text)
    return found


def assumed_departures(job: Job, catalogue: Catalogue) -> tuple[str, ...]:
    """Paths of departures of a job's machine that nobody entered: they tell nothing of what goes wrong."""
    off = departures(job.found, catalogue)
    return tuple(path for path in off if path in declared(Setup) and path not in job.known)


def hypotheses(setup: Setup, catalogue: Catalogue, assumed: Collection[str] = ()) -> list[Hypothesis]:
    """Every cause that this machine can have, in each of its worlds; assumed: departures that are signs of nothing,
    since nobody has looked."""
    off = departures(setup, catalogue)
    sound = sound_machine(setup, catalogue, off)
    bore = catalogue.hotends[setup.hotend.template].bore
    found = []
    for key, cause in catalogue.causes.items():
        if cause.bore not in ("any", bore) or not has(cause.needs, setup, catalogue):
            continue
        known = [(world, _world(world, setup, sound, off, catalogue)) for world in _worlds(cause, off)]
        fitting = [(world, made) for world, made in known if made is not None]
        if cause.needs == "case" and catalogue.air_sources[setup.surroundings.air_from].stated:
            fitting = []  # the air is stated: what a case would do to it cannot be computed
        total = sum(world.share for world, _made in fitting)
        kept = dict.fromkeys(path for world in cause.worlds for path in world.keep)
        signs = tuple(off[path] for path in kept if path in off and path not in assumed)
        found += [Hypothesis(key, world.share / total, made, signs) for world, made in fitting]
        if not fitting:
            found.append(Hypothesis(key, 1.0, None, signs))
    return found


def sound_machine(setup: Setup, catalogue: Catalogue, off: dict[str, Departure]) -> Setup:
    """The machine with every departure set right, run long enough for what comes late."""
    change = _long_enough(setup)
    for path in off:
        if path == "heats":
            change = {**change, "heats": dict.fromkeys(setup.heats)}
        else:
            change = composed(change, patch_at(path, good_of(catalogue.sound[path], setup, catalogue)))
    return patched(setup, change)


def as_found(setup: Setup) -> Setup:
    """The machine as it was found, run as long as the worlds are."""
    return patched(setup, _long_enough(setup))


def _long_enough(setup: Setup) -> Patch:
    plan = setup.schedule
    return {
        "faults": dict.fromkeys(setup.faults),
        "schedule": {
            "print_min": max(plan.print_min, LEAST_PRINT_MIN), "cool_min": 0.0, "pauses": dict.fromkeys(plan.pauses),
        },
    }  # fmt: skip


def _worlds(cause: Cause, off: dict[str, Departure]) -> tuple[World, ...]:
    """A cause's worlds; the machine as found is the one where it shows the cause's own sign."""
    for world in cause.worlds:
        if world.keep and world.keep[0] in off:
            return (world.model_copy(update={"share": 1.0, "change": {}, "adds": {}}),)
    return cause.worlds


def _world(world: World, setup: Setup, sound: Setup, off: dict[str, Departure], catalogue: Catalogue) -> Setup | None:
    change: Patch = dict(world.change)
    for path in world.keep:
        if path in off:
            change = composed(patch_at(path, off[path].value), change)
    for path, by in world.adds.items():
        change = composed(change, patch_at(path, float(value_at(sound, path)) + by))
    try:
        made = patched(sound, change)
        check(made, catalogue)
    except (ValidationError, DoesNotFitError, ValueError):
        return None
    return made


def has(what: str, setup: Setup, catalogue: Catalogue) -> bool:
    """Whether a machine may have what a cause or a check needs; case and sun are not known where the air is stated."""
    stated = catalogue.air_sources[setup.surroundings.air_from].stated
    return {
        "": True,
        "case": stated or catalogue.cases[setup.case.part].vent_cm2.value > 0.0,
        "heat": stated or bool(setup.heats),
        "liner": catalogue.hotends[setup.hotend.template].bore == "liner",
    }[what]


def _plain(value: object) -> JsonValue:
    if isinstance(value, dict):
        return {
            key: item.model_dump(mode="json") if isinstance(item, BaseModel) else item for key, item in value.items()
        }
    assert isinstance(value, float | str)
    return value
