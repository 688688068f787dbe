"""Causes, evidence and checks in words."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from types import MappingProxyType

from zeotherm.core.catalogue.knowledge import Check
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.causes.next_check import ENOUGH, Next, Plan
from zeotherm.core.causes.ohms import OhmFinding
from zeotherm.core.causes.ranking import Evidence, Ranked, Ranking
from zeotherm.core.guard.fitted import assumed_of
from zeotherm.core.guard.heat import target
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Choice, declared
from zeotherm.wording import numbers
from zeotherm.wording.course import duration
from zeotherm.wording.language import _, begun
from zeotherm.wording.verdict import Verdict
from zeotherm.wording.work import heat

WORTH_SAYING = 0.05  # by which a check must move the likeliest to be worth a figure
OHM_KINDS = {
    "expected": _("as expected"),
    "short": _("a short: do not switch on; look for bare leads"),
    "open": _("open: a broken lead or element"),
    "other_voltage": _("that of a {fits} heater: do not switch on"),
    "other_sensor": _("that of another sensor: {fits}; check the firmware's table"),
    "differs": _("fits nothing known: measure again at the plug"),
}
OHM_NAMES = {"heater": _("Heater"), "sensor": _("Sensor"), "bed": _("Bed")}


def share(value: float) -> str:
    """A probability of a cause."""
    if value > 0.99:
        return _("over 99 %")
    return f"{100.0 * value:.0f} %" if value >= 0.01 else _("under 1 %")


def cause(key: str, catalogue: Catalogue) -> str:
    """A cause's name."""
    return catalogue.causes[key].label if key in catalogue.causes else key


def fact(name: str, catalogue: Catalogue) -> str:
    """An answer as told: 'When: after 1 h or more'."""
    asked, _dot, option = name.partition(".")
    about = catalogue.asked.get(asked)
    if about is None or option not in about.options:
        return STATIONS[name].label if name in STATIONS else name
    label = about.label.rstrip("?")
    return f"{label}: {begun(about.options[option].label)}"


def evidence(one: Evidence, catalogue: Catalogue) -> str:
    """One piece of evidence, with its reason."""
    if one.kind == "departure":
        return one.reason
    if one.key == "prints_on":
        return _("the model of this machine prints on with it, {share} that it stops").format(
            share=share(one.share or 0.0)
        )
    if one.kind == "reading":
        label = STATIONS[one.key].label.lower()
        if one.predicted is None:
            return _("{label} as read").format(label=label)
        low, high = one.predicted
        shown = f"{numbers.plain(low, 0)} {_('to')} {numbers.with_unit(high, '°C', 0)}"
        return _("{label}: the model with it has {span}").format(label=label, span=shown)
    told = begun(fact(one.key, catalogue))
    if one.kind == "model":
        if one.predicted is not None:
            early, late = (duration(time) for time in one.predicted)
            return _("{told}; by the model {early} to {late}").format(told=told, early=early, late=late)
        return _("{told}, by the model").format(told=told)
    if one.reason:
        return f"{told}: {one.reason}"
    return _("{told}; more usual with other causes").format(told=told) if one.ratio < 1.0 else told


def speaks(one: Evidence) -> int:
    """1 for, -1 against, 0 for what says little."""
    return 1 if one.ratio > 1.25 else -1 if one.ratio < 0.75 else 0


def before_all(answers: Mapping[str, Sequence[str]], catalogue: Catalogue) -> list[str]:
    """What is to be done before anything else, by what was told; each once."""
    told = [
        catalogue.asked[asked].options[option].first
        for asked, options in answers.items()
        if asked in catalogue.asked
        for option in options
        if option in catalogue.asked[asked].options
    ]
    return [text for text in dict.fromkeys(told) if text]


def verdict(
    ranking: Ranking, plan: Plan, decided: str | None, catalogue: Catalogue,
    answers: Mapping[str, Sequence[str]] = MappingProxyType({}),
) -> Verdict:  # fmt: skip
    """What it most likely is, in at most 60 characters, and how sure; answers: what was told, some of which asks for
    something to be done before anything else."""
    told = _verdict(ranking, plan, decided, catalogue)
    before = before_all(answers, catalogue)
    return Verdict(told.headline, f"{before[0]} {told.reason}", State.CLOSE) if before and decided is None else told


