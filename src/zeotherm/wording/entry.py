"""The entry line: `fan 9.1 V`, `break bimetal`, `sink base 54.1`, `air -5 K`, `forget sink base`.

What has a time goes there too: `sun 90 W 11:54 to 15:42`, `pause after 90 min for 12 min at 160 °C`, `fan stops
at 12:30`.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any

from zeotherm.core.catalogue.fitting import fitting
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS, Station
from zeotherm.core.choices.faults import lacks
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import Patch, value_at
from zeotherm.core.machine.quantity import Choice, Declared, Quantity, declared
from zeotherm.core.machine.toolheads import turned
from zeotherm.wording.further_lines import FurtherChange, printed_line
from zeotherm.wording.language import _
from zeotherm.wording.numbers import clock, difference_unit, ohms, with_unit
from zeotherm.wording.plain_words import READ, spoken
from zeotherm.wording.supply_lines import supply_line
from zeotherm.wording.toolhead_lines import AboutToolhead, ToolheadChange, toolhead_line
from zeotherm.wording.units import NUMBER, NotANumberError, convert, read_number

METERED = ("heater", "sensor", "bed")
MOST_OHMS = 1e8
MOST_LISTED = 9  # labels in one sentence
PLUS_MINUS = "±"
COLDEST_STANDBY_C = 20.0
CLOCK = r"(\d{1,2}):(\d{2})"
READING_BOUNDS = {"°C": (-50.0, 600.0), "W": (0.0, 600.0), "V": (-5.0, 300.0)}


@dataclass(frozen=True, slots=True)
class SetValue:
    """Put a value at a path of the setup."""

    path: str
    value: float | str
    text: str


@dataclass(frozen=True, slots=True)
class SetSeveral:
    """Put values at several paths, one after the other."""

    values: tuple[SetValue, ...]

    @property
    def text(self) -> str:
        """All of them in words."""
        return "; ".join(one.text for one in self.values)


@dataclass(frozen=True, slots=True)
class PinnedReading:
    """Pin a measured value to a station; None takes it away."""

    station: str
    value: float | None
    tolerance: float | None  # 95 % half-width; None: the usual one
    text: str


@dataclass(frozen=True, slots=True)
class SetupChange:
    """Change the setup by a merge patch: heat from outside, a pause, a fault."""

    patch: Patch
    text: str


@dataclass(frozen=True, slots=True)
class FactAnswer:
    """Tell an answer to a question or a check of the catalogue; None takes all of its answers back."""

    asked: str
    option: str | None
    text: str


@dataclass(frozen=True, slots=True)
class ColdOhms:
    """Ohms of heater, sensor or bed, cold."""

    what: str
    ohms: float
    text: str


@dataclass(frozen=True, slots=True)
class NotKnown:
    """What stands at a path is not known: it is only assumed."""

    path: str
    text: str


@dataclass(frozen=True, slots=True)
class Unclear:
    """What is missing or wrong, and what to do."""

    text: str


@dataclass(frozen=True, slots=True)
class OfToolhead:
    """Something said of a toolhead that is not in front."""

    number: str
    line: str  # what is said of it
    text: str


Understood = (
    SetValue | SetSeveral | PinnedReading | SetupChange | FactAnswer | ColdOhms | NotKnown | ToolheadChange | OfToolhead
    | FurtherChange | Unclear
)  # fmt: skip


Named = Declared | Station


def _vocabulary() -> dict[str, tuple[Named, ...]]:
    """Every name, in lower case, with what bears it: settings before readings, numbers before parts of the shelf."""
    return _words_of(tuple(STATIONS), tuple(declared(Setup)))


@cache
def _words_of(_stations: tuple[str, ...], _settings: tuple[str, ...]) -> dict[str, tuple[Named, ...]]:
    """The same, made anew only when there are others: a part that plugs in brings its own."""
    words: dict[str, tuple[Named, ...]] = {}
    for one in (
        *(station for station in STATIONS.values() if station.readable and not station.further),
        *declared(Setup).values(),
    ):
        for name in dict.fromkeys(name.lower() for name in (one.label, *one.names)):
            words[name] = (one, *words.get(name, ()))
    return words


def names() -> list[str]:
    """All names, for completion."""
    return sorted(_vocabulary())


def complete(text: str) -> str | None:
    """The one name that the typed letters begin, if there is one."""
    typed = text.strip().lower()
    hits = {id(items[0]): name for name, items in sorted(_vocabulary().items(), reverse=True) if name.startswith(typed)}
    return next(iter(hits.values())) if typed and len(hits) == 1 else None


def understand(text: str, setup: Setup, catalogue: Catalogue) -> Understood:
    """What a line means for this setup: part and value, or plain words. Never raises: what is unclear is said in
    `Unclear`."""
    line = " ".join(text.split())
    of_toolhead = toolhead_line(line, setup)
    if of_toolhead is not None:
        return _of_toolhead(of_toolhead, setup, catalogue)
    for about in (supply_line, printed_line):
        further = about(line, setup, catalogue)
        if further is not None:
            return Unclear(further) if isinstance(further, str) else further
    meant = _understood(line, setup, catalogue)
    return _plainly(line, catalogue) or meant if isinstance(meant, Unclear) and line else meant


def _of_toolhead(said: ToolheadChange | AboutToolhead | str, setup: Setup, catalogue: Catalogue) -> Understood:
    """What is meant by a line about toolheads, or about one of them."""
    if isinstance(said, str):
        return Unclear(said)
    if isinstance(said, ToolheadChange):
        return said
    meant = understand(said.line, turned(setup, said.number), catalogue)
    if said.number == setup.toolhead or isinstance(meant, ToolheadChange | OfToolhead):
        return meant
    text = f"{said.number}: {meant.text}"
    return Unclear(text) if isinstance(meant, Unclear) else OfToolhead(said.number, said.line, text)


def _plainly(line: str, catalogue: Catalogue) -> Understood | None:
    """What a line means in plain words; None where not all of it is understood."""
    try:
        said = spoken(line, catalogue)
    except NotANumberError:
        return None
    if not said:
        return None
    single = said[0][0]
    if len(said) == 1 and len(said[0]) == 1 and single[0].startswith(READ):
        read = reading(single[0].removeprefix(READ), str(single[1]))
        return None if isinstance(read, Unclear) else read
    if any(path.startswith(READ) for way in said for path, _value in way):
        return None
    ways = [tuple(_value_of(path, value, catalogue) for path, value in facts) for facts in said]
    if len(ways) > 1:
        told = [_(" or ").join(dict.fromkeys("; ".join(one.text for one in way) for way in ways))]
        return Unclear(_("Two things may be meant: {ways}. Say which.").format(ways=told[0]))
    return ways[0][0] if len(ways[0]) == 1 else SetSeveral(ways[0])


def _value_of(path: str, value: float | str, catalogue: Catalogue) -> SetValue:
    item = declared(Setup)[path]
    if isinstance(item, Choice):
        return SetValue(path, value, f"{item.label}: {catalogue.shelf(item.shelf)[str(value)].label}")
    assert isinstance(value, float | int)
    shown = clock(value) if item.unit == "h" else with_unit(value, item.unit, _places(value))
    return SetValue(path, float(value), f"{item.label}: {shown}")


def _understood(line: str, setup: Setup, catalogue: Catalogue) -> Understood:
    if not line:
        return Unclear(_("Type a part and a value, such as: fan 9.1 V"))
    if line.lower().startswith("forget "):
        return _forget_timed(line[7:], setup) or _forget_fact(line[7:], catalogue) or _forget(line[7:])
    told = _ohms(line) or _fact(line, catalogue) or _timed(line, setup, catalogue)
    if told is not None:
        return told
    unknown = _not_known(line)
    if unknown is not None:
        return unknown
    part = next(_parts_at_start(line), None)
    if part is None:
        return Unclear(_unknown_part(line, catalogue))
    (item, *others), rest = part
    meant = _meant(item, rest, line, setup, catalogue)
    shelf = next((other for other in others if isinstance(other, Choice)), None)
    if isinstance(meant, Unclear) and shelf is not None and rest:  # `sink fan 9 V`, and `sink fan 30 mm axial, 12 V`
        fitted = _meant(shelf, rest, line, setup, catalogue)
        return meant if isinstance(fitted, Unclear) and rest[0] in BEGINS_NUMBER else fitted
    return meant


def _not_known(line: str) -> NotKnown | None:
    """'vents ?', 'vents not known': nobody knows it; None where the line says something else."""
    named = re.sub(r"\s*(\?+|not known|unknown)$", "", line, flags=re.IGNORECASE)
    part = next(_parts_at_start(named), None) if named != line else None
    if part is None or part[1]:
        return None
    item = next((one for one in part[0] if not isinstance(one, Station)), None)
    return NotKnown(item.path, _("{label}: not known").format(label=item.label)) if item is not None else None


def _meant(item: Named, rest: str, line: str, setup: Setup, catalogue: Catalogue) -> Understood:
    """What the rest of a line means for one that the line may name."""
    try:
        if isinstance(item, Choice):
            return _choose(item, rest, fitting(item, setup, catalogue))
        return _measure(item, rest) if isinstance(item, Station) else _set(item, rest, setup)
    except NotANumberError as wrong:
        return Unclear(_near_part(line) or str(wrong))


def _near_part(line: str) -> str:
    """A longer name that the words before the number nearly are, where what follows a shorter one is no number."""
    words = re.split(r"\s(?=[\d+\-\N{MINUS SIGN}.,])", line.lower(), maxsplit=1)[0]
    near = difflib.get_close_matches(words, [name for name in names() if " " in name], n=1, cutoff=0.75)
    if not near or near[0] == words or " " not in words:
        return ""
    return _("No part is called '{words}'. Did you mean {name}?").format(words=words, name=near[0])


def _parts_at_start(line: str) -> Iterator[tuple[tuple[Named, ...], str]]:
    """What the line may begin with, longest name first; then the one that its words abbreviate."""
    lower = line.lower()
    for name in sorted(_vocabulary(), key=len, reverse=True):
        if (
            lower == name
            or lower.startswith(name + " ")
            or (lower.startswith(name) and lower[len(name) : len(name) + 1] in BEGINS_NUMBER)
        ):
            yield _vocabulary()[name], line[len(name) :].strip()
            return
    words = re.split(r"\s(?=[\d+\-\N{MINUS SIGN}.,])", line, maxsplit=1)
    whole = complete(words[0])
    if whole:
        yield _vocabulary()[whole], words[1] if len(words) > 1 else ""


def _unknown_part(line: str, catalogue: Catalogue) -> str:
    words = re.split(r"\s(?=[\d+\-\N{MINUS SIGN}])", line, maxsplit=1)[0]
    if NUMBER.match(words):
        return _("{value} of what? Put the part first, such as: fan {value}").format(value=line)
    facts = [name for asked in catalogue.asked.values() for option in asked.options.values() for name in option.names]
    near = difflib.get_close_matches(words.lower(), [*names(), *facts], n=1, cutoff=0.55)
    begun = [name for name in names() if name.startswith(words.lower())]
    if begun:
        return _("Go on: {names}").format(names=", ".join(begun[:4]))
    hint = _(" Did you mean {name}?").format(name=near[0]) if near else ""
    return _("No part is called '{words}'.").format(words=words) + hint


def _number_and_unit(rest: str) -> tuple[float, str]:
    """Value, and unit as typed."""
    found = NUMBER.match(rest)
    if not found:
        raise NotANumberError(_("'{text}' is no number.").format(text=rest))
    number = found.group().rstrip()
    return read_number(number), rest[found.end() :].strip()


def _set(item: Quantity, rest: str, setup: Setup) -> Understood:
    now = float(value_at(setup, item.path))
    if not rest:
        return Unclear(
            _("{label} is {value}. Type a new value.").format(label=item.label, value=with_unit(now, item.unit))
        )
    if item.unit == "h":
        rest = re.sub(CLOCK, lambda match: f"{int(match.group(1)) + int(match.group(2)) / 60.0:.6f}", rest)
    value, unit = _number_and_unit(rest)
    if unit.lower() == "k" and item.unit == "°C":
        value += now
    else:
        value = convert(value, unit, item.unit)
    if not item.low <= value <= item.high:
        return Unclear(_outside(item.label, value, item.low, item.high, item.unit))
    shown = clock(value) if item.unit == "h" else with_unit(value, item.unit, _places(value))
    return SetValue(item.path, value, f"{item.label}: {shown}")


def _measure(station: Station, rest: str) -> PinnedReading | Unclear:
    if not rest:
        return Unclear(_("{label}: type the reading in {unit}.").format(label=station.label, unit=station.unit))
    figure, doubted, doubt_text = rest.replace("+/-", PLUS_MINUS).replace("+-", PLUS_MINUS).partition(PLUS_MINUS)
    value = convert(*_number_and_unit(figure.strip()), station.unit)
    low, high = READING_BOUNDS[station.unit]
    if not low <= value <= high:
        return Unclear(_outside(station.label, value, low, high, station.unit))
    unit = difference_unit(station.unit)
    tolerance = convert(*_number_and_unit(doubt_text.strip()), unit) if doubted else station.doubt
    if not 0.0 < tolerance <= 50.0:
        return Unclear(_("A doubt goes from above 0 to 50 {unit}.").format(unit=unit))
    places = 3 if station.unit == "V" else None
    shown, doubt = with_unit(value, station.unit, places), with_unit(tolerance, unit, places)
    text = _("{label} measured: {value} ±{doubt}").format(label=station.label, value=shown, doubt=doubt)
    return PinnedReading(station.key, value, tolerance, text)


def _bare(name: str) -> str:
    """A name without what nobody types."""
    return name.lower().replace(",", "").replace("_", " ")


def _choose(item: Choice, rest: str, shelf: dict[str, Any]) -> Understood:
    labels = {key: entry.label for key, entry in shelf.items()}
    wanted = _bare(rest)
    options = _listed(list(labels.values()))
    if not wanted:
        return Unclear(_("{label}: {options}").format(label=item.label, options=options))
    names = {key: (_bare(key), _bare(label)) for key, label in labels.items()}
    exact = [key for key, both in names.items() if wanted in both]
    begun = [key for key, both in names.items() if any(name.startswith(wanted) for name in both)]
    hits = exact or begun
    plain = [key for key in hits if all(labels[other].startswith(labels[key]) for other in hits)]
    hits = plain if len(plain) == 1 else hits  # 'ti' is titanium, not titanium with a thin neck
    if len(hits) > 1:
        told = _("{label} may be: {options}").format(label=item.label, options=_listed([labels[key] for key in hits]))
        return Unclear(told)
    if not hits:
        return Unclear(
            _("{label} has no '{wanted}'. Choose: {options}").format(label=item.label, wanted=rest, options=options)
        )
    return SetValue(item.path, hits[0], f"{item.label}: {labels[hits[0]]}")


def _listed(labels: list[str]) -> str:
    """Labels in a row; of a long shelf the first ones, and how many more there are."""
    if len(labels) <= MOST_LISTED:
        return "; ".join(labels)
    text = _("{options}; and {count} more, on its card")
    return text.format(options="; ".join(labels[:MOST_LISTED]), count=len(labels) - MOST_LISTED)


def _fact(line: str, catalogue: Catalogue) -> FactAnswer | None:
    """An answer by one of its names; one of a check also with the check's own name before it."""
    wanted = line.lower()
    for key, asked in catalogue.asked.items():
        for option, one in asked.options.items():
            label = one.label.lower()
            own = (f"{asked.label.lower()} {label}", f"{key.replace('_', ' ')} {label}")
            if wanted in one.names or wanted in own or (wanted == label and key == "goes_wrong"):
                return FactAnswer(key, option, f"{asked.label.rstrip('?')}: {label}")
    return None


