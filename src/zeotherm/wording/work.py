"""Words for the work: what to do now, why a step is held, what a repair has to show."""

from __future__ import annotations

import math
from collections.abc import Mapping

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.procedures import Gate, Record, Step
from zeotherm.core.guard.heat import Cap, PrintWindow, Target
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.doing import Doing
from zeotherm.core.work.gates import SAID, GateState, Span, Why
from zeotherm.core.work.holding import Said
from zeotherm.core.work.planning import PROOF, Order, OrderLine, settled
from zeotherm.core.work.proving import Proof
from zeotherm.core.work.waits import touch_limit
from zeotherm.wording import numbers
from zeotherm.wording.language import _, begun
from zeotherm.wording.verdict import Verdict

USUAL_DROP_K = 20.0  # by which a nozzle is lowered after the first layers, at most
WAYS = {"probe": _("contact probe"), "console": _("own sensor"), "camera": _("camera")}
SOURCES = {
    "told": _("as told with the order"), "run": _("by the run that stopped"), "model": _("by the model"),
    "print": _("no failure is known: a whole print"),
}  # fmt: skip
HELD = {
    Why.COMPUTING: _("The wait is being computed."),
    Why.NO_READING: _("Hold a contact probe on the metal and type what it shows: the forecast alone opens nothing."),
    Why.STALE: _("The last reading is too old to speak for now: read again."),
    Why.HOT: _("Still too hot to touch. Keep hands and tools off."),
    Why.COLD: _("Not warm enough yet."),
    Why.OVER_CAP: _("Over what the weakest part stands: turn it down now."),
    Why.CAMERA: _("A camera sees bare metal as cold. Only a contact probe counts here."),
    Why.TOO_LOW: _(
        "Lower than it can be by now: press the probe onto bare metal, or say for how long the heat was off."
    ),
    Why.TOO_HIGH: _("Hotter than it was with the heat off: is the heater still on? Pull the plug and find out."),
    Why.IMPOSSIBLE: _("No probe shows that. Look at the probe and its unit."),
    Why.NOT_BEGUN: _("The time has not begun to run."),
    Why.TIME: _("The time is not over."),
    Why.CLOCK: _("The computer's clock stands before the last entry: it was set back. Begin the wait anew."),
}


def span(seconds: float) -> str:
    """A wait in minutes and seconds, or in hours: '4:15'.

    >>> span(255.0), span(7500.0)
    ('4:15', '2 h 05 min')
    """
    whole = round(seconds)
    if whole >= 3600:
        minutes = round(seconds / 60.0)
        return f"{minutes // 60} h {minutes % 60:02d} min"
    return f"{whole // 60}:{whole % 60:02d}"


def clock_set(by: float) -> str:
    """The computer's clock was set while a wait runs; by: seconds, negative for back."""
    told = _("The computer's clock was set back by {time}: the wait goes on by its own count.") if by < 0.0 else (
        _("The computer's clock was set ahead by {time}: the wait goes on by its own count.")
    )  # fmt: skip
    return told.format(time=span(abs(by)))


def between(left: Span) -> str:
    """A wait with its band."""
    early, likely, late = left
    if late - early < 2.0:
        return span(likely)
    return _("{likely} ({early} to {late})").format(likely=span(likely), early=span(early), late=span(late))


def minutes(value: float) -> str:
    """A length of work: '35 min', '2 h 10 min'."""
    whole = round(value)
    return f"{whole} min" if whole < 60 else f"{whole // 60} h {whole % 60:02d} min"


def out_of_bounds(record: Record, value: float) -> str:
    """A value that cannot be."""
    unit = f" {record.unit}" if record.unit else ""
    if record.low == record.high:
        return _("{label}: {value:g}{unit} must be {low:g}. The step stays open until it is.").format(
            label=record.label, value=value, unit=unit, low=record.low
        )
    return _("{label}: {value:g}{unit} is outside {low:g} to {high:g}{unit}. Look again.").format(
        label=record.label, value=value, unit=unit, low=record.low, high=record.high
    )


def held(state: GateState) -> str:
    """Why a gate is held, in one line."""
    if state.why is Why.TICK:
        return _("Confirm first: {what}.").format(what=state.gate.text.rstrip("."))
    if state.left is not None and state.why in (Why.TIME, Why.HOT):
        return f"{HELD[state.why]} {_('About {left} to go.').format(left=between(state.left))}"
    return HELD.get(state.why, "")


