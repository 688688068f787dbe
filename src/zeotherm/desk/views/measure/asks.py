"""What the Measure view asks for: conditions, columns, scales, regions, and all that a run or a picture states."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from pydantic import ValidationError
from PyQt6.QtWidgets import QWidget

from zeotherm.core.machine.measured import LiningUp, RunDoubt
from zeotherm.core.runs.figures import Doubt
from zeotherm.core.runs.part_program import Program
from zeotherm.desk.bench import Bench
from zeotherm.desk.views.ask import Ask, DialogField
from zeotherm.desk.views.measure.measuring import EVERY, Measuring
from zeotherm.shop.editing import run_edits
from zeotherm.shop.files.asking import UnsureError
from zeotherm.shop.files.picture_files import PictureScale
from zeotherm.shop.files.series_files import DATE, FileColumn
from zeotherm.wording import numbers, units
from zeotherm.wording import runs as words
from zeotherm.wording.language import _


class Asks:
    """Makes the dialogs; each is shown by its caller."""

    def __init__(self, bench: Bench, measuring: Measuring, parent: QWidget) -> None:
        self._bench, self._measuring, self._parent = bench, measuring, parent

    def _told(self, action: Callable[[], bool]) -> str:
        """Why an edit was refused, or nothing."""
        heard: list[str] = []
        self._bench.told.connect(heard.append)
        try:
            return "" if action() else (heard[-1] if heard else _("That was refused."))
        finally:
            self._bench.told.disconnect(heard.append)

    def condition(self, name: str) -> Ask:
        """How one condition was in each run, and whether it was changed on purpose."""
        about = self._bench.catalogue.conditions[name]
        measured = self._bench.job.measured
        fields = []
        for key, run in measured.runs.items():
            known = run.conditions.get(name)
            value = "" if known is None else known if isinstance(known, str) else numbers.plain(known, 2)
            hint = _("from the run itself") if about.from_run else _("not noted")
            fields.append(DialogField(key, run.label, value.rstrip("0").rstrip(".") if "." in value else value, hint))
        fields.append(
            DialogField("purpose", _("Changed on purpose"), "yes" if name in measured.purpose else "", yes_no=True)
        )

        def apply(values: dict[str, str]) -> str:
            for key in measured.runs:
                refused = self._told(partial(self._measuring.note_condition, key, name, values[key]))
                if refused:
                    return refused
            if (values["purpose"] == "yes") != (name in self._bench.job.measured.purpose):
                self._measuring.do(run_edits.on_purpose, name, label=about.label)
            return ""

        why = f"{about.why} " + (_("In {unit}; empty: as the run itself tells.").format(unit=about.unit)
                                 if about.unit else _("In words, alike for alike runs."))  # fmt: skip
        return Ask(about.label, why, fields, _("Note it"), apply, self._parent)

    def columns(self) -> Ask | None:
        """What each column of the last log is; None before one was read."""
        last = self._measuring.last
        if last is None or not last[1]:
            return None
        fields = self._column_fields(last[1])

        def apply(values: dict[str, str]) -> str:
            roles = {column.title: values[f"column {column.title}"] for column in last[1]}
            refused = self._refused(roles)
            if not refused:
                self._measuring.choose_roles(roles)
            return refused

        why = _("Remembered for every file with these columns.")
        return Ask(
            _("Columns of {name}").format(name=last[0].name), why, fields, _("Read it again"), apply, self._parent
        )

    def unsure(self, path: Path, wrong: UnsureError) -> Ask:
        """What a log leaves open: each way it can be read in, spelled out, and what each of its columns is."""
        asked = [one for one in wrong.questions if one.options]
        fields = []
        for one in asked:
            ways = [(key, text[:1].upper() + text[1:]) for key, text in one.options]
            fields.append(DialogField(one.key, one.asked, "", options=[("", _("choose")), *ways]))
        columns = [one for one in wrong.columns if isinstance(one, FileColumn)]
        fields += self._column_fields(columns)

        def apply(values: dict[str, str]) -> str:
            open_ = next((one for one in asked if not values[one.key]), None)
            if open_ is not None:
                return _("Choose how it is to be read: {what}").format(what=open_.asked)
            roles = {column.title: values[f"column {column.title}"] for column in columns}
            refused = self._refused(roles)
            if not refused:
                self._measuring.choose_roles(roles, {one.key: values[one.key] for one in asked})
            return refused

        told = _("{name} can be read in more than one way.").format(name=path.name) if asked else str(wrong)
        ways_told = [f"{one.asked} {_('; or ').join(text for _key, text in one.options)}." for one in asked]
        why = "\n".join([told, *ways_told, "", _("Its first rows:"), *wrong.rows])
        return Ask(_("How is {name} to be read?").format(name=path.name), why, fields, _("Read it so"), apply,
                   self._parent)  # fmt: skip

    def _column_fields(self, columns: Sequence[FileColumn]) -> list[DialogField]:
        """What each column is, to be chosen."""
        catalogue = self._bench.catalogue
        options = [("", _("left out")), (DATE, _("date of the time")),
                   *((key, words.channel(key, catalogue)) for key in catalogue.channels)]  # fmt: skip
        by = {"name": _("by its name"), "unit": _("by its unit"), "values": _("by its values"), "chosen": _("chosen"),
              "doubled": _("several fit"), "": _("not known")}  # fmt: skip
        return [
            DialogField(f"column {one.title}", f"{one.title} ({by[one.by]})", one.role, options=options)
            for one in columns
        ]

    def _refused(self, roles: dict[str, str]) -> str:
        """Why these roles cannot be; nothing where they can."""
        told = [role for role in roles.values() if role]
        twice = next((role for role in told if told.count(role) > 1), None)
        if twice is not None:
            name = words.channel(twice, self._bench.catalogue)
            return _("Two columns are {name}. Leave one out.").format(name=name)
        return "" if "time" in told else _("One column must be the time.")

    def run(self, key: str) -> Ask:
        """A run's label, and the moment that is zero."""
        run = self._bench.job.measured.runs[key]
        zero = "" if run.zero_s is None else numbers.plain(run.zero_s, 1)
        fields = [
            DialogField("label", _("What the machine was like"), run.label, _("equal words: repeats of one another")),
            DialogField("zero", _("Zero, seconds into the run"), zero, _("found by itself")),
        ]
        every = next((note.removeprefix(EVERY) for note in run.notes if note.startswith(EVERY)), "")
        if every:
            fields.append(DialogField("every", _("Seconds between reports"), every))

        def apply(values: dict[str, str]) -> str:
            moment = None
            if values["zero"]:
                try:
                    moment = units.read_number(values["zero"])
                except units.NotANumberError as wrong:
                    return str(wrong)
            if every and values["every"] != every:
                try:
                    seconds = units.read_number(values["every"])
                except units.NotANumberError as wrong:
                    return str(wrong)
                if not 0.01 <= seconds <= 3600.0:
                    return _("Between reports: 0.01 to 3600 s.")
                self._measuring.respace(key, seconds)
            changes = {"label": values["label"] or run.label, "zero_s": moment}
            return self._told(
                lambda: self._bench.edit(lambda job: run_edits.changed_run(job, key, **changes), _("run"))
            )

        return Ask(_("This run"), run.source, fields, _("Keep it"), apply, self._parent)

    def doubts(self, key: str, usual: Callable[[str], Doubt]) -> Ask:
        """What can be believed of each instrument of a run."""
        run, catalogue = self._bench.job.measured.runs[key], self._bench.catalogue
        fields = []
        for channel in run.values:
            known = run.doubts.get(channel)
            one = known if known is not None else usual(channel)
            label = f"{words.channel(channel, catalogue)}, {catalogue.kinds[catalogue.channels[channel].kind].unit}"
            fields.append(DialogField(channel, label, f"{one.offset:g}; {100 * one.relative:g} %; {one.repeat:g}"))

        def apply(values: dict[str, str]) -> str:
            made = {}
            for channel, text in values.items():
                parts = [part.strip().removesuffix("%").strip() for part in text.split(";")]
                try:
                    offset, relative, repeat = (units.read_number(part) for part in parts)
                except (ValueError, units.NotANumberError):
                    return _("{name}: type offset; share in %; from run to run, such as 1.5; 0 %; 0.4").format(
                        name=words.channel(channel, catalogue)
                    )
                if min(offset, relative, repeat) < 0.0:
                    return _("{name}: a doubt is not negative.").format(name=words.channel(channel, catalogue))
                old = usual(channel)
                if (offset, relative / 100.0, repeat) != (old.offset, old.relative, old.repeat):
                    made[channel] = RunDoubt(offset=offset, relative=relative / 100.0, repeat=repeat)
            return self._told(
                lambda: self._bench.edit(lambda job: run_edits.changed_run(job, key, doubts=made), _("doubts"))
            )

        why = _(
            "95 % half-widths: what adds; what multiplies, in %; what differs from run to run. "
            "Between two runs of one instrument the first falls out, and the second acts on the change alone."
        )
        return Ask(_("Instruments of this run"), why, fields, _("Believe that"), apply, self._parent)

    def scale(self, path: Path, why: str) -> Ask:
        """What a picture's values mean."""
        fields = [
            DialogField("low", _("Cold end of its bar, °C"), "", _("for a false-colour picture")),
            DialogField("high", _("Hot end of its bar, °C")),
            DialogField("bar", _("Where the bar is, pixels"), "", _("left, top, right, bottom; empty: looked for")),
            DialogField("gain", _("°C for each count"), "", _("for a 16-bit picture, such as 0.01")),
            DialogField("offset", _("°C at count zero"), "", _("such as -273.15")),
        ]

        def apply(values: dict[str, str]) -> str:
            try:
                numbers_of = {key: units.read_number(text) for key, text in values.items() if text and key != "bar"}
                bar = [int(part) for part in values["bar"].replace(",", " ").split()]
            except (units.NotANumberError, ValueError) as wrong:
                return str(wrong)
            if bar and len(bar) != 4:
                return _("The bar's place is four whole numbers: left, top, right, bottom.")
            box = (bar[0], bar[1], bar[2], bar[3]) if bar else None
            scale = PictureScale(
                gain=numbers_of.get("gain"), offset=numbers_of.get("offset", 0.0), low=numbers_of.get("low"),
                high=numbers_of.get("high"), bar=box,
            )  # fmt: skip
            self._measuring.import_picture(path, scale)
            return ""

        return Ask(_("Scale of {name}").format(name=path.name), why, fields, _("Read it"), apply, self._parent)

    def picture(self, key: str) -> Ask:
        """A picture's label, surface, and regions."""
        picture = self._bench.job.measured.pictures[key]
        boxes = "; ".join(
            f"{name} {' '.join(f'{100 * one:g}' for one in box)}" for name, box in picture.regions.items()
        )
        fields = [
            DialogField("label", _("What it shows"), picture.label),
            DialogField(
                "emissivity", _("Emissivity of the surface"), f"{picture.emissivity:g}", _("matt paint or tape 0.95")
            ),
            DialogField("reflected_c", _("What it mirrors, °C"), f"{picture.reflected_c:g}"),
            DialogField("read_emissivity", _("Emissivity the camera was set to"), f"{picture.read_emissivity:g}"),
            DialogField("camera_doubt", _("Camera good to ± K"), f"{picture.camera_doubt:g}"),
            DialogField("regions", _("Regions, % from the left and top"), boxes, _("bed 8 8 92 90; plug 2 80 10 95")),
        ]

        def apply(values: dict[str, str]) -> str:
            try:
                changes: dict[str, object] = {
                    name: units.read_number(values[name])
                    for name in ("emissivity", "reflected_c", "read_emissivity", "camera_doubt")
                }
                changes["regions"] = _regions(values["regions"])
            except (units.NotANumberError, ValueError) as wrong:
                return str(wrong)
            changes["label"] = values["label"] or picture.label
            return self._told(
                lambda: self._bench.edit(lambda job: run_edits.changed_picture(job, key, **changes), _("picture"))
            )

        why = _("Bare metal and glass mirror the room: tape or paint the spot matt, or their figures mean nothing.")
        return Ask(_("This picture"), why, fields, _("Keep it"), apply, self._parent)

    def line_up(self) -> Ask:
        """By what runs are lined up."""
        how, catalogue = self._bench.job.measured.line_up, self._bench.catalogue
        ways = [("automatic", _("switching on, or what tells it best")), ("level", _("passing a level on the way up")),
                ("likeness", _("likeness to the first run")), ("first_row", _("the first row of each"))]  # fmt: skip
        known = {key for run in self._bench.job.measured.runs.values() for key in run.values}
        channels = [(key, words.channel(key, catalogue)) for key in catalogue.channels if key in known]
        fields = [
            DialogField("way", _("By"), how.way, options=ways),
            DialogField("channel", _("Of"), how.channel, options=channels),
            DialogField("level_c", _("Level, °C"), f"{how.level_c:g}"),
        ]  # fmt: skip

        def apply(values: dict[str, str]) -> str:
            try:
                level = units.read_number(values["level_c"])
                made = LiningUp(way=values["way"], channel=values["channel"], level_c=level)  # type: ignore[arg-type]
            except (units.NotANumberError, ValidationError) as wrong:
                return _("Level: type a temperature.") if isinstance(wrong, ValidationError) else str(wrong)
            return self._told(
                lambda: self._bench.edit(lambda job: run_edits.with_measured(job, line_up=made), _("lined up"))
            )

        why = _("A moment that is set by hand for a run wins over it.")
        return Ask(_("Line up by"), why, fields, _("Line up"), apply, self._parent)

    def tariff(self) -> Ask:
        """Money for a kWh."""
        known = self._bench.job.measured.tariff
        field = DialogField("tariff", _("{currency} for a kWh").format(currency=self._bench.job.currency),
                      "" if known is None else f"{known:g}", _("empty: no cost is told"))  # fmt: skip

        def apply(values: dict[str, str]) -> str:
            try:
                tariff = units.read_number(values["tariff"]) if values["tariff"] else None
            except units.NotANumberError as wrong:
                return str(wrong)
            return self._told(
                lambda: self._bench.edit(lambda job: run_edits.with_measured(job, tariff=tariff), _("tariff"))
            )

        return Ask(_("Tariff"), _("What energy costs here."), [field], _("Keep it"), apply, self._parent)

    def program(self, name: str, program: Program) -> Ask:
        """What a part program asks for, and whether the model is to print it."""

        def apply(_values: dict[str, str]) -> str:
            return self._told(lambda: self._measuring.use_program(program))

        why = "\n".join(words.program(program))
        return Ask(
            _("Part program {name}").format(name=name), why, [], _("Let the model print it"), apply, self._parent
        )

    def blades(self, path: Path) -> Ask:
        """How many blades the recorded fan has."""

        def apply(values: dict[str, str]) -> str:
            if not values["blades"].isdigit():
                return _("Count the blades and type a whole number.")
            self._measuring.import_sound(path, int(values["blades"]))
            return ""

        field = DialogField("blades", _("Blades of the fan"), "", _("count them; often 7 or 9"))
        return Ask(_("Sound of a fan"), path.name, [field], _("Hear its speed"), apply, self._parent)


def _regions(text: str) -> dict[str, list[float]]:
    """Named boxes in shares; raises ValueError in words."""
    found: dict[str, list[float]] = {}
    for part in filter(None, (one.strip() for one in text.split(";"))):
        *name, left, top, right, bottom = part.replace(",", " ").split() if len(part.split()) >= 5 else [part, *4 * "?"]
        try:
            box = [float(one) / 100.0 for one in (left, top, right, bottom)]
        except ValueError:
            raise ValueError(
                _("'{part}': type a name and four figures in %: left, top, right, bottom.").format(part=part)
            ) from None
        if not (0.0 <= box[0] < box[2] <= 1.0 and 0.0 <= box[1] < box[3] <= 1.0):
            raise ValueError(_("'{part}' has no inside, or lies outside the picture.").format(part=part))
        found[" ".join(name)] = box
    if not found:
        raise ValueError(_("Name at least one region: bed 8 8 92 90"))
    return found