def _forget_fact(rest: str, catalogue: Catalogue) -> FactAnswer | None:
    wanted = rest.lower().strip().rstrip("?")
    for key, asked in catalogue.asked.items():
        if wanted in (key.replace("_", " "), asked.label.lower().rstrip("?")):
            return FactAnswer(key, None, _("{label}: not known").format(label=asked.label.rstrip("?")))
    return None


BEGINS_NUMBER = frozenset("0123456789+-.,\N{MINUS SIGN}")
OHMS = re.compile(r"([\d.,]+) ?([kKmM]?) ?(?i:ohms?|Ω)?")
OHM_SCALES = {"": 1.0, "k": 1e3, "K": 1e3, "m": 1e-3, "M": 1e6}


def _ohms(line: str) -> ColdOhms | Unclear | None:
    what, _space, rest = line.partition(" ")
    if what.lower() not in METERED or not re.search(r"^[\d.,].*(ohms?|Ω)$", rest, re.IGNORECASE):
        return None
    return measured(what.lower(), rest)


def measured(what: str, text: str) -> ColdOhms | Unclear:
    """A meter reading of heater, sensor or bed: '14.2', '104k', '1.1 kohm'. What is unclear is said in `Unclear`."""
    found = OHMS.fullmatch(text.strip())
    if found is None:
        return Unclear(_("'{text}' is no resistance. Type it as 14.2, 104k or 1.1 kohm.").format(text=text))
    value = read_number(found.group(1)) * OHM_SCALES[found.group(2)]
    if value > MOST_OHMS:
        return Unclear(_("A meter shows up to 100 MΩ; more than it can show is open: type 50 Mohm."))
    return ColdOhms(what, value, _("{what}, cold: {value}").format(what=what, value=ohms(value)))


