"""Runs and their comparison in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.measuring import Protocol
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.measured import Heard
from zeotherm.core.runs.alignment import AlignedBy, Origin
from zeotherm.core.runs.comparison import REMOVED, ComparedFigure, Comparison
from zeotherm.core.runs.conditions import Compared, Known, Match
from zeotherm.core.runs.estimates import Change, Mean, share_saved
from zeotherm.core.runs.part_program import Program
from zeotherm.wording import numbers
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict

PLACES = {"kWh": 3, "K/min": 2, "min": 1, "%": 0, "W": 0, "°C": 1, "K": 1, "V": 1, "A": 2, "": 2, "1/min": 0}
SHIFTED = {
    AlignedBy.SWITCHED_ON: _("switching on, by {channel}"), AlignedBy.LEVEL: _("{channel} passing {level}"),
    AlignedBy.LIKENESS: _("likeness of {channel}"), AlignedBy.FIRST_ROW: _("the first row"),
    AlignedBy.GIVEN: _("the moment set by hand"),
}  # fmt: skip
NOTES = {
    "power_by_product": _("watts are V × A × power factor"),
    "power_by_counter": _("watts are the slope of the kWh counter"),
    "apparent_only": _("V × A without a power factor are no watts: left out"),
    "power_disagrees": _("the meter's watts and V × A × power factor differ by over 8 %: prove the meter"),
    "out_of_order": _("lines out of order were put in order"),
    "dropouts": _("{count} drop-outs left out"),
    "every": _("no time stamps: a report every {count} s taken"),
    "duty_of": _("duty of {count} counts"),
    "seconds_assumed": _("the time states no unit and is taken as seconds"),
    "epoch": _("times count from 1970, in UTC"),
    "sheet_days": _("times are a spreadsheet's day numbers"),
    "clock_change": _("the clock was changed {count} times"),
    "skipped": _("{count} lines that are no rows were left out"),
    "one_reading_a_row": _("single readings were sorted into one column for each channel"),
}
SURE = {"sure": _("sure"), "likely": _("likely"), "no tone": _("no clear tone")}
FELL, ROSE = _("falls"), _("rises")


def channel(key: str, catalogue: Catalogue) -> str:
    """A channel's name."""
    known = catalogue.channels.get(key)
    if known is not None and known.label:
        return known.label
    return STATIONS[key].label if key in STATIONS else key


