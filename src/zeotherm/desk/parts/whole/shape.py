"""A machine seen from its side, front at the left, as rectangles and lines to scale in mm: what the picture draws, and
where each card points.

Sizes that a job states are drawn as stated; the rest follows from the bed and the kind of frame, and is for the picture
alone: no answer depends on it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

from zeotherm.core.catalogue.seats import in_one_block, on_one_carriage
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.supplies import FIRST
from zeotherm.core.machine.toolheads import others_in_front, station_of

IN_ONE_BLOCK, ON_ONE_CARRIAGE, OWN_CARRIAGE = 18.0, 34.0, 44.0  # mm from a toolhead to the next
SPOOL = 100.0  # radius of a spool of 1 kg
MOTOR = 42.0
PRINTED = 60.0  # height of what is printed at the moment that is drawn
BAY = 84.0  # height of what lies below a box
BESIDE = 22.0  # room between an enclosure and what stands beside it
LEAST_HEAD = 150.0  # mm that the head has below the top of its frame


class Box(NamedTuple):
    """A rectangle, x from the front, y up."""

    left: float
    bottom: float
    right: float
    top: float

    @property
    def middle(self) -> tuple[float, float]:
        """Its centre."""
        return 0.5 * (self.left + self.right), 0.5 * (self.bottom + self.top)

    def shared(self, other: Box) -> float:
        """Area that two of them share [mm²]."""
        wide = min(self.right, other.right) - max(self.left, other.left)
        high = min(self.top, other.top) - max(self.bottom, other.bottom)
        return max(wide, 0.0) * max(high, 0.0)

    def around(self, other: Box) -> Box:
        """The least one about both."""
        return Box(
            min(self.left, other.left), min(self.bottom, other.bottom), max(self.right, other.right),
            max(self.top, other.top),
        )  # fmt: skip


NOWHERE = Box(0.0, 0.0, 0.0, 0.0)


@dataclass(frozen=True, slots=True)
class Solid:
    """Something that is drawn filled; station: whose temperature it has, nothing: none is computed."""

    card: str
    box: Box
    station: str = ""
    round: bool = False


@dataclass(frozen=True, slots=True)
class Stroke:
    """A wire, a tube or a bar along points."""

    card: str
    points: tuple[tuple[float, float], ...]
    kind: str  # wire, tube, filament, bar


@dataclass
class MachineShape:
    """Everything that is drawn of a machine, from the back of the picture to its front."""

    enclosure: Box | None = None  # its inside
    open_top: bool = False  # vents in its roof stand open
    solids: list[Solid] = field(default_factory=list)
    strokes: list[Stroke] = field(default_factory=list)
    anchors: dict[str, tuple[float, float]] = field(default_factory=dict)  # by card
    bed: Box = NOWHERE
    tip: tuple[float, float] = (0.0, 0.0)  # of the nozzle

    def add(self, card: str, box: Box, station: str = "", *, rounded: bool = False, points: bool = True) -> Box:
        """Draw something; points: its card's leader ends on it."""
        self.solids.append(Solid(card, box, station, rounded))
        if points:
            self.anchors[card] = box.middle
        return box

    def draw(self, card: str, kind: str, *points: tuple[float, float]) -> None:
        """Draw a line; the leader of its card ends halfway along it."""
        self.strokes.append(Stroke(card, points, kind))
        self.anchors.setdefault(card, points[len(points) // 2])

    @property
    def extent(self) -> Box:
        """All of it."""
        whole = self.enclosure or self.solids[0].box
        for one in self.solids:
            whole = whole.around(one.box)
        for stroke in self.strokes:
            for x, y in stroke.points:
                whole = whole.around(Box(x, y, x, y))
        return whole


@dataclass(frozen=True)
class Hull:
    """What a frame leaves to the rest: where head and bed are, where heavy things hang."""

    frame: Box
    behind: float  # x from which there is room behind bed and head
    motor_at: tuple[float, float]  # of a drive that does not ride on the carriage
    base: Box  # where electronics sit that are not in the enclosure
    top: tuple[float, float]  # of a spool on the frame


def shape_of(setup: Setup, catalogue: Catalogue) -> MachineShape:
    """The machine of a setup. Raises KeyError for a part that no shelf has."""
    made = MachineShape()
    frame, case = catalogue.frames[setup.frame.kind], catalogue.cases[setup.case.part]
    bed = catalogue.beds[setup.bed.part]
    closed = case.walls is not None
    wide = setup.frame.depth_mm or bed.depth_mm + frame.deeper_mm
    high = setup.frame.height_mm or bed.width_mm + frame.higher_mm
    if closed:
        made.enclosure = Box(0.0, 0.0, setup.case.depth_mm, setup.case.height_mm)
        made.open_top = setup.case.vents_open_pct > 0.0 and case.vent_cm2.value > 0.0
        fills = frame.shape == "box"
        wide = setup.case.depth_mm if fills else min(wide, setup.case.depth_mm - 20.0)
        high = setup.case.height_mm if fills else min(high, setup.case.height_mm - 10.0)
    left = 0.5 * (setup.case.depth_mm - wide) if closed else 0.0
    hull = _FRAMES[frame.shape](made, setup, catalogue, Box(left, 0.0, left + wide, high))
    _add_bed(made, setup, catalogue)
    _add_further(made, setup, catalogue)
    _add_head(made, setup, catalogue, hull)
    _add_others(made, setup, catalogue, hull)
    _add_wires(made, setup, hull)
    return made


def _post(made: MachineShape, setup: Setup, catalogue: Catalogue, box: Box) -> Hull:
    """A base with a gantry across it; the bed runs through below."""
    bed = catalogue.beds[setup.bed.part]
    centre = box.left + 0.46 * (box.right - box.left)
    reach = min(0.5 * bed.depth_mm, centre - box.left - 4.0)
    for foot in (0.1, 0.84):
        x = box.left + foot * (box.right - box.left)
        made.add("frame", Box(x, box.bottom, x + 22.0, box.bottom + 12.0), points=False)
    base = made.add("frame", Box(box.left + 6.0, 12.0, box.right - 6.0, 58.0), points=False)
    made.bed = Box(centre - reach, 98.0, centre + reach, 98.0)
    post = made.add("frame", Box(centre + 46.0, 58.0, centre + 78.0, box.top))
    made.add("frame", Box(post.left - 12.0, box.top - 18.0, post.right + 8.0, box.top), points=False)
    made.add("frame", Box(made.bed.left + 14.0, 84.0, made.bed.right - 14.0, 91.0), points=False)
    made.tip = (centre, min(98.0 + PRINTED + 12.0, box.top - LEAST_HEAD))
    made.anchors["frame"] = (post.middle[0], box.top - 80.0)
    return Hull(
        box, post.right, (post.right + 4.0, 58.0 + 0.55 * (box.top - 58.0)), base, (post.middle[0], box.top + 24.0)
    )


def _box(made: MachineShape, setup: Setup, catalogue: Catalogue, box: Box) -> Hull:
    """A frame with the gantry at its top and a bed that comes up to it; electronics below."""
    bed = catalogue.beds[setup.bed.part]
    wide, high = box.right - box.left, box.top - box.bottom
    base = made.add("frame", Box(box.left, box.bottom - BAY, box.right, box.bottom), points=False)
    if made.enclosure is None:
        for x in (box.left, box.right - 20.0):
            made.add("frame", Box(x, box.bottom, x + 20.0, box.top))
        made.add("frame", Box(box.left, box.top - 18.0, box.right, box.top), points=False)
    rail = made.add("frame", Box(box.left + 0.05 * wide, 0.84 * high, box.right - 0.05 * wide, 0.84 * high + 12.0))
    centre = box.left + 0.46 * wide
    reach = min(0.5 * bed.depth_mm, 0.42 * wide)
    tip = 0.84 * high - 46.0
    surface = tip - PRINTED - 12.0
    made.bed = Box(centre - reach, surface, centre + reach, surface)
    screw = box.right - 0.09 * wide
    made.add("frame", Box(screw, 0.04 * high, screw + 8.0, 0.8 * high), points=False)
    made.add("frame", Box(centre - 0.6 * reach, surface - 26.0, screw + 14.0, surface - 14.0), points=False)
    made.tip = (centre, tip)
    made.anchors["frame"] = (rail.left + 0.16 * (rail.right - rail.left), rail.middle[1])
    return Hull(box, centre + reach, (screw - 60.0, 0.62 * high), base, (box.left + 0.6 * wide, box.top + 24.0))


def _towers(made: MachineShape, setup: Setup, catalogue: Catalogue, box: Box) -> Hull:
    """Two of three towers, the head between them on arms."""
    bed = catalogue.beds[setup.bed.part]
    wide = box.right - box.left
    base = made.add("frame", Box(box.left, box.bottom, box.right, 64.0), points=False)
    centre, reach = 0.5 * (box.left + box.right), min(0.5 * bed.depth_mm, 0.4 * wide)
    tip = min(64.0 + 22.0 + PRINTED + 12.0, box.top - LEAST_HEAD)
    for x in (box.left + 4.0, box.right - 28.0):
        tower = made.add("frame", Box(x, 64.0, x + 24.0, box.top))
        inward = tower.right if x < centre else tower.left
        slide = 64.0 + 0.5 * (box.top - 64.0)
        side = -1.0 if x < centre else 1.0
        made.draw("frame", "bar", (inward, slide), (centre + 22.0 * side, tip + 30.0))
    made.add("frame", Box(box.left, box.top - 20.0, box.right, box.top), points=False)
    made.bed = Box(centre - reach, 86.0, centre + reach, 86.0)
    made.tip = (centre, tip)
    made.anchors["frame"] = (box.right - 16.0, box.top - 70.0)
    at = (box.right - 32.0 - MOTOR, 64.0 + 0.66 * (box.top - 64.0))
    return Hull(box, centre + 40.0, at, base, (centre, box.top + 24.0))


_FRAMES: dict[str, Callable[[MachineShape, Setup, Catalogue, Box], Hull]] = {
    "post": _post, "box": _box, "towers": _towers,
}  # fmt: skip


def _add_bed(made: MachineShape, setup: Setup, catalogue: Catalogue) -> None:
    """Its layers upward from the underside; what is under it and on it by their own cards."""
    bed, sheet = catalogue.beds[setup.bed.part], catalogue.sheets[setup.bed.sheet]
    at = made.bed
    thick = sum(layer.mm for layer in bed.layers)
    below = setup.bed.insulation_mm if setup.bed.insulation != "none" else 0.0
    under = Box(at.left + 4.0, at.bottom - below, at.right - 4.0, at.bottom)
    if below > 0.0:
        made.add("bed_under", under, "bed_under")
    else:
        made.anchors["bed_under"] = (at.left + 0.24 * (at.right - at.left), at.bottom - 3.0)
    plate = made.add("bed", Box(at.left, at.bottom, at.right, at.bottom + thick), "bed")
    made.anchors["bed"] = (at.left + 0.78 * (at.right - at.left), plate.middle[1])
    above = sum(layer.mm for layer in sheet.layers)
    face = plate.top + above
    if above > 0.0:
        made.add("bed_sheet", Box(at.left, plate.top, at.right, face), "bed_centre", points=False)
    made.anchors["bed_sheet"] = (at.left + 0.08 * (at.right - at.left), face)
    made.bed = Box(at.left, at.bottom, at.right, face)
    made.tip = (made.tip[0], max(made.tip[1], face + 12.0))
    made.add("print", Box(made.tip[0] - 16.0, face, made.tip[0] + 16.0, made.tip[1]))


def _add_further(made: MachineShape, setup: Setup, catalogue: Catalogue) -> None:
    """Further toolheads behind the one in front: beside it, in its block, or on carriages of their own."""
    x, y = made.tip
    for n, (number, other) in enumerate(others_in_front(setup), 1):
        kind = catalogue.hotends[other.hotend.template]
        if in_one_block(setup, number, catalogue):
            at = x + IN_ONE_BLOCK * n
        elif on_one_carriage(setup, number, catalogue):
            at = x + ON_ONE_CARRIAGE * n
        else:
            at = max(made.bed.right - OWN_CARRIAGE * (n - 1), x + ON_ONE_CARRIAGE * n)
        low = y + kind.cone + kind.hex
        top = low + kind.block.height
        base, half = top + kind.neck, 0.5 * kind.sink.fin_d
        crown = base + kind.sink.height
        if not on_one_carriage(setup, number, catalogue):
            made.add("toolheads", Box(at + 4.0, base - 6.0, at + half + 14.0, crown + 6.0), points=False)
        for box, station, named in (
            (Box(at - 3.0, top, at + 3.0, base), "bore", False),
            (Box(at - half, base, at + half, crown), "sink_base", True),
            (Box(at - 0.5 * kind.block.width, low, at + 0.5 * kind.block.width, top), "block", False),
            (Box(at - 2.0, y, at + 2.0, low), "nozzle", False),
        ):
            made.add("toolheads", box, station_of(number, station), points=named)


def _add_head(made: MachineShape, setup: Setup, catalogue: Catalogue, hull: Hull) -> None:
    """Carriage, hotend with its fans, and what pushes the filament."""
    kind, fan = catalogue.hotends[setup.hotend.template], catalogue.fans[setup.fan.part]
    x, y = made.tip
    low = y + kind.cone + kind.hex
    top = low + kind.block.height
    base = top + kind.neck
    crown = base + kind.sink.height
    half = 0.5 * kind.sink.fin_d
    made.add("carriage", Box(x + 4.0, base - 6.0, x + half + 22.0, crown + 6.0), "carriage", points=False)
    made.anchors["carriage"] = (x + half + 12.0, base + 4.0)
    made.add("heatsink_fan", Box(x - half - 13.0, base - 2.0, x - half - 3.0, base - 2.0 + fan.size_mm), "fan_inlet")
    made.add("part_fan", Box(x - half - 40.0, y + 6.0, x - half - 18.0, y + 44.0))
    made.add("heat_break", Box(x - 3.0, top, x + 3.0, base), "bore")
    made.add("hotend", Box(x - half, base, x + half, crown), "sink_base", points=False)
    made.add("hotend", Box(x - 0.5 * kind.block.width, low, x + 0.5 * kind.block.width, top), "block")
    made.add("hotend", Box(x - 2.0, y, x + 2.0, low), "nozzle", points=False)
    if catalogue.drives[setup.hotend.drive].slack_mm.value > 0.0:  # a tube lies between
        left, bottom = hull.motor_at
        motor = made.add("extruder", Box(left, bottom, left + MOTOR, bottom + MOTOR), "motor")
        out = (motor.left + 10.0, motor.top)
        crest = min(max(motor.top, crown) + 90.0, hull.frame.top - 10.0)
        made.draw("extruder", "tube", out, (out[0] - 4.0, crest), (x + 8.0, crest), (x, crown))
        made.anchors["extruder"] = motor.middle
    else:
        made.add("extruder", Box(x - 10.0, crown + 4.0, x - 10.0 + MOTOR, crown + 4.0 + MOTOR), "motor")


def _add_others(made: MachineShape, setup: Setup, catalogue: Catalogue, hull: Hull) -> None:
    """What sits inside or outside an enclosure, each at its place; all of it at the machine where nothing closes it."""
    case, places = setup.case, catalogue.places
    room = made.enclosure

    def inside(at: str) -> bool:
        return room is None or places[at].inside > 0.5

    def up(at: str, low: float, high: float) -> float:
        return low + places[at].high * (high - low) if room is not None else low

    frame, base = hull.frame, hull.base
    right = (room.right if room is not None else frame.right) + BESIDE
    roof = room.top if room is not None else frame.top
    x, y = (min(hull.top[0], frame.right - 10.0), hull.top[1]) if inside(case.spool_at) else (hull.top[0], roof + 14.0)
    if room is not None and inside(case.spool_at):
        x, y = room.right - SPOOL - 12.0, min(y, room.top - SPOOL - 8.0)
        y = min(y, up(case.spool_at, 1.3 * SPOOL, y)) if hull.behind + 2.0 * SPOOL < room.right else y
        made.add("spool", Box(x - SPOOL, y - SPOOL, x + SPOOL, y + SPOOL), "case_spool", rounded=True)
    else:
        made.add("spool", Box(x - SPOOL, y, x + SPOOL, y + 2.0 * SPOOL), "case_spool", rounded=True)
    extruder = next(one.box for one in made.solids if one.card == "extruder")
    made.draw("spool", "filament", (made.anchors["spool"][0] - 0.9 * SPOOL, made.anchors["spool"][1]),
              (extruder.left + 12.0, extruder.top + 60.0), (extruder.left + 12.0, extruder.top))  # fmt: skip
    if inside(case.supply_at):
        left = min(hull.behind + 26.0, frame.right - 60.0)
        low = up(case.supply_at, base.top + 2.0 if room is None or base.bottom >= 0.0 else 6.0, frame.top - 150.0)
        made.add("supply", Box(left, low, left + 54.0, low + 112.0), "case_supply")
    elif base.bottom < 0.0:
        made.add(
            "supply", Box(base.right - 150.0, base.bottom + 14.0, base.right - 20.0, base.bottom + 66.0), "case_supply"
        )
    else:
        made.add("supply", Box(right, 0.0, right + 54.0, 112.0), "case_supply")
    supply = made.solids[-1].box
    _add_supplies(made, setup, catalogue, supply)
    in_base = inside(case.board_at) or base.bottom < 0.0 or places[case.board_at].bay
    if in_base and not (room is not None and places[case.board_at].high > 0.0):
        at = base.left + 0.36 * (base.right - base.left)
        made.add("board", Box(at, base.bottom + 14.0, at + 92.0, base.bottom + 28.0), "case_board")
    elif inside(case.board_at):
        low = up(case.board_at, 20.0, frame.top - 90.0)
        made.add("board", Box(frame.right - 30.0, low, frame.right - 16.0, low + 80.0), "case_board")
    else:
        made.add("board", Box(right, supply.top + 26.0, right + 54.0, supply.top + 40.0), "case_board")
    if room is None:
        front = frame.left - 24.0
    else:
        front = frame.left + 8.0 if inside(case.display_at) else room.left - BESIDE - 24.0
    made.add("display", Box(front, base.bottom + 12.0, front + 16.0, base.bottom + 62.0), "case_display")
    low = up(case.motors_at, 0.84 * frame.top, 0.9 * frame.top) if inside(case.motors_at) else frame.top + 6.0
    low, left = min(low, frame.top - 60.0), frame.right - 66.0
    made.add("motors", Box(left, low, left + MOTOR, low + MOTOR), "case_motor")
    left = frame.left + 0.3 * (frame.right - frame.left)
    made.add("printed_parts", Box(left, frame.top - 46.0, left + 14.0, frame.top - 20.0), "case_printed")
    for key, one in sorted(setup.printed.items()):
        left += 22.0
        low = up(one.at, 20.0, frame.top - 70.0) if inside(one.at) else frame.top + 8.0
        made.add(
            "printed_parts", Box(left, low, left + 14.0, low + 26.0), station_of(key, "case_printed"), points=False
        )
    if room is not None:
        made.anchors["enclosure"] = (room.left, room.bottom + 0.72 * (room.top - room.bottom))
        made.anchors["vents"] = (room.left + 0.8 * (room.right - room.left), room.top)
        if case.heater_w > 0.0:
            high = catalogue.heater_places[case.heater_at].height.value
            low = 6.0 + high * (room.top - 36.0)
            at = room.left + 0.1 * (room.right - room.left)
            made.add("enclosure_heater", Box(at, low, at + 70.0, low + 22.0))


def _add_supplies(made: MachineShape, setup: Setup, catalogue: Catalogue, first: Box) -> None:
    """Further supplies: in a row beside the first one where they sit as it does, else in a row outside or inside."""
    room, outside = made.enclosure, made.extent.right + BESIDE
    own = catalogue.places[setup.case.supply_at].inside > 0.5
    beside = {own: first.right + 8.0, not own: outside if own or room is None else room.left + 10.0}
    for number, one in sorted(setup.supplies.items()):
        inside = catalogue.places[one.supply_at].inside > 0.5
        small = bool(catalogue.supplies[one.supply].converts)
        wide, high = (26.0, 30.0) if small else (46.0, 0.8 * (first.top - first.bottom))
        low = first.bottom if inside == own else 0.0
        left, key = beside[inside], station_of(number, "case_supply")
        made.add("supplies", Box(left, low, left + wide, low + high), key)
        beside[inside] = left + wide + 8.0


def _add_wires(made: MachineShape, setup: Setup, hull: Hull) -> None:
    """Leads, and the cord to the outlet."""
    board, supply = made.anchors["board"], made.anchors["supply"]
    bed, (x, y) = made.bed, made.tip
    made.draw("board", "wire", supply, (0.5 * (supply[0] + board[0]), min(supply[1], board[1]) - 6.0), board)
    end = (bed.right - 6.0, bed.bottom)
    if setup.bed.part != "none":
        source = board if setup.power.bed_from == FIRST else made.anchors["supplies"]
        made.draw(
            "bed_lead", "wire", source, (bed.right + 16.0, board[1] + 4.0), (bed.right + 22.0, bed.bottom - 14.0), end
        )
    back = min(hull.behind + 8.0, hull.frame.right - 6.0)
    rise = min(y + 130.0, hull.frame.top - 6.0)
    over = x + 16.0
    made.draw("hotend_lead", "wire", board, (back, board[1] + 10.0), (back, rise), (over, rise + 8.0), (over, y + 60.0),
              (x + 8.0, y + 14.0))  # fmt: skip
    made.anchors["hotend_lead"] = (back, 0.5 * (rise + board[1]))
    out = max(made.extent.right, supply[0] + 40.0)
    made.draw("outlet", "wire", supply, (supply[0] + 20.0, made.extent.bottom - 2.0), (out, made.extent.bottom - 2.0))
    made.anchors["outlet"] = (out, made.extent.bottom - 2.0)