def reading(station: str, text: str) -> PinnedReading | Unclear:
    """A reading at a station from its figure alone: '54.1', '130 F', '54.1 ±0.5'."""
    try:
        meant = _measure(STATIONS[station], " ".join(text.split()))
    except NotANumberError as wrong:
        return Unclear(str(wrong))
    return meant


def _timed(line: str, setup: Setup, catalogue: Catalogue) -> Understood | None:
    """Heat, pauses and faults; None for any other line."""
    heat = re.match(
        rf"^(?:heat )?(.+?) ([\d.,]+) ?w (?:from )?{CLOCK} ?(?:to|-|–) ?{CLOCK}( air)?$", line, re.IGNORECASE
    )
    if heat:
        name, watts, *hours, air = heat.groups()
        begin, end = (int(hours[i]) + int(hours[i + 1]) / 60.0 for i in (0, 2))
        return _heat(name, read_number(watts), begin, end, bool(air))
    pause = re.match(
        r"^pause after ([\d.,]+) ?(?:min)? for ([\d.,]+) ?(?:min)?(?: at ([\d.,]+) ?(?:°?c)?)?$", line, re.IGNORECASE
    )
    if pause:
        after, minutes = (read_number(text) for text in pause.groups()[:2])
        standby = read_number(pause.group(3)) if pause.group(3) else None
        if minutes <= 0.0 or after >= setup.schedule.print_min:
            return Unclear(_("A pause lasts longer than nothing, and comes before the print is over."))
        key = f"pause_{after:g}".replace(".", "_")
        if standby is not None and not COLDEST_STANDBY_C <= standby < setup.printing.nozzle_c:
            return Unclear(
                _("A standby is {coldest:.0f} °C or more, and cooler than the print at {nozzle:g} °C.").format(
                    coldest=COLDEST_STANDBY_C, nozzle=setup.printing.nozzle_c
                )
            )
        told = _("Pause after {after:g} min of printing, for {minutes:g} min")
        if standby is not None:
            told = _("Pause after {after:g} min of printing, for {minutes:g} min, nozzle at {standby:g} °C")
        change: Patch = {"after_min": after, "minutes": minutes, "nozzle_c": standby}
        text = told.format(after=after, minutes=minutes, standby=standby)
        return SetupChange({"schedule": {"pauses": {key: change}}}, text)
    fault = re.match(rf"^(.+?) (?:at {CLOCK}|after ([\d.,]+) ?min)$", line, re.IGNORECASE)
    kinds = {kind.label.lower(): key for key, kind in catalogue.faults.items()}
    kinds |= {key.replace("_", " "): key for key in catalogue.faults}
    if fault and fault.group(1).lower() in kinds:
        return _fault(kinds[fault.group(1).lower()], fault, setup, catalogue)
    return None