def span(seconds: float) -> str:
    """A length of time: '1 h 52 min', '4 min 10 s', '5 min'."""
    whole = round(abs(seconds))
    if whole >= 3600:
        return _("{h} h {m} min").format(h=whole // 3600, m=whole % 3600 // 60)
    if whole < 60:
        return _("{s} s").format(s=whole)
    minutes = _("{m} min").format(m=whole // 60)
    return f"{minutes} {whole % 60} s" if whole % 60 else minutes


def elapsed(seconds: float) -> str:
    """A moment since the common zero: '0:05', '4:10'."""
    minutes = round(seconds / 60.0)
    sign = numbers.MINUS if minutes < 0 else ""
    return f"{sign}{abs(minutes) // 60}:{abs(minutes) % 60:02d}"


def note(code: str) -> str:
    """What was assumed or left out when a file was read."""
    key, _colon, count = code.partition(":")
    return NOTES[key].format(count=count) if key in NOTES else code


def places(unit: str) -> int:
    """Decimals of a unit."""
    return PLACES.get(unit, 2)


def label(row: ComparedFigure, catalogue: Catalogue) -> str:
    """What a figure is: 'Bed to 60 °C', 'Case air over room air'."""
    if row.kind == "outcome":
        return catalogue.conditions[row.channel].label
    about = catalogue.figures[row.kind]
    name = channel(row.channel, catalogue) if row.channel else ""
    target = numbers.with_unit(row.target, "°C", 0) if row.target is not None else ""
    if row.kind == "steady" and row.at is not None:
        return _("{channel} at {time}").format(channel=name, time=elapsed(row.at))
    idle = _("idle removed") if row.other == REMOVED else _("idle included")
    other = channel(row.other, catalogue).lower() if row.other != REMOVED else ""
    text = about.label.format(channel=name, target=target, other=other, idle=idle)
    return (
        f"{text}, {_('to')} {elapsed(row.at)}"
        if row.at is not None and row.kind in ("energy", "cost", "counted")
        else text
    )


def value(mean: Mean | None, row: ComparedFigure, currency: str) -> str:
    """A figure of a kind of run."""
    if mean is None:
        return "–"
    if row.unit == "money":
        return f"{currency}{mean.estimate.value:.3f}"
    return numbers.with_unit(mean.estimate.value, row.unit, places(row.unit))


def banded(mean: Mean | None, row: ComparedFigure, currency: str) -> str:
    """A figure with its own band: '38.2 ± 1.6 °C'."""
    if mean is None:
        return "–"
    decimals = 3 if row.unit == "money" else places(row.unit)
    number = value(mean, row, currency).removesuffix(row.unit if row.unit != "money" else "").strip()
    text = f"{number} ± {numbers.plain(mean.half, decimals)}"
    return text if row.unit == "money" else f"{text} {row.unit}".strip()


def value_band(mean: Mean | None, row: ComparedFigure, currency: str) -> str:
    """The figure with its own band and how many runs stand behind it."""
    if mean is None:
        return _("not in this run")
    runs = _("one run: the usual scatter is taken") if mean.runs == 1 else _("mean of {count} runs").format(
        count=mean.runs
    )  # fmt: skip
    return f"{banded(mean, row, currency)} ({runs})"


def size_and_half(one: Change, row: ComparedFigure, currency: str) -> tuple[str, str, str]:
    """A change, its 95 % half-width, and their unit, as they are shown."""
    decimals = 3 if row.unit == "money" else places(row.unit)
    if round(one.half, decimals) == 0.0:
        decimals += 1
    sign = "" if round(one.value, decimals) == 0.0 else "+" if one.value > 0 else numbers.MINUS
    money = currency if row.unit == "money" else ""
    unit = {"money": "", "%": _("points")}.get(row.unit, numbers.difference_unit(row.unit))
    return f"{sign}{money}{numbers.plain(abs(one.value), decimals)}", numbers.plain(one.half, decimals), unit


def change(one: Change | None, row: ComparedFigure, currency: str) -> str:
    """A change with its band: '−11.2 ± 1.4 K'."""
    if one is None:
        return "–"
    size, half, unit = size_and_half(one, row, currency)
    return f"{size} ± {half} {unit}".strip()


def saving(row: ComparedFigure) -> str:
    """What share an energy or a cost fell or rose by: 'saves 12 ± 3 %'; nothing for other figures."""
    first, last = row.means[0], row.means[-1]
    if row.kind not in ("energy", "cost", "energy_per_kh") or first is None or last is None or first is last:
        return ""
    saved = share_saved(first, last)
    if saved is None:
        return ""
    if abs(saved.value) <= saved.half:
        return _("a saving cannot be told from zero")
    text = _("saves {share} ± {half} %") if saved.value > 0 else _("takes {share} ± {half} % more")
    return text.format(share=numbers.plain(100 * abs(saved.value), 0), half=numbers.plain(100 * saved.half, 0))


def real(one: Change | None) -> str:
    """Whether a change is more than its doubt."""
    if one is None:
        return _("not in both")
    return _("yes") if one.real else _("too close to call")


def lined_up(origins: Mapping[str, Origin], labels: Mapping[str, str], catalogue: Catalogue) -> list[str]:
    """By what runs were lined up, and how far each was moved against the first."""
    found = []
    first = next(iter(origins.values()), None)
    for key, origin in origins.items():
        by = SHIFTED[origin.way].format(
            channel=channel(origin.channel, catalogue).lower() if origin.channel else _("its first row"),
            level=numbers.with_unit(origin.level, "°C", 0),
        )
        text = f"{labels[key]}: {by}"
        if origin.way is not AlignedBy.GIVEN:
            text += f", ±{span(1.96 * origin.doubt)}"
        if first is not None and origin is not first:
            moved = origin.zero - first.zero
            way = _("earlier") if moved > 0 else _("later")
            text += "; " + (_("moved {span} {way}").format(span=span(moved), way=way) if abs(moved) >= 0.5
                            else _("not moved"))  # fmt: skip
        found.append(text)
    return found


def condition_value(known: Known | None, unit: str, kind: str) -> str:
    """One condition of one run."""
    if known is None:
        return "–" if kind == "outcome" else "?"
    if isinstance(known, str):
        return known[:8] if kind == "hash" else known
    decimals = 1 if abs(known - round(known)) > 0.05 else 0
    return numbers.plain(known, decimals)


def condition(one: Compared, catalogue: Catalogue) -> str:
    """One condition over the runs: '17.7 / 18.1 °C', 'not noted'."""
    about = catalogue.conditions[one.key]
    if all(each is None for each in one.values):
        return _("not noted")
    texts = [condition_value(each, about.unit, about.kind) for each in one.values]
    if len(set(texts)) == 1 and len(texts) > 1:
        text = _("{value}, same").format(value=texts[0]) if about.kind in ("text", "hash") else texts[0]
    else:
        text = " / ".join(texts[:4]) + (" ..." if len(texts) > 4 else "")
    return f"{text} {about.unit}".strip()


MATCH = {
    Match.EQUAL: _("equal"), Match.DIFFERS: _("differs"), Match.ON_PURPOSE: _("on purpose"),
    Match.UNKNOWN: _("not known for every run"), Match.OUTCOME: _("what came of it"),
}  # fmt: skip


def matched(comparison: Comparison) -> str:
    """How many conditions are equal: '8 of 9 matched'."""
    known = [one for one in comparison.conditions if one.match not in (Match.ON_PURPOSE, Match.OUTCOME)]
    equal = sum(one.match is Match.EQUAL for one in known)
    return _("{equal} of {all} matched").format(equal=equal, all=len(known))


def verdict(comparison: Comparison | None, catalogue: Catalogue, currency: str) -> Verdict:
    """The change that matters most, and whether the runs were comparable."""
    if comparison is None:
        how = _("Drop a log on the window, or import one: columns are recognised.")
        return Verdict(_("Nothing measured yet"), how, State.UNKNOWN)
    if len(comparison.groups) < 2:
        return _single(comparison, catalogue, currency)
    name = comparison.groups[-1].label
    real = [row for row in comparison.rows if row.change is not None and row.change.real]
    best = next((row for row in real if row.kind == "steady"), real[0] if real else None)
    if best is None or best.change is None:
        headline = _("No change that is real: too close to call")
        return Verdict(headline, _standing(comparison, catalogue), State.UNKNOWN)
    way = FELL if best.change.value < 0 else ROSE
    size = change(best.change, best, currency).lstrip(f"+{numbers.MINUS}")
    part = channel(best.channel, catalogue) if best.channel else label(best, catalogue)
    headline = _("{name}: {part} {way} {size}").format(name=_short(name), part=part.lower(), way=way, size=size)
    headline = headline[:1].upper() + headline[1:]
    doubt = comparison.unequal or not comparison.one_cause or len(comparison.unknown) > 3
    return Verdict(headline, _standing(comparison, catalogue), State.CLOSE if doubt else State.CLEAR)


def _short(name: str) -> str:
    return name if len(name) <= 28 else name[:27].rstrip() + "…"


def _single(comparison: Comparison, catalogue: Catalogue, currency: str) -> Verdict:
    """One kind of run: what it reached."""
    group = comparison.groups[0]
    levels = [row for row in comparison.rows if row.kind == "steady" and row.means[0] is not None]
    parts = [f"{channel(row.channel, catalogue).lower()} {value(row.means[0], row, currency)}" for row in levels[:3]]
    return Verdict(
        _("{name}: one kind of run").format(name=_short(group.label)),
        _("At its end: {parts}. Import the run after the change to compare.").format(parts=", ".join(parts))
        if parts else _("Import the run after the change to compare."),
        State.UNKNOWN,
    )  # fmt: skip


def _standing(comparison: Comparison, catalogue: Catalogue) -> str:
    """Why the change may or may not be laid to one thing."""
    names = [catalogue.conditions[one.key].label.lower() for one in comparison.unequal]
    purpose = [catalogue.conditions[one.key].label.lower() for one in comparison.conditions
               if one.match is Match.ON_PURPOSE]  # fmt: skip
    if names:
        text = _("Unequal: {names}. The change cannot be laid to one thing").format(names=", ".join(names[:3]))
        return text + (_("; compare as if in one room.") if "room air" in names and not comparison.setup.normalise
                       else ".")  # fmt: skip
    if len(purpose) > 1:
        return _("{count} things were changed on purpose ({names}): the change is theirs together.").format(
            count=len(purpose), names=", ".join(purpose)
        )
    unknown = [catalogue.conditions[one.key].label.lower() for one in comparison.unknown]
    told = _("Matched in all that is known; not noted: {names}.").format(names=", ".join(unknown[:4])) if unknown else (
        _("The runs match in everything that was noted.")
    )  # fmt: skip
    if len(purpose) == 1:
        told = _("They differ on purpose in {name}. ").format(name=purpose[0]) + told
    return told


def next_step(comparison: Comparison | None, catalogue: Catalogue) -> str:
    """What to read or note next, so that the comparison stands better."""
    if comparison is None:
        return _("Next: import a run, or choose a guided test.")
    if any(len(group.runs) == 1 for group in comparison.groups) and len(comparison.groups) > 1:
        close = [row for row in comparison.rows if row.change is not None and not row.change.real
                 and abs(row.change.value) > 0.5 * row.change.half]  # fmt: skip
        if close:
            nearest = max(close, key=lambda row: abs(row.change.value) / row.change.half if row.change else 0.0)
            return _("Next: repeat each run once. '{figure}' is nearly clear of its doubt.").format(
                figure=label(nearest, catalogue)
            )
    if comparison.unknown:
        about = catalogue.conditions[comparison.unknown[0].key]
        return _("Next: note {name} of each run. {why}").format(name=about.label.lower(), why=about.why)
    if len(comparison.groups) == 1:
        return _("Next: the same run again after the change, or once more as it is for its scatter.")
    return _("Every run is noted in full.")


def brief(runs: int, pictures: int, readings: int) -> str:
    """The step's answer on the spine."""
    parts = [
        text.format(count=count)
        for count, text in (
            (runs, _("{count} runs") if runs != 1 else _("{count} run")),
            (pictures, _("{count} pictures") if pictures != 1 else _("{count} picture")),
            (readings, _("{count} readings") if readings != 1 else _("{count} reading")),
        )
        if count
    ]
    return ", ".join(parts) or _("Nothing measured yet")


def read_log(labels: Sequence[str], rows: int, ignored: Sequence[str], notes: Sequence[str]) -> str:
    """What was understood of a log."""
    text = _("Read {rows} rows: {labels}.").format(rows=f"{rows:,}".replace(",", " "), labels=", ".join(labels))
    if ignored:
        text += " " + _("Not understood: {columns}.").format(columns=", ".join(ignored))
    if notes:
        text += " " + "; ".join(note(code) for code in notes).capitalize() + "."
    return text


def protocol_text(protocol: Protocol, catalogue: Catalogue) -> str:
    """A guided test as plain text: why, cautions, steps with their holds, what must be equal."""
    lines = [protocol.label, protocol.why, *(catalogue.cautions[one].text for one in protocol.cautions), ""]
    for number, step in enumerate(protocol.steps, start=1):
        hold = f" ({_('hold {span}').format(span=span(60.0 * step.hold_min))})" if step.hold_min else ""
        lines.append(f"{number}. {step.text}{hold}")
    names = ", ".join(catalogue.conditions[one].label.lower() for one in protocol.equal)
    return "\n".join([*lines, "", _("Must be equal in every run: {names}.").format(names=names)]) + "\n"


def heard(found: Heard) -> str:
    """A fan's speed by its sound."""
    speed, doubt = 60.0 * found.hertz / found.blades, 60.0 * found.doubt_hz / found.blades
    text = _("{speed} 1/min by the blade-pass tone of {hertz} Hz, {blades} blades: {sure}").format(
        speed=f"{numbers.plain(round(speed, -1), 0)} ± {max(10, round(doubt, -1)):.0f}",
        hertz=numbers.plain(found.hertz, 0), blades=found.blades, sure=SURE[found.sure],
    )  # fmt: skip
    if found.rival_hz is not None:
        text += "; " + _("another tone at {hertz} Hz could be the fan").format(hertz=numbers.plain(found.rival_hz, 0))
    if found.too_loud:
        text += "; " + _("recorded too loud")
    return text + ". " + _("Sound tells that it turns, not that air comes through.")


def program(found: Program) -> list[str]:
    """What a part program asks for."""
    first, most = found.nozzle_c
    bed_first, bed = found.bed_c
    pulls = found.retractions
    lines = [
        _("Lasts about {span} (±15 %), {layers} layers").format(span=span(found.seconds), layers=found.layers),
        _("Nozzle {first} then {most} °C, bed {bed_first} then {bed} °C").format(
            first=numbers.plain(first, 0), most=numbers.plain(most, 0), bed_first=numbers.plain(bed_first, 0),
            bed=numbers.plain(bed, 0),
        ),
        _("Flow {mean} mm³/s on average, {most} for a twentieth of the time; {volume} cm³ in all").format(
            mean=numbers.plain(found.mean_flow, 1), most=numbers.plain(found.most_flow, 1),
            volume=numbers.plain(found.volume_mm3 / 1000.0, 1),
        ),
        _("{count} retractions of {length} mm, {rate} a minute").format(
            count=pulls.count, length=numbers.plain(pulls.length_mm, 1), rate=numbers.plain(pulls.per_min, 1)
        ),
    ]  # fmt: skip
    if found.fan_from_layer is not None:
        lines.append(_("Part fan from layer {layer}").format(layer=found.fan_from_layer + 1))
    return lines + [_("Passed over: {what}").format(what=one) for one in found.strange]