def doubted(said: Said) -> str:
    """Why a reading does not count; nothing where it does."""
    return HELD[SAID[said]] if said in SAID else ""


def short_held(state: GateState) -> str:
    """The same for a button."""
    if state.left is not None and state.why in (Why.TIME, Why.HOT, Why.COLD, Why.NO_READING) and state.left[1] > 0.5:
        return _("Held, {left} to go").format(left=span(state.left[1]))
    return {Why.TICK: _("Held: confirm first"), Why.COMPUTING: _("Held: computing")}.get(
        state.why, _("Held: read a probe")
    )


def proof_too_short(ran: float, asked: Proof) -> str:
    """A proof run that proves nothing yet."""
    return _("{ran} is short of the {asked} that this repair has to show: it is not proved yet.").format(
        ran=minutes(ran), asked=minutes(asked.minutes)
    )


def proof(asked: Proof) -> str:
    """How long the proof run must be, and why."""
    if asked.failed_after is None:
        return _("{asked}: {source}").format(asked=minutes(asked.minutes), source=SOURCES[asked.source])
    return _("{asked}: half as long again as the {old} to the old failure, {source}").format(
        asked=minutes(asked.minutes), old=minutes(asked.failed_after), source=SOURCES[asked.source]
    )


def text(line: OrderLine, catalogue: Catalogue) -> str:
    """What to do, and what of the machine is off or loose while it is done."""
    kinds = catalogue.states
    stands = [
        f"{kinds[name].label} {kinds[name].values[value]}"
        for name, _dot, value in (one.partition(".") for one in line.stands)
    ]
    if not stands:
        return line.step.text
    return line.step.text + " " + _("As it stands: {parts}.").format(parts=", ".join(stands))


def retraction(distance_mm: float, room_k: float) -> str:
    """What the feed says of a retraction as it is set."""
    text = _("feed at {mm}: {room} room") if room_k >= 0.0 else _("feed at {mm}: {room} short")
    return text.format(mm=numbers.with_unit(distance_mm, "mm", 1), room=numbers.with_unit(abs(room_k), "K", 0))


def prime(drawn_mm: float, line_mm: float, most_mm: float) -> str:
    """How far the end of a program draws back, by how much its prime line grows, and where the gear would lose it."""
    told = _("at least {drawn:.0f}; prime line longer by {line:.0f} mm (0.5 x 0.2 mm)").format(
        drawn=drawn_mm, line=round(line_mm, -1)
    )
    if not math.isfinite(most_mm):
        return told
    if drawn_mm > most_mm:
        return _("{drawn:.0f} would leave the drive gear (about {most:.0f} at most): unload by hand instead").format(
            drawn=drawn_mm, most=most_mm
        )
    return told + "; " + _("over {most:.0f} it leaves the drive gear").format(most=most_mm)


def too_far_over(record: Record, value: float, most: float) -> str:
    """A value that may be over another by so much only."""
    return _("{label}: {value:g} {unit} is over the {most:g} {unit} that it may have. Find the fault first.").format(
        label=record.label, value=value, unit=record.unit, most=round(most, 3)
    )


def over_cap(record: Record, value: float, cap: Cap) -> str:
    """A nozzle temperature that a fitted part does not stand."""
    return _("{label} {value:g} °C: the {part} stands {most:.0f} °C ({source}). Stay below that.").format(
        label=record.label, value=value, part=_part(cap), most=cap.value, source=cap.source
    )


def target(aim: Target, step: Step, catalogue: Catalogue) -> str:
    """How hot, and what that comes from."""
    return heat(aim, step.heat, catalogue)


def heat(aim: Target, key: str, catalogue: Catalogue) -> str:
    """A temperature by its rule, and what that comes from."""
    rule = catalogue.heat_rules[key]
    told = _("{value:.0f} °C {label}").format(value=aim.value, label=rule.label)
    if aim.cap is not None:
        how = _("; held down by the {part}, which stands {most:.0f} °C ({source})") if aim.capped else (
            _("; the weakest part, {part}, stands {most:.0f} °C ({source})")
        )  # fmt: skip
        told += how.format(part=_part(aim.cap), most=aim.cap.value, source=aim.cap.source)
    if aim.assumed:
        told += _("; what ran before is not known, so {plastic} is assumed").format(plastic=aim.assumed)
    return told + "."


