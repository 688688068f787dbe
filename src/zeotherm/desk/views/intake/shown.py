"""What Intake paints: facts as chips, causes with what speaks for and against them, the next check."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from zeotherm.answers.causes import Diagnosis
from zeotherm.core.causes.next_check import Next
from zeotherm.core.causes.ohms import cold_ohms
from zeotherm.core.causes.ranking import Ranked
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.patches import Patch, patch_at, value_at
from zeotherm.core.machine.quantity import Quantity, declared
from zeotherm.wording import causes as words
from zeotherm.wording import numbers
from zeotherm.wording.language import _, begun, begun_large
from zeotherm.wording.verdict import Verdict

SHOWN_CAUSES, SHOWN_EVIDENCE, SHOWN_CHECKS = 6, 3, 5
BITS_FULL = 0.6  # bit, at which a bar of "how telling" is full
MACHINE = "machine:"  # begins the keys of chips that are told of the machine itself
AFTER = "depends"  # the question after which they stand
ABOUT = "about:"  # begins the keys of chips that say what the trouble shows at
SETTINGS = (
    ("printing.nozzle_c", _("nozzle")), ("printing.flow_mm3_s", _("flow")), ("printing.retraction_mm", _("retracts")),
    ("case.vents_open_pct", _("vents")),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Chip:
    """One answer."""

    key: str  # question.option
    label: str
    told: bool
    spoken: str


@dataclass(frozen=True, slots=True)
class ChipGroup:
    """One question with its answers."""

    key: str
    label: str
    chips: tuple[Chip, ...]
    wanted: bool  # the question that would tell most


@dataclass(frozen=True, slots=True)
class ShownEvidence:
    """One piece of evidence: 1 for, -1 against, 0 not known."""

    way: int
    text: str


@dataclass(frozen=True, slots=True)
class CauseRow:
    """One cause."""

    key: str
    label: str
    share: str
    bar: float
    signs: tuple[ShownEvidence, ...]
    spoken: str
    tip: str
    first: bool
    decided: bool


@dataclass(frozen=True, slots=True)
class AnswerRow:
    """What one answer of a check would do."""

    key: str
    label: str
    likely: str
    leads: str
    before: float
    after: float
    text: str  # 24 -> 61 %


@dataclass(frozen=True, slots=True)
class CheckView:
    """The check that is proposed."""

    key: str
    label: str
    how: str
    time: str
    cost: str
    signs: tuple[str, ...]
    cautions: tuple[str, ...]  # what the signs warn of
    dismantles: bool
    reads: str  # station, where the answer is a reading
    answers: tuple[AnswerRow, ...]
    fact: str = ""  # of the machine, by key, where that is what is to be found out


@dataclass(frozen=True, slots=True)
class NextRow:
    """One of the checks after it."""

    key: str
    label: str
    time: str
    telling: float  # share of a full bar
    spoken: str


@dataclass(frozen=True)
class IntakeView:
    """All of Intake."""

    verdict: Verdict
    brief: str  # the verdict in a few words
    groups: tuple[ChipGroup, ...]
    told: str
    settings: str
    causes: tuple[CauseRow, ...]
    notes: tuple[tuple[str, str, bool], ...]  # head, text, whether it is trouble
    check: CheckView | None
    then: tuple[NextRow, ...]
    enough: str
    mends: str  # how to mend the first, or the decided one, once enough is known
    decided: str | None
    progress: str
    ohms: tuple[tuple[str, str, str], ...]  # what, value, finding
    attached: Markup


def intake(
    diagnosis: Diagnosis, wanted: str = "", busy: bool = False, facts: tuple[Next, ...] = ()
) -> IntakeView:  # fmt: skip
    """The view of a diagnosis; wanted: the check that was picked; busy: whether worlds are still being run; facts: of
    the machine that are worth finding out, which compete with the checks by what they tell for their minutes."""
    job, catalogue, ranking, plan = diagnosis.job, diagnosis.catalogue, diagnosis.ranking, diagnosis.plan
    decided = job.intake.decided
    every = [(one, "") for one in plan.checks] + [(one, one.key) for one in facts]
    every.sort(key=lambda one: (_key(*one) != wanted, -one[0].worth))
    best = next((one for one in every if one[1]), None)
    if best is not None and best in every[1 + SHOWN_CHECKS :]:  # the best fact has a place, though last
        every.insert(SHOWN_CHECKS, best)
    ask = plan.questions[0].key if plan.questions and not decided else ""
    first = decided or ranking.first.key
    standing = [one for one in ranking.causes if one.ruled_out_by is None or one.key == first]
    shown = sorted(standing, key=lambda one: one.key != first)[:SHOWN_CAUSES]
    findings = cold_ohms(job.found, catalogue, job.intake.ohms)
    danger = words.danger(findings)
    return IntakeView(
        verdict=danger or words.verdict(ranking, plan, decided, catalogue, job.intake.answers),
        brief=danger.headline if danger is not None else words.short(ranking, decided, catalogue),
        groups=_groups(diagnosis, ask),
        told=_("{told} of {all}").format(
            told=sum(1 for key in catalogue.questions if job.intake.answers.get(key)), all=len(catalogue.questions)
        ),
        settings=_settings(job),
        causes=tuple(_row(one, diagnosis, one.key == first) for one in shown),
        notes=_notes(diagnosis),
        check=_first(*every[0], diagnosis) if every and not decided else None,
        then=tuple(_next(*one, diagnosis) for one in every[1 : 1 + SHOWN_CHECKS]) if not decided else (),
        enough=_("Decided; its parts stand on the options board (F5).") if decided else words.enough(plan),
        mends=catalogue.causes[first].mends if (plan.enough or decided) and first in catalogue.causes else "",
        decided=decided,
        progress=_progress(diagnosis, busy),
        ohms=tuple(
            (one.what, f"{one.measured:g}" if one.measured is not None else "", words.ohm_finding(one))
            for one in findings
        ),
        attached=_attached(job),
    )


def _machine_groups(diagnosis: Diagnosis) -> list[ChipGroup]:
    """Filament and case, which are told of the machine itself; none is marked that nobody has entered."""
    setup, catalogue, known = diagnosis.job.found, diagnosis.catalogue, diagnosis.job.known
    stated = catalogue.air_sources[setup.surroundings.air_from].stated
    shelves = (
        ("printing.filament", _("Filament"), catalogue.filaments, setup.printing.filament),
        ("case.part", _("Case"), catalogue.cases, "" if stated else setup.case.part),
    )
    return [
        ChipGroup(
            path,
            label,
            tuple(
                Chip(f"{MACHINE}{path}={key}", one.label, key == now and path in known, f"{label}: {one.label}")
                for key, one in shelf.items()
            ),
            False,
        )
        for path, label, shelf, now in shelves
    ]


def machine_change(key: str, diagnosis: Diagnosis) -> tuple[Patch, str]:
    """What a chip of the machine changes, and its label; a case comes with the air that it holds."""
    path, _equals, value = key.removeprefix(MACHINE).partition("=")
    change = patch_at(path, value)
    if path != "case.part":
        return change, diagnosis.catalogue.filaments[value].label
    case = diagnosis.catalogue.cases[value]
    air = "case" if case.vent_cm2.value > 0.0 else "room"
    return {**change, "surroundings": {"air_from": air}}, case.label


def _groups(diagnosis: Diagnosis, ask: str) -> tuple[ChipGroup, ...]:
    told = diagnosis.job.intake.answers
    made = [_about(diagnosis)]
    for key, question in diagnosis.catalogue.questions.items():
        chips = []
        for option, one in question.options.items():
            known = option in told.get(key, ())
            state = _("told") if known else _("not told")
            chips.append(Chip(f"{key}.{option}", one.label, known, f"{question.label}: {one.label}, {state}"))
        made.append(ChipGroup(key, question.label, tuple(chips), key == ask))
        if key == AFTER:
            made += _machine_groups(diagnosis)
    return tuple(made)


def _about(diagnosis: Diagnosis) -> ChipGroup:
    """What the trouble shows at."""
    now, label = diagnosis.job.intake.trouble, _("It shows at")
    chips = (
        Chip(f"{ABOUT}{key}", one.label, key == now, f"{label}: {one.label}")
        for key, one in diagnosis.catalogue.troubles.items()
    )
    return ChipGroup(ABOUT, label, tuple(chips), False)


def _settings(job: Job) -> str:
    setup = job.found
    shown = []
    for path, name in SETTINGS:
        item = declared(Setup)[path]
        assert isinstance(item, Quantity)
        shown.append(f"{name} {numbers.with_unit(float(value_at(setup, path)), item.unit)}")
    return f"{', '.join(shown)}. {_('Type to correct: nozzle 215')}"


def _row(one: Ranked, diagnosis: Diagnosis, first: bool) -> CauseRow:
    catalogue = diagnosis.catalogue
    kept = [item for item in one.evidence if words.speaks(item)]
    most = SHOWN_EVIDENCE if first else SHOWN_EVIDENCE - 1
    signs = [ShownEvidence(words.speaks(item), words.evidence(item, catalogue)) for item in kept[:most]]
    about = catalogue.causes[one.key]
    if not signs and about.refuted_by:
        signs.append(ShownEvidence(0, _("refuted where {what}").format(what=about.refuted_by)))
    label, share = words.cause(one.key, catalogue), words.share(one.probability)
    spoken = ", ".join([label, share, *(f"{WAYS[sign.way]} {sign.text}" for sign in signs)])
    every = [f"{WAYS[words.speaks(item)]} {words.evidence(item, catalogue)}" for item in one.evidence]
    tip = "\n".join(
        [label, words.prior(one), f"{_('common because')} {about.why}", *every[:10], f"{_('mends')}: {about.mends}"]
    )
    decided = diagnosis.job.intake.decided == one.key
    return CauseRow(one.key, label, share, one.probability, tuple(signs), spoken, tip, first, decided)


WAYS = {1: _("for:"), -1: _("against:"), 0: _("not known:")}


def _notes(diagnosis: Diagnosis) -> tuple[tuple[str, str, bool], ...]:
    """What is alike, what does not fit, what is ruled out."""
    ranking, catalogue = diagnosis.ranking, diagnosis.catalogue
    notes = [(_("First"), text, True) for text in words.before_all(diagnosis.job.intake.answers, catalogue)]
    notes += [(_("Cannot both be so"), catalogue.contradictions[key].text, True) for key in ranking.contradictions]
    notes += [(_("Fits nothing"), words.unexplained(name, catalogue), True) for name in ranking.unexplained]
    if ranking.told:
        notes += [(_("Not told apart"), words.alike(one, catalogue), False) for one in ranking.alike[:1]]
    ruled = [one for one in ranking.causes if one.ruled_out_by is not None]
    if ruled:
        head = _("Ruled out, {count}").format(count=len(ruled))
        notes += [(head if not i else "", line, False) for i, line in enumerate(words.ruled_out(ruled, catalogue)[:4])]
    return tuple(notes)


FACT = "fact:"  # begins the keys of facts among the checks


def _key(one: Next, fact: str) -> str:
    return f"{FACT}{fact}" if fact else one.key


def _first(one: Next, fact: str, diagnosis: Diagnosis) -> CheckView:
    """What is worth most: a check of the trouble, or a fact of the machine."""
    if not fact:
        return _check(one, diagnosis)
    about = diagnosis.catalogue.facts[fact]
    signs = tuple(about.signs)
    return CheckView(
        _key(one, fact), _("Find out: {fact}").format(fact=begun(about.label)), _sentence(about.find),
        words.minutes(one), f"{diagnosis.job.currency}0", signs, _cautions(signs, diagnosis), False, "", (), fact,
    )  # fmt: skip


def _sentence(text: str) -> str:
    return f"{begun_large(text)}."


def _check(one: Next, diagnosis: Diagnosis) -> CheckView:
    catalogue = diagnosis.catalogue
    about = catalogue.checks[one.key]
    how = words.how(one, about, diagnosis.job, catalogue)
    answers = tuple(
        AnswerRow(
            branch.option, words.option(one, branch.option, catalogue), words.share(branch.probability),
            words.cause(branch.first, catalogue), branch.before, branch.after,
            f"{100 * branch.before:.0f} → {100 * branch.after:.0f} %",
        )
        for branch in one.branches
    )  # fmt: skip
    cost = f"{diagnosis.job.currency}{about.cost:.0f}"
    return CheckView(
        one.key, about.label, how, words.minutes(one), cost, tuple(about.signs),
        _cautions(tuple(about.signs), diagnosis), about.dismantles, about.reads, answers,
    )  # fmt: skip


def _cautions(signs: tuple[str, ...], diagnosis: Diagnosis) -> tuple[str, ...]:
    """The catalogue's words for each sign, the usual ones before those of a special case."""
    every = sorted(diagnosis.catalogue.cautions.values(), key=lambda one: bool(one.when))
    return tuple(next(one.text for one in every if one.sign == sign) for sign in signs)


def _next(one: Next, fact: str, diagnosis: Diagnosis) -> NextRow:
    catalogue = diagnosis.catalogue
    label = catalogue.facts[fact].label if fact else catalogue.checks[one.key].label.rstrip("?")
    time = words.minutes(one)
    return NextRow(_key(one, fact), label, time, min(one.bits / BITS_FULL, 1.0), f"{label}, {time}")


def _progress(diagnosis: Diagnosis, busy: bool) -> str:
    done, every = diagnosis.ranking.simulated, diagnosis.ranking.to_simulate
    if not every:
        return _("By the answers and checks alone: these causes are not simulated.")
    if done >= every:
        return _("Causes of heat simulated on this machine: {count}.").format(count=done)
    if busy:
        return _("Simulating causes of heat on this machine: {done} of {all}; Esc stops.").format(done=done, all=every)
    return _("Causes of heat simulated on this machine: {done} of {all}; F2 goes on.").format(done=done, all=every)


def _attached(job: Job) -> Markup:
    """The attached files, each a link that opens it and one that takes it off."""
    link = Markup('<a href="open:{0}">{1}</a> (<a href="off:{0}">{2}</a>)')
    return Markup("<br>").join(link.format(one.digest, one.name, _("take off")) for one in job.intake.attachments)
