"""What is wanted of a hotend, in one row of fields: the same for the build and for the window."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from zeotherm.core.choices.build.wanted import BuildWish
from zeotherm.core.machine.build import MOST_PLASTICS, Build
from zeotherm.desk.bench import Bench
from zeotherm.desk.style import theme
from zeotherm.desk.views.choose.size_page import WishField, mark
from zeotherm.desk.widgets.labels import Plain
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain

FIELDS = {  # by their names in the document
    "nozzle_c": WishField(_("Nozzle"), "°C", 150.0, 480.0),
    "flow_mm3_s": WishField(_("Flow"), "mm³/s", 0.5, 60.0, 1),
    "flow_least_mm3_s": WishField(_("Least flow"), "mm³/s", 0.1, 60.0, 1),
    "hot_within_s": WishField(_("Hot within"), "s", 20.0, 1800.0),
    "air_c": WishField(_("Enclosure air"), "°C", 5.0, 150.0),
    "part_fan_pct": WishField(_("Part fan"), "%", 0.0, 100.0),
    "sure_pct": WishField(_("How sure"), "%", 50.0, 99.0),
}


class WantedRow(QWidget):
    """Fields of what is wanted; a wrong entry stays and is said, an empty one is as the job is set."""

    wrong = pyqtSignal(str)  # what is wrong, or nothing

    def __init__(self, bench: Bench, keys: tuple[str, ...], several: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench, self._several = bench, several
        self._plastics: tuple[str, ...] = ()
        self.fields = {key: QLineEdit() for key in keys}
        self.plastics = QPushButton()
        self.menu = QMenu(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 2, 16, 6)
        row.setSpacing(14)
        row.addLayout(_labelled(_("Plastics") if several else _("Plastic"), self.plastics), 2)
        for key, field in self.fields.items():
            asked = FIELDS[key]
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.setAccessibleName(asked.label)
            field.editingFinished.connect(partial(self._typed, key))
            row.addLayout(_labelled(f"{asked.label}, {asked.unit}", field), 1)
        self.plastics.clicked.connect(self._offer)

    def show_wanted(self, wanted: BuildWish) -> None:
        """What is wanted, in its fields; one that is being typed in stays."""
        asked, catalogue = self._bench.job.build, self._bench.catalogue
        self._plastics = wanted.plastics
        values = {
            "nozzle_c": wanted.nozzle, "flow_mm3_s": wanted.flow, "flow_least_mm3_s": wanted.least_flow,
            "hot_within_s": wanted.seconds, "air_c": wanted.air, "part_fan_pct": wanted.part_fan,
            "sure_pct": 100.0 * wanted.sure,
        }  # fmt: skip
        for key, field in self.fields.items():
            if not (field.hasFocus() and field.isModified()):
                field.setText(plain(values[key], FIELDS[key].decimals))
            field.setToolTip(_("As the job is set") if getattr(asked, key) is None else _("Asked for"))
        names = [catalogue.filaments[one].label for one in wanted.plastics[: None if self._several else 1]]
        self.plastics.setText(", ".join(names))
        self.plastics.setAccessibleName(f"{_('Plastics')}: {', '.join(names)}")

    def _typed(self, key: str) -> None:
        asked, field = FIELDS[key], self.fields[key]
        if not field.isModified():
            return
        text = field.text().strip()
        as_set = not text and getattr(Build(), key) is None
        value = None if as_set else asked.read(text)
        wrong = value is None and not as_set
        mark(field, wrong=wrong)
        if wrong:
            self.wrong.emit(_("{label}: a number from {low} to {high} {unit}, please.").format(
                label=asked.label, low=plain(asked.low, 0 if asked.low >= 1.0 else 1), high=plain(asked.high, 0),
                unit=asked.unit))  # fmt: skip
            return
        field.setModified(False)
        self.wrong.emit("")
        self._bench.build(asked.label, **{key: value})

    def _offer(self) -> None:
        self.fill_menu()
        self.menu.popup(self.plastics.mapToGlobal(self.plastics.rect().bottomLeft()))

    def fill_menu(self) -> None:
        """Every filament of the shelf, those that are wanted ticked; the usual ones first."""
        self.menu.clear()
        rest = QMenu(_("More"), self.menu)
        for key, one in sorted(self._bench.catalogue.filaments.items(), key=lambda item: item[1].label):
            action = QAction(one.label, self.menu)
            action.setCheckable(True)
            action.setChecked(key in self._plastics)
            action.triggered.connect(lambda _on=False, key=key: self.want(key))
            (self.menu if one.compared or key in self._plastics else rest).addAction(action)
        self.menu.addMenu(rest)

    def want(self, plastic: str) -> None:
        """One more plastic, or one less; where one is shown, that one, before the others that are wanted."""
        before = list(self._bench.job.build.plastics or self._plastics)
        others = [one for one in before if one != plastic]
        if not self._several:  # the first is the one that is shown; the others stay for the build
            wanted = [plastic, *others][:MOST_PLASTICS]
        else:
            wanted = others if plastic in before else [*before, plastic]
        if len(wanted) > MOST_PLASTICS:
            self.wrong.emit(_("At most {count} plastics at once: take one out first.").format(count=MOST_PLASTICS))
            return
        self._bench.build(_("plastics"), plastics=wanted)

    def refresh(self) -> None:
        """Take up the theme."""
        for label in self.findChildren(Plain):
            label.setFont(theme.font(12))
        for widget in (self.plastics, *self.fields.values()):
            widget.setFont(theme.font(13))


def _labelled(text: str, widget: QWidget) -> QVBoxLayout:
    column = QVBoxLayout()
    column.setSpacing(1)
    label = Plain(text)
    label.setBuddy(widget)
    column.addWidget(label)
    column.addWidget(widget)
    return column