def _verdict(ranking: Ranking, plan: Plan, decided: str | None, catalogue: Catalogue) -> Verdict:
    first = ranking.first
    if decided is not None:
        headline = _("Decided: {cause}").format(cause=begun(cause(decided, catalogue)))
        return Verdict(headline, catalogue.causes[decided].mends if decided in catalogue.causes else "", State.CLEAR)
    if ranking.told == 0:
        return Verdict(
            _("Nothing known yet: what goes wrong?"), _("Touch what you know; leave what you do not."), State.UNKNOWN
        )
    if ranking.contradictions:
        text = catalogue.contradictions[ranking.contradictions[0]].text
        return Verdict(_("Two answers cannot both be so"), text, State.CLOSE)
    headline = _("Most likely: {cause}").format(cause=begun(cause(first.key, catalogue)))
    if first.probability < 0.3:
        headline = _("Not clear yet; first guess: {cause}").format(cause=begun(cause(first.key, catalogue)))
    leaves = catalogue.causes[first.key].leaves
    if leaves and first.probability >= 0.5:
        return Verdict(headline, f"{share(first.probability)}. {leaves}", _state(plan))
    return Verdict(headline, f"{_from(ranking)} {_further(plan, catalogue)}", _state(plan))


def danger(findings: list[OhmFinding]) -> Verdict | None:
    """What comes before any cause: a heater or a bed that must not be switched on."""
    for one in findings:
        if one.what != "sensor" and one.kind in ("short", "other_voltage"):
            kind = _("a short") if one.kind == "short" else _("that of {fits}").format(fits=one.fits)
            headline = _("{name} reads {kind}: do not switch on").format(name=OHM_NAMES[one.what], kind=kind)
            return Verdict(headline, ohm_finding(one), State.OVER)
    return None


def short(ranking: Ranking, decided: str | None, catalogue: Catalogue) -> str:
    """The answer in a few words, for the spine."""
    if decided is not None:
        return cause(decided, catalogue)
    if ranking.told == 0:
        return _("What goes wrong?")
    return f"{cause(ranking.first.key, catalogue)}, {share(ranking.first.probability)}"


def _state(plan: Plan) -> State:
    return State.CLEAR if plan.why == "decided" else State.UNKNOWN


def _from(ranking: Ranking) -> str:
    facts = _("1 fact") if ranking.told == 1 else _("{count} facts").format(count=ranking.told)
    return _("{share} from {facts}.").format(share=share(ranking.first.probability), facts=facts)


def _further(plan: Plan, catalogue: Catalogue) -> str:
    if plan.why == "decided":
        return _("Enough is known.")
    if not plan.checks:
        return _("No check left tells much more.")
    best = plan.checks[0]
    after = max(branch.after for branch in best.branches if branch.probability > 0.05)
    if after < WORTH_SAYING + max(branch.before for branch in best.branches):
        return _("Next: {check}").format(check=begun(catalogue.checks[best.key].label))
    return _("A check of {time} can move it to {share}.").format(time=minutes(best), share=share(after))


def minutes(one: Next) -> str:
    """How long a check takes."""
    if one.minutes < 1.0:
        return _("half a minute")
    return duration(60.0 * one.minutes) if one.minutes >= 2.0 else f"{one.minutes:.0f} min"


def how(one: Next, about: Check, job: Job, catalogue: Catalogue) -> str:
    """What to do for a check: how hot, where it heats, and how long it goes on."""
    told = [about.how]
    if about.heat:
        told.append(_heated(about, job, catalogue))
    return " ".join([*told, outlasts(one)]).strip()


def _heated(about: Check, job: Job, catalogue: Catalogue) -> str:
    aim = target(catalogue.heat_rules[about.heat], job.found, catalogue, assumed=assumed_of(job))
    return heat(aim, about.heat, catalogue)


