"""A job over time in words: clock times, durations, events, when feeding stops."""

from __future__ import annotations

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.judgement.standing import Standing
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.course import Course, Event, Failure
from zeotherm.core.parts.hotend.judge.risk import risk_of
from zeotherm.core.runs.series import Difference
from zeotherm.wording import margins as words
from zeotherm.wording import numbers, voltage
from zeotherm.wording.language import _
from zeotherm.wording.numbers import clock

EIGHT_HOURS = 8.0
PHASES = {
    "preheat": _("heating up"), "soak": _("soaking"), "print": _("printing"), "pause": _("paused"),
    "cool": _("cooling down"),
}  # fmt: skip
# What happens, by kind of event. {what} is its subject.
EVENTS = {
    "printing": _("print begins"),
    "off": _("heaters off"),
    "fan_off": _("sink fan off"),
    "fault": _("{what}"),
    "heat_on": _("{what} begins"),
    "heat_off": _("{what} ends"),
    "not_reached": _("still below the set values after an hour"),
    "soak_back": _("cold end peaks at {value}"),
}
# What a plug that froze in the cold end needs at the next start.
PLUGS = {
    "pushes_out": _("a plug of {value} freezes: it usually pushes out hot"),
    "may_stick": _("a plug of {value} freezes: the next start may stick"),
    "clear": _("a plug of {value} freezes: clear it before the next start"),
}
# A limit that is passed, and one that holds again.
PASSED = {
    "feed": _("feed stops"),
    "strand": _("filament buckles at the drive"),
    "sink_base": _("sink base passes softening"),
    "liner_end": _("liner passes its ceiling"),
    "seat": _("liner leaves its seat"),
    "fan_inlet": _("fan air passes the fan's ceiling"),
    "exit_core": _("core leaves half melted"),
}
REGAINED = {
    "liner_end": _("liner back below its ceiling"),
}
ACCUMULATES = {
    "residue": _("jam"), "coupler_gap": _("cavity at the liner"),
    "liner_creep": _("cavity at the liner"),
}  # fmt: skip


def duration(seconds: float) -> str:
    """A length of time: '1 h 52 min', '4 min', '40 s'."""
    if seconds < 90.0:
        return f"{round(seconds)} s"
    minutes = round(seconds / 60.0)
    hours, rest = divmod(minutes, 60)
    if not hours:
        return f"{rest} min"
    return f"{hours} h {rest} min" if rest else f"{hours} h"


def event(one: Event) -> str:
    """An event in words, without its time."""
    if one.kind in ("passed", "regained"):
        table, fallback = (PASSED, _("{what} over")) if one.kind == "passed" else (REGAINED, _("{what} holds again"))
        station = STATIONS.get(one.subject)
        return table.get(one.subject) or fallback.format(what=(station.label if station else one.subject).lower())
    if one.kind == "plug":
        return PLUGS[one.subject].format(value=numbers.with_unit(one.value or 0.0, "mm", 0))
    value = numbers.with_unit(one.value, "°C") if one.value is not None else ""
    return EVENTS[one.kind].format(what=one.subject, value=value)


def span(course: Course, failure: Failure) -> str:
    """When something stops the feed: 'about 13:04 (12:34 to 14:13)'."""
    run = course.run

    def at(time: float | None) -> str:
        return clock(run.clock(time)) if time is not None else ""

    early, likely = at(failure.earliest), at(failure.likely)
    if failure.likely is None:
        return _("not before {early}, if at all").format(early=early)
    if failure.latest is None:
        return _("about {likely} ({early} at the earliest)").format(likely=likely, early=early)
    return _("about {likely} ({early} to {late})").format(likely=likely, early=early, late=at(failure.latest))