def _part(cap: Cap) -> str:
    return begun(cap.part)


def reach(goal: float, sources: Mapping[str, Span | None], catalogue: Catalogue) -> str:
    """How long each source of heat takes a part to a temperature, or that it does not get there."""
    ways = []
    for key, span_of in sources.items():
        label = catalogue.heat_sources[key].label
        ways.append(f"{label} {between(span_of)}" if span_of is not None else _("{label} never").format(label=label))
    return _("Metal to {goal:.0f} °C: {ways}.").format(goal=goal, ways=", ".join(ways))


def bar(line: OrderLine, catalogue: Catalogue) -> str:
    """Why a step is not offered."""
    if line.bar == "cap" and line.target is not None and line.target.cap is not None:
        return _("Not offered: it takes {least:.0f} °C, and the {part} stands {most:.0f} °C ({source}).").format(
            least=line.target.least,
            part=_part(line.target.cap),
            most=line.target.cap.value,
            source=line.target.cap.source,
        )
    return _("Not offered: {why}").format(why=line.bar_text)


def choice(key: str, doing: Doing, catalogue: Catalogue, *, why: bool = True) -> str:
    """What was settled; why: with the reason."""
    about = catalogue.choices[key]
    label, reason = about.options[settled(key, doing, catalogue)]
    return f"{about.label}: {label} ({reason})" if why else f"{about.label}: {label}"


def touch_source(catalogue: Catalogue, surface: str = "metal", seconds: float = 600.0) -> str:
    """What a touch limit stands for, and where it comes from."""
    about = catalogue.touch[surface]
    return _("{surface}, in contact for {time}; {source}").format(
        surface=about.label, time=minutes(seconds / 60.0), source=about.source
    )


def headline(order: Order, doing: Doing) -> str:
    """Where the order stands, for the spine."""
    if doing.written is None:
        return _("After the choice")
    if order.stuck and order.now is None:
        return _("Cannot go on")
    if order.now is None:
        return _("{count} re-checks failed").format(count=len(order.failed)) if order.failed else _("All done")
    return _("Step {number} of {count}").format(number=order.number, count=len(order.steps))


def standing(order: Order, doing: Doing) -> State:
    """What the spine's shape says of the work: open until it is done and proved."""
    if doing.written is None or order.now is not None:
        return State.UNKNOWN
    return State.OVER if order.failed or order.stuck else State.CLEAR


def verdict(order: Order, doing: Doing, states: list[GateState], catalogue: Catalogue) -> Verdict:
    """What to do now."""
    now = order.now
    if doing.written is None:
        if order.lines:
            told = _("{count} steps, about {time}. Look them over, settle what is open, then write the order.")
            told = told.format(count=len(order.steps), time=minutes(order.minutes_left))
            return Verdict(_("What is to be done"), told, State.UNKNOWN)
        return Verdict(
            _("Nothing is ordered yet"), _("Take options on Choose, or put a procedure on the order below."),
            State.UNKNOWN,
        )  # fmt: skip
    if now is None and order.stuck:
        barred = next(line for line in order.lines if line.status == "barred" and line.key.startswith("to/"))
        return Verdict(_("This order cannot go on"), bar(barred, catalogue), State.OVER)
    if now is None:
        if order.failed:
            why = "; ".join(line.step.label.lower() for line in order.failed)
            return Verdict(_("Done, but not mended"), _("Failed: {why}.").format(why=why), State.OVER)
        return Verdict(_("The work is done and proved"), _("Every re-check passed."), State.CLEAR)
    text = _("Step {number} of {count}: {label}").format(
        number=order.number, count=len(order.steps), label=begun(now.step.label)
    )
    closed = [state for state in states if not state.open]
    if not closed:
        return Verdict(text, _("Go by the text below, then say how it ended."), State.CLEAR)
    first = next((state for state in closed if state.why is not Why.TICK), closed[0])
    worst = State.OVER if first.why in (Why.HOT, Why.TOO_HIGH, Why.OVER_CAP) else State.CLOSE
    return Verdict(text, held(first), worst)