def outlasts(one: Next) -> str:
    """How long a print must go on to tell something."""
    if one.outlasts is None:
        return ""
    return _("Go on for {time} of printing: half as long again as the trouble usually takes.").format(
        time=duration(one.outlasts)
    )


def option(one: Next, key: str, catalogue: Catalogue) -> str:
    """An answer of a check; of a reading with the value that parts them."""
    label = catalogue.asked[one.key].options[key].label
    if one.threshold is None:
        return label
    shown = numbers.with_unit(one.threshold, "°C", 0)
    return _("below {value}").format(value=shown) if key == "low" else _("{value} or more").format(value=shown)


def ruled_out(ranked: list[Ranked], catalogue: Catalogue) -> list[str]:
    """What is ruled out, a line for each fact that rules it out, strongest first."""
    by_fact: dict[str, list[str]] = {}
    for one in ranked:
        if one.ruled_out_by is not None:
            against = one.ruled_out_by
            fit = _("the model prints on") if against.key == "prints_on" else begun(fact(against.key, catalogue))
            by_fact.setdefault(fit, []).append(begun(cause(one.key, catalogue)))
    return [_("By {fact}: {causes}").format(fact=fit, causes=", ".join(names)) for fit, names in by_fact.items()]


def alike(pair: tuple[str, str, str], catalogue: Catalogue) -> str:
    """Two causes that the facts cannot tell apart, and the check that would."""
    one, other = (begun(cause(key, catalogue)) for key in pair[:2])
    text = _("These facts cannot tell {one} from {other}").format(one=one, other=other)
    if not pair[2]:
        return text + "."
    return text + _("; this would: {check}").format(check=begun(catalogue.checks[pair[2]].label))


def unexplained(name: str, catalogue: Catalogue) -> str:
    """A fact that fits no cause."""
    return _("No cause here explains it: {fact}. Check it again.").format(fact=begun(fact(name, catalogue)))


def enough(plan: Plan) -> str:
    """When asking may stop."""
    if plan.why == "decided":
        return _("Enough is known: one cause at {share} % or more.").format(share=numbers.plain(100.0 * ENOUGH, 0))
    if plan.why == "nothing_left":
        return _("No check left tells much more: mend the likeliest, and prove it.")
    text = _("Enough once one cause has {share} %, or nothing is left that tells.")
    return text.format(share=numbers.plain(100.0 * ENOUGH, 0))


def prior(one: Ranked) -> str:
    """How common a cause is, and what the shop's own jobs did to that."""
    text = _("{share} before anything was told").format(share=share(one.prior))
    if one.shop_jobs:
        text += _(", with {count} decided jobs of this shop").format(count=one.shop_jobs)
    return text


def ohm_finding(one: OhmFinding) -> str:
    """One reading against what is fitted."""
    name = OHM_NAMES[one.what]
    if one.expected is None:
        return _("{name}: none fitted").format(name=name)
    expected = _("{low} to {high} expected").format(low=numbers.ohms(one.low), high=numbers.ohms(one.high))
    if not one.kind:
        return f"{name}: {expected}"
    return f"{name} {numbers.ohms(one.measured)}: {OHM_KINDS[one.kind].format(fits=one.fits)} ({expected})"


def changed(sound: Setup, now: Setup, catalogue: Catalogue) -> list[str]:
    """In what a machine differs from a sound one: 'Fan voltage 14 V'."""
    told = []
    for path, item in declared(Setup).items():
        was, is_now = value_at(sound, path), value_at(now, path)
        if was == is_now:
            continue
        if isinstance(item, Choice):
            told.append(f"{item.label}: {catalogue.shelf(item.shelf)[str(is_now)].label}")
        else:
            told.append(f"{item.label} {numbers.with_unit(float(is_now), item.unit)}")
    told += [heat.label for key, heat in now.heats.items() if key not in sound.heats]
    return told


def lasts(hours: float) -> str:
    """For how long a machine feeds: 'never', '45 min', '3.2 h'."""
    if math.isinf(hours):
        return _("never")
    return numbers.with_unit(60.0 * hours, "min", 0) if hours < 1.5 else f"{numbers.plain(hours, 1)} h"