def outlook(course: Course, judged: Answer, on: Standing) -> str:
    """The job in one sentence: what is passed when, and when feeding stops; on: what that stands on."""
    passed = [one for one in course.events if one.kind == "passed"]
    told = [one for one in passed if one.subject != "feed"][:1]
    parts = [f"{event(one)} {_('at')} {clock(course.run.clock(one.time))}" for one in told]
    failures = course.failures(judged.bands)
    if failures:
        parts.append(f"{ACCUMULATES[failures[0].key]} {span(course, failures[0])}")
    if judged.wrong:
        return _("{what}.").format(what=voltage.head(judged.wrong[0]))
    over = sorted((one for one in judged.margins if one.room is not None and one.room < 0.0), key=_most_over)
    if not parts and over:
        text = _("{label} {room} at {time}").format(
            label=words.label(over[0]), room=words.room(over[0]), time=clock(course.run.clock(course.worst_time))
        )
        parts.append(text)
    if not parts:
        least = judged.worst
        holds = _("as far as known every limit holds throughout; least room is {label}, {room} at {time}")
        if not on.open:
            holds = _("every limit holds throughout; least room is {label}, {room} at {time}")
        text = holds.format(
            label=words.label(least).lower(), room=words.room(least), time=clock(course.run.clock(course.worst_time))
        )
        parts.append(text)
    sentence = ", ".join(parts)
    likely = "" if on.open else chances(course, judged)  # it hangs on what nobody told
    return f"{sentence[:1].upper()}{sentence[1:]}. {likely}".rstrip()


def chances(course: Course, judged: Answer) -> str:
    """How likely the feed lasts to the end of this print, and for eight hours; nothing before the bands are known."""
    if judged.bands is None or course.run.printing_from is None:
        return ""
    risk, start = risk_of(course, judged.bands), course.run.printing_from
    return _("Chance to finish {this}, to feed for eight hours {eight}.").format(
        this=_likely(1.0 - risk.by(course.run.off - start)), eight=_likely(1.0 - risk.by(EIGHT_HOURS * 3600.0))
    )


def _likely(chance: float) -> str:
    """A chance in per cent, never sure: draws are good to about 2 %."""
    return _("{percent} %").format(percent=numbers.plain(100.0 * min(max(chance, 0.02), 0.98), 0))


def _most_over(margin: Margin) -> float:
    """The margin that is furthest past its limit comes first."""
    assert margin.room is not None
    return margin.room / (margin.clear_from or 1.0)


def enough(answer: Answer, catalogue: Catalogue, on: Standing) -> str:
    """What is enough on its own, smallest change of the strongest lever; or that nothing is; on: what that stands
    on."""
    from zeotherm.core.machine.documents import Setup
    from zeotherm.core.machine.quantity import Choice, declared

    if answer.wrong:
        return ""
    if not any(one.state.bad for one in answer.margins):
        return _("Every limit holds as far as known.") if on.open else _("Every limit holds.")
    for strength in answer.strengths:
        if strength.enough is None:
            continue
        item = declared(Setup)[strength.path]
        if isinstance(item, Choice):
            value = catalogue.shelf(item.shelf)[str(strength.enough)].label.lower()
        else:
            value = numbers.with_unit(float(strength.enough), item.unit)
        return _("Enough on its own: {label} {value}").format(label=item.label.lower(), value=value)
    return _("No single lever is enough.") if answer.strengths else ""


def log_brief(name: str, apart: list[Difference]) -> str:
    """The same where there is little room: means alone."""
    if not apart:
        return _("{name}: nothing in it falls into this job.").format(name=name)
    shown = sorted(apart, key=lambda one: -abs(one.mean))[:3]
    parts = [f"{STATIONS[one.station].label.lower()} {numbers.signed(one.mean, 'K')}" for one in shown]
    return _("{name} less model, on average: {parts}").format(name=name, parts=", ".join(parts))


def log(name: str, apart: list[Difference], course: Course) -> str:
    """How a log stands to the model: 'probes.csv: sink base 0.8 K below the model on average ...'."""
    if not apart:
        return _("{name}: nothing in it falls into this job.").format(name=name)
    shown = sorted(apart, key=lambda one: -abs(one.mean))[:2]
    parts = []
    for one in shown:
        way = _("above") if one.mean >= 0 else _("below")
        most = _("{most} at {time}").format(
            most=numbers.with_unit(abs(one.most), "K"), time=clock(course.run.clock(one.at))
        )
        parts.append(
            _("{label} {mean} {way} the model (at most {most})").format(
                label=STATIONS[one.station].label.lower(),
                mean=numbers.with_unit(abs(one.mean), "K"),
                way=way,
                most=most,
            )
        )
    return f"{name}: {', '.join(parts)}."
