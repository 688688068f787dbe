"""The parts shelf in words."""

from __future__ import annotations

from zeotherm.core.catalogue.own import OwnFigure, OwnKind, Stated
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.choices.figures import FELT, MovedMargin, ShelfFound, Stake, User
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.wording import margins as words
from zeotherm.wording import numbers
from zeotherm.wording.language import _, begun
from zeotherm.wording.standing import listed
from zeotherm.wording.verdict import Verdict

SOURCES = {
    "data sheet range": _("data sheet"), "own measurement": _("measured"), "estimate": _("estimate"),
    "handbook": _("handbook"),
}  # fmt: skip
NOT_KNOWN = _("not known")


def value(known: Stated) -> str:
    """A figure as it is written on a label."""
    return NOT_KNOWN if known.value is None else f"{known.value:.4g}"


def half(known: Stated, figure: OwnFigure) -> str:
    """Its 95 % half-width: of a temperature in kelvin, else as a share; nothing where it has none."""
    if known.value is None or not known.half:
        return ""
    if figure.unit == "°C":
        return f"±{known.half:.2g} K"
    return f"±{100.0 * known.half / abs(known.value):.2g} %" if known.value else f"±{known.half:.2g} {figure.unit}"


def with_half(known: Stated, figure: OwnFigure) -> str:
    """Both."""
    return f"{value(known)} {half(known, figure)}".strip()


def with_its_unit(figure: OwnFigure) -> str:
    """A figure's name with its unit."""
    return f"{figure.label}, {figure.unit}" if figure.unit else figure.label


def moved(margin: Margin, by: float) -> str:
    """By how much a margin moves: '−1.2 K'."""
    return numbers.signed(by, numbers.difference_unit(STATIONS[margin.station].unit))


def change(told: MovedMargin) -> str:
    """What other figures do to a limit: 'Exit core −1.2 K'."""
    return f"{words.label(told.before)} {moved(told.before, told.moved)}"


def with_band(margin: Margin) -> str:
    """A margin's room and its 95 % band."""
    return f"{words.room(margin)} {words.band(margin)}".strip()


def stake(found: Stake) -> str:
    """How far a figure moves a margin: '±1.2 K'."""
    unit = numbers.difference_unit(STATIONS[found.station].unit)
    return f"±{numbers.plain(found.half, max(numbers.DECIMALS.get(unit, 1), 1))} {unit}"


def stake_line(figure: OwnFigure, found: Stake) -> str:
    """'Free flow: ±1.2 K, exit core'."""
    return _("{figure}: {amount}, {place}").format(
        figure=figure.label, amount=stake(found), place=STATIONS[found.station].label.lower()
    )


def without_line(figure: OwnFigure) -> str:
    """What counts where nobody knows a figure."""
    return _("{figure} is not known: {without}.").format(figure=figure.label, without=figure.without)


def user_line(user: User, *, changed: bool) -> str:
    """A machine that has the part, how it stands, and what other figures do to it."""
    name = user.job.machine.split(",")[0]
    if user.wrong:
        return _("{name}: {why}").format(name=name, why=user.wrong)
    if user.change is not None:
        after = with_band(user.change.after)
        return _("{name}: {change}, {room}").format(name=name, change=change(user.change), room=after)
    if user.worst is None:
        return _("{name}: being solved").format(name=name)
    at = _("{place} {room}").format(place=words.label(user.worst), room=with_band(user.worst))
    return _("{name}: no limit moves; {worst}").format(name=name, worst=at) if changed else f"{name}: {at}"


def verdict(found: ShelfFound | None, kind: OwnKind, label: str, machine: str, *, changed: bool) -> Verdict:
    """What an entry means to the machines that have it."""
    user = found.users[0] if found is not None and found.users else None
    if found is None or (user is None and not found.done):
        return Verdict(label, _("Looking for the machines that have it."), State.UNKNOWN)
    if user is None:
        return Verdict(
            _("Not fitted in any machine of the shop"),
            _("Fit it in a machine to see here what its figures decide."), State.UNKNOWN,
        )  # fmt: skip
    name = user.job.machine.split(",")[0]
    if user.wrong:
        return Verdict(_("{name} has no answer with this part").format(name=name), user.wrong, State.UNKNOWN)
    if changed:
        return _of_change(found, user, name)
    return _of_stakes(found, kind, user, name, machine)


def _of_change(found: ShelfFound, user: User, name: str) -> Verdict:
    if user.change is not None:
        after, least = user.change.after, user.worst_then or user.change.after
        before = _("{before} with the part as it is on the shelf.").format(before=begun(with_band(user.change.before)))
        if least.key != after.key:
            before += " " + _("Least room then: {place}, {room}.").format(
                place=words.label(least).lower(), room=with_band(least)
            )
        return Verdict(
            _("{name} with these figures: {place} {room}").format(
                name=name, room=with_band(after), place=words.label(after).lower()
            ),
            before, least.state,
        )  # fmt: skip
    if not found.done:
        return Verdict(_("Solving {name} with these figures").format(name=name), "", State.UNKNOWN)
    return Verdict(
        _("These figures move no limit of {name}").format(name=name),
        _("Every margin stays where it was."),
        user.worst.state if user.worst is not None else State.UNKNOWN,
    )


def _of_stakes(found: ShelfFound, kind: OwnKind, user: User, name: str, machine: str) -> Verdict:
    if user.job.machine != machine:
        return Verdict(
            _("Not in the machine on the bench"),
            _("{name} has one. Open that job to see what its figures decide.").format(name=name), State.UNKNOWN,
        )  # fmt: skip
    if not found.done:
        return Verdict(_("Solving what these figures decide on {name}").format(name=name), "", State.UNKNOWN)
    most = max(found.stakes.values(), key=lambda one: one.half, default=None)
    if most is None:
        return Verdict(
            _("No tolerance to weigh here"),
            _("None of them states a tolerance, or {name} has no answer for this part.").format(name=name),
            State.UNKNOWN,
        )
    if most.half < FELT and found.unknown:
        names = [one.label for one in kind.figures if one.at in found.unknown]
        return Verdict(
            _("Not all of its figures are known"),
            _("{figures}: not entered. The others move no margin within their tolerances.").format(
                figures=listed(names)
            ),
            State.UNKNOWN,
        )
    if most.half < FELT:
        return Verdict(
            _("Its figures are known well enough for {name}").format(name=name),
            _("Within their tolerances every margin stays where it is."),
            State.CLEAR,
        )
    figure = next(one for one in kind.figures if one.at == most.at)
    return Verdict(
        _("{name}: one figure decides {amount}").format(name=name, amount=stake(most)),
        _("{figure}, within its tolerance, at {place}. Measure it to narrow that.").format(
            figure=figure.label, place=STATIONS[most.station].label.lower()
        ),
        State.UNKNOWN,
    )