def _heat(name: str, watts: float, begin: float, end: float, air: bool) -> Understood:
    if end <= begin or end > 24.0 or watts > 2000.0:
        return Unclear(_("Heat from outside has up to 2000 W, and ends after it begins, on the same day."))
    key = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_") or "heat"
    into = "air" if air else "wall"
    entry: Patch = {"label": name[:1].upper() + name[1:], "watts": watts, "from_h": begin, "to_h": end, "into": into}
    where = _("the case's air") if air else _("the case's wall")
    text = _("{name}: {watts} W into {where}, {begin} to {end}").format(
        name=name[:1].upper() + name[1:], watts=f"{watts:g}", where=where, begin=clock(begin), end=clock(end)
    )
    return SetupChange({"heats": {key: entry}}, text)


def _fault(key: str, match: re.Match[str], setup: Setup, catalogue: Catalogue) -> Understood:
    _name, hours, minutes, after = match.groups()
    if after is None:
        minute = ((int(hours) + int(minutes) / 60.0 - setup.schedule.start_h) % 24.0) * 60.0
    else:
        minute = read_number(after)
    return fault_at(key, minute, setup, catalogue)


NOTHING_TO_SEE = {
    "power": _("The power path is not described, so nothing would be seen of that. Choose a power path first."),
    "case": _("There is no case, so nothing would be seen of that. Choose a case first."),
}