def window(found: PrintWindow, now: float) -> str:
    """Between which temperatures a nozzle does it all: melt evenly, leave the neck stiff, spare its parts."""
    if found.none and found.high == found.stiff and found.stiff < now - USUAL_DROP_K:
        return _("mend the cold end first: by temperature alone it would take {high:.0f} (estimate)").format(
            high=found.high
        )
    if found.none:
        return _("none does both: {low:.0f} to melt evenly, {high:.0f} at most (estimate)").format(
            low=found.low, high=found.high
        )
    told = _("{low:.0f} to {high:.0f} at this flow (estimate)").format(low=found.low, high=found.high)
    return told + (_("; the {part} ends it").format(part=_part(found.cap)) if found.cap is not None else "")


def power_line(order: Order) -> str:
    """Whether the plug is in, and which step changes it: never left to memory."""
    out = order.state.get("power") == "out"
    ahead = [line for line in order.lines if line.status in ("now", "ahead")]
    wanted = "to/power.in" if out else "to/power.out"
    steps = order.steps
    at = next((steps.index(line) + 1 for line in ahead if line.key == wanted), None)
    told = _("Mains plug is out and tagged.") if out else _("Mains plug is in.")
    if order.strays:
        told = _("{count} steps of an earlier order stand in the record.").format(count=len(order.strays)) + " " + told
    if at is None:
        return told
    return told + " " + (_("Step {at} puts it back.") if out else _("Step {at} pulls it.")).format(at=at)


def part(line: OrderLine) -> str:
    """What a step belongs to: a procedure, the checks after it, or what leads from one to the next."""
    if line.key.startswith("check/") or (line.key.startswith("to/") and not line.work):
        return _("Put right again and checked")
    return line.work


def wait_rule(gate: Gate, catalogue: Catalogue) -> str:
    """A wait, as it stands on paper."""
    if gate.kind == "cool":
        limit = touch_limit(catalogue, gate.surface, gate.contact_s)
        return _("Wait {text}: {limit:.0f} °C or less on a contact probe ({source}).").format(
            text=gate.text, limit=limit, source=touch_source(catalogue, gate.surface, gate.contact_s)
        )
    if gate.kind == "reach":
        return _("Wait {text}.").format(text=gate.text)
    return _("Hold {text}.").format(text=gate.text)


def done(doing: Doing, catalogue: Catalogue) -> list[tuple[str, str]]:
    """The work for the report: what was done, what was checked, what was left out and why, the proof."""
    if not doing.done:
        return []
    works = [catalogue.procedures[key].label for key in doing.procedures if key in catalogue.procedures]
    passed: list[str] = []
    failed: list[str] = []
    ran = ""
    for one in doing.done:
        kind, _slash, key = one.step.partition("/")
        check = catalogue.rechecks.get(key) if kind == "check" else None
        if check is None:
            continue
        fails = next((way.fails for way in check.exits if way.key == one.exit), False)
        (failed if fails else passed).append(check.label.lower())
        if one.step == PROOF and isinstance(value := one.values.get("minutes"), float | int):
            ran = _("ran {time}, {how}").format(time=minutes(value), how=_("failed again") if fails else _("no stop"))
    told = [(_("Done"), f"{', '.join(works)}, {doing.done[0].begun[:10]} – {doing.done[-1].ended[:10]}")]
    told += [(_("Passed"), ", ".join(dict.fromkeys(passed)))] if passed else []
    told += [(_("Failed"), ", ".join(dict.fromkeys(failed)))] if failed else []
    told += [(_("Left out"), "; ".join(f"{catalogue.rechecks[key].label.lower()} ({why})" for key, why in
             doing.left_out.items() if key in catalogue.rechecks))] if doing.left_out else []  # fmt: skip
    return told + ([(_("Proof run"), ran)] if ran else [(_("Proof run"), _("not yet"))])


def ended(line: OrderLine) -> str:
    """How a step that is behind ended: its exit, and what was noted."""
    if line.done is None:
        return ""
    exit_label = next((one.label for one in line.step.exits if one.key == line.done.exit), line.done.exit)
    notes = []
    for record in line.step.record:
        value = line.done.values.get(record.key)
        if isinstance(value, float | int):
            notes.append(
                f"{record.label.lower()} {numbers.plain(float(value), 2).rstrip('0').rstrip('.')} {record.unit}".strip()
            )
        elif value:
            notes.append(f"{record.label.lower()}: {value}")
    if line.done.photos:
        notes.append(_("{count} photographs").format(count=len(line.done.photos)))
    return "; ".join([exit_label, *notes])