def fault_at(key: str, minute: float, setup: Setup, catalogue: Catalogue) -> Understood:
    """A fault of the catalogue, so many minutes after switching on."""
    kind = catalogue.faults[key]
    lacking = lacks(kind.change, setup, catalogue)
    if lacking:
        return Unclear(NOTHING_TO_SEE[lacking])
    if minute >= setup.schedule.longest_min:
        return Unclear(_("The job is over by then; it starts at {start}.").format(start=clock(setup.schedule.start_h)))
    when = clock(setup.schedule.start_h + minute / 60.0)
    change: Patch = {"label": kind.label, "at_min": round(minute, 2), "change": kind.change}
    return SetupChange({"faults": {key: change}}, _("{label} at {when}").format(label=kind.label, when=when))


def _forget_timed(rest: str, setup: Setup) -> Understood | None:
    """Take heat, a pause or a fault away by its name."""
    wanted = rest.lower().strip()
    heats = {word: key for key, heat in setup.heats.items() for word in (key.replace("_", " "), heat.label.lower())}
    faults = {word: key for key, one in setup.faults.items() for word in (key.replace("_", " "), one.label.lower())}
    if wanted in heats:
        return SetupChange({"heats": {heats[wanted]: None}}, _("Without {label}").format(label=wanted))
    if wanted in faults:
        return SetupChange({"faults": {faults[wanted]: None}}, _("Without {label}").format(label=wanted))
    if wanted in ("pause", "pauses") and setup.schedule.pauses:
        return SetupChange({"schedule": {"pauses": dict.fromkeys(setup.schedule.pauses)}}, _("Without pauses"))
    return None


def _forget(rest: str) -> Understood:
    named = _vocabulary().get(rest.lower(), ())
    item = next((one for one in named if isinstance(one, Station)), None)
    if item is None:
        return Unclear(_("No reading is called '{words}'.").format(words=rest))
    return PinnedReading(item.key, None, None, _("Forget the reading at {label}").format(label=item.label))


def _outside(label: str, value: float, low: float, high: float, unit: str) -> str:
    return _("{label} goes from {low} to {high}; {value} is outside.").format(
        label=label, low=with_unit(low, unit, _places(low)), high=with_unit(high, unit, _places(high)),
        value=with_unit(value, unit, _places(value)),
    )  # fmt: skip


def _places(value: float) -> int:
    """Decimals that show a value as it was typed, three at most."""
    return next((places for places in range(4) if abs(value - round(value, places)) < 1e-9), 3)
