"""All numbers that an enclosure depends on, in SI, with the 95 % half-width of each."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zeotherm.core.catalogue.enclosures import OWN, CaseShape, HeaterPlace
from zeotherm.core.catalogue.entry import Figure, Layer
from zeotherm.core.catalogue.lookup import DoesNotFitError, take
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.numbers import in_si
from zeotherm.core.machine.patches import value_at
from zeotherm.core.parts.hotend.model.inputs import MM

HOUR = 3600.0
SIDES = ("left", "right", "front", "back")


@dataclass(frozen=True, slots=True)
class Wall:
    """One side of an enclosure, or its window: what it is built of, in SI."""

    name: str  # floor, roof, left, right, front, back, window
    area: float
    resistance: float  # through it [m²K/W]
    capacity: float  # of all of it [J/K]
    inside: float  # emissivity
    outside: float

    @property
    def high(self) -> float:
        """Which share of it lies in the upper half."""
        return {"floor": 0.0, "roof": 1.0}.get(self.name, 0.5)


@dataclass(frozen=True, slots=True)
class HeatedFrom:
    """Where a heater gives its heat, in SI."""

    height: float  # of the enclosure's [-]
    side: float  # of the square that gives it, of each
    units: int
    blown: float  # by their own fans [m³/s]
    roofward: float  # share that the roof takes before the air mixes [-]

    @property
    def high(self) -> bool:
        """Whether it stands in the upper half."""
        return self.height > 0.5


@dataclass(frozen=True, slots=True)
class ChamberInputs:
    """One resolved enclosure. Temperatures in °C, all else SI; the fields up to `stands_open` carry no doubt."""

    walls: tuple[Wall, ...]
    width: float
    depth: float
    height: float
    heater_units: int
    second_units: int
    stands_open: bool  # on all sides: no walls

    open_loss: float  # of what stands open [W/K]
    content: float  # heat capacity of frame and machine [J/K]
    content_lag: float  # after which they have followed still air by 1 - 1/e, without radiation [s]
    gap: float  # area that never shuts, low and high together [m²]
    vent: float  # area of the low openings at full opening, and of the high ones [m²]
    vents_open: float
    rise: float
    discharge: float
    exhaust: float  # m³/s
    intake: float  # m³/s
    recirculation: float
    swept: float  # share of a fan's air that has passed the print and does not come in just beside it [-]
    mixing: float  # share of a recirculating fan's air that goes from one half to the other [-]
    heater: float  # W
    heater_cap: float  # air at it where its own limit stops it [°C]; zero: none
    heater_fades: float  # air at which a self-regulating element gives nothing [°C]; zero: it gives the same always
    second: float  # heater, W
    second_cap: float
    target: float
    sensor: float  # its height, of the enclosure's [-]
    heater_height: float  # at which it gives its heat, of the enclosure's [-]
    heater_side: float  # of the square that gives it, of each unit [m]
    heater_blown: float  # by its own fans [m³/s]
    heater_roofward: float  # share that the roof takes before the air mixes [-]
    second_height: float
    second_side: float
    second_blown: float
    second_roofward: float
    plume: float  # on what a plume carries [-]
    film: float  # on all films of its air [-]
    shed: float  # on those outside, besides [-]
    level: float  # on those of floor and roof, besides [-]
    within: float  # by which air at a place differs from its half's, of the half's rise over the room [-]
    apart: float  # and of what the halves are apart [-]
    frame: float  # of what its walls see, frame and machine [-]
    wall_factor: float  # on the resistance of its walls [-]
    pressure: float

    @property
    def volume(self) -> float:
        """Of its air [m³]."""
        return self.width * self.depth * self.height

    @property
    def heats(self) -> bool:
        """Whether it has a heater."""
        return self.heater + self.second > 0.0

    @property
    def heater_from(self) -> HeatedFrom:
        """Where the heater gives its heat."""
        return HeatedFrom(
            self.heater_height, self.heater_side, self.heater_units, self.heater_blown, self.heater_roofward
        )

    @property
    def second_from(self) -> HeatedFrom:
        """Where the second heater gives its heat."""
        return HeatedFrom(
            self.second_height, self.second_side, self.second_units, self.second_blown, self.second_roofward
        )

    @property
    def heaters(self) -> tuple[tuple[float, HeatedFrom], ...]:
        """Rated watts and place of each heater that is there."""
        both = ((self.heater, self.heater_from), (self.second, self.second_from))
        return tuple(one for one in both if one[0] > 0.0)

    @property
    def rated(self) -> float:
        """Of all its heaters [W]."""
        return self.heater + self.second

    def rated_in(self, *, high: bool) -> float:
        """Of its heaters in one half [W]."""
        return sum(watts for watts, place in self.heaters if place.high == high)

    @property
    def roofward(self) -> float:
        """Share of what heaters in the upper half give that the roof takes before the air mixes [-]."""
        high = [(watts, place.roofward) for watts, place in self.heaters if place.high]
        return sum(watts * share for watts, share in high) / sum(watts for watts, _share in high) if high else 0.0

    @property
    def sensor_weight(self) -> float:
        """Of the upper half in what the control's sensor reads; a half is itself in its middle [-]."""
        return min(max((self.sensor - 0.25) / 0.5, 0.0), 1.0)

    @property
    def openings(self) -> float:
        """Area of the low openings, and of the high ones, as they stand now [m²]."""
        return 0.5 * self.gap + self.vent * self.vents_open


@dataclass(frozen=True, slots=True)
class ResolvedChamber:
    """Inputs, and the doubt of each by its name (95 %)."""

    inputs: ChamberInputs
    doubts: dict[str, float]


QUANTITIES: dict[str, tuple[str, float]] = {
    "width": ("case.width_mm", MM),
    "depth": ("case.depth_mm", MM),
    "height": ("case.height_mm", MM),
    "vents_open": ("case.vents_open_pct", 0.01),
    "exhaust": ("case.exhaust_m3h", 1.0 / HOUR),
    "intake": ("case.intake_m3h", 1.0 / HOUR),
    "recirculation": ("case.recirculation_m3h", 1.0 / HOUR),
    "heater": ("case.heater_w", 1.0),
    "heater_cap": ("case.heater_cap_c", 1.0),
    "heater_fades": ("case.heater_fades_c", 1.0),
    "second": ("case.heater2_w", 1.0),
    "second_cap": ("case.heater2_cap_c", 1.0),
    "target": ("case.target_c", 1.0),
    "sensor": ("case.sensor_pct", 0.01),
    "film": ("corrections.case_film", 1.0),
    "pressure": ("surroundings.pressure_kpa", 1e3),
}
PANEL_OF = {"left": "sides", "right": "sides", "front": "front", "back": "back", "roof": "roof", "floor": "floor"}
FACTORS = {"gap": "corrections.case_gap", "content": "corrections.case_content"}
ASSUMPTIONS = {
    "discharge": "vent_discharge",
    "mixing": "case_mixing",
    "plume": "case_plume",
    "frame": "case_frame",
    "content_lag": "case_content_lag",
    "wall_factor": "case_walls",
    "swept": "case_swept",
    "shed": "case_shed",
    "level": "case_level",
    "within": "case_within",
    "apart": "case_apart",
}
UNLESS_NOUGHT = ("heater_cap", "heater_fades", "second", "second_cap")  # there is none
FROM = ("height", "side", "blown", "roofward")  # what of a heater's place is doubted
NO_DOUBT = ("width", "depth", "height", "pressure")


def resolve_chamber(setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None = None) -> ResolvedChamber:
    """Look up case, panels and lining, convert to SI, gather the doubts.

    tolerances: better known 95 % half-widths by path, in the path's unit. Raises DoesNotFitError: an unknown part, a
    case lower than its openings are apart, openings larger than the wall they are in.
    """
    case = setup.case
    known = tolerances or {}
    shape: CaseShape = take(catalogue, "cases", case.part, "case.part")
    lining = take(catalogue, "linings", case.lining, "case.lining").layer
    heater = take(catalogue, "heater_places", case.heater_at, "case.heater_at")
    second = take(catalogue, "heater_places", case.heater2_at, "case.heater2_at")
    figures: dict[str, tuple[Figure, float]] = {
        "content": (shape.content_j_k, 1.0), "gap": (shape.gap_cm2, 1e-4), "vent": (shape.vent_cm2, 1e-4),
        "rise": (shape.rise_mm, MM),
    }  # fmt: skip
    figures |= {name: (catalogue.assumptions[key].figure, 60.0 if name == "content_lag" else 1.0)
                for name, key in ASSUMPTIONS.items()}  # fmt: skip
    values = {name: figure.value * scale for name, (figure, scale) in figures.items()}
    doubts = {name: figure.tolerance * scale for name, (figure, scale) in figures.items()}
    values["open_loss"] = shape.open_w_k.value if shape.open_w_k is not None else 0.0
    doubts["open_loss"] = shape.open_w_k.tolerance if shape.open_w_k is not None else 0.0
    for name, place in (("heater", heater), ("second", second)):
        values |= placed(name, place)
        doubts |= {key: figure.tolerance * scale for key, (figure, scale) in _figures(name, place).items()}
    told, widths = in_si(setup, QUANTITIES, known)
    values, doubts = values | told, doubts | widths
    for name, path in FACTORS.items():  # of the kind's own figure; better known once a run was fitted
        factor, base = float(value_at(setup, path)), values[name]
        values[name] = base * factor
        width = known.get(path)
        doubts[name] = base * width if width is not None else doubts[name] * factor
    walls = _walls(setup, shape, catalogue, lining)
    _check(setup, shape, values)
    gone = [name for name in UNLESS_NOUGHT if values[name] <= 0.0]
    gone += [f"{name}_{key}" for name in ("heater", "second") for key in FROM if values[name] <= 0.0]
    for name in (*NO_DOUBT, *gone):
        doubts.pop(name, None)
    inputs = ChamberInputs(
        walls=walls, heater_units=heater.units, second_units=second.units,
        stands_open=shape.open_w_k is not None, **values,
    )  # fmt: skip
    return ResolvedChamber(inputs, {name: width for name, width in doubts.items() if width > 0.0})


def placed(name: str, place: HeaterPlace) -> dict[str, float]:
    """The inputs that a heater's place settles, in SI; name: `heater` or `second`."""
    found = {key: figure.value * scale for key, (figure, scale) in _figures(name, place).items()}
    return {f"{name}_blown": 0.0, f"{name}_roofward": 0.0, **found}


def _figures(name: str, place: HeaterPlace) -> dict[str, tuple[Figure, float]]:
    """By input, with the scale to SI."""
    found = {f"{name}_height": (place.height, 1.0), f"{name}_side": (place.side_mm, MM)}
    if place.blown_m3h is not None:
        found[f"{name}_blown"] = (place.blown_m3h, 1.0 / HOUR)
    if place.roofward is not None:
        found[f"{name}_roofward"] = (place.roofward, 1.0)
    return found


def _walls(setup: Setup, shape: CaseShape, catalogue: Catalogue, lining: Layer | None) -> tuple[Wall, ...]:
    if shape.walls is None:
        return ()
    case = setup.case
    wide, deep, high = case.width_mm * MM, case.depth_mm * MM, case.height_mm * MM
    front = wide * high
    pane = 0.01 * shape.window_pct * front if shape.window is not None else 0.0
    areas = {"floor": wide * deep, "roof": wide * deep, "left": deep * high, "right": deep * high,
             "front": front - pane, "back": front}  # fmt: skip
    made = []
    for name, area in areas.items():
        path = f"{PANEL_OF[name]}_panel"
        chosen = str(getattr(case, path))
        kind = take(catalogue, "panels", shape.walls if chosen == OWN else chosen, f"case.{path}")
        layers = (lining, *kind.layers) if lining is not None else kind.layers
        if area > 0.0:
            made.append(_wall(name, area, layers, catalogue))
    if shape.window is not None and pane > 0.0:
        made.append(_wall("window", pane, catalogue.panels[shape.window].layers, catalogue))
    return tuple(made)


def _wall(name: str, area: float, layers: tuple[Layer, ...], catalogue: Catalogue) -> Wall:
    materials = [catalogue.materials[layer.material] for layer in layers]
    pairs = list(zip(layers, materials, strict=True))
    return Wall(
        name, area,
        sum(layer.mm * MM / material.conductivity_w_mk.value for layer, material in pairs),
        area * sum(layer.mm * MM * material.capacity_j_m3k.value for layer, material in pairs),
        materials[0].emissivity.value, materials[-1].emissivity.value,
    )  # fmt: skip


def _check(setup: Setup, shape: CaseShape, values: dict[str, float]) -> None:
    if shape.walls is None:
        return
    if values["rise"] >= values["height"]:
        raise DoesNotFitError(
            "case.height_mm",
            f"{setup.case.height_mm:g} mm is lower than its openings are apart, {1e3 * values['rise']:g} mm.",
        )
    frame = setup.frame
    for path, has, parts in (
        ("case.width_mm", setup.case.width_mm, (frame.width_mm,)),
        ("case.depth_mm", setup.case.depth_mm, (frame.depth_mm, frame.sweep_mm)),
        ("case.height_mm", setup.case.height_mm, (frame.height_mm,)),
    ):
        if parts[0] > 0.0 and has < sum(parts):
            told = " + ".join(f"{part:g}" for part in parts if part > 0.0)
            raise DoesNotFitError(path, f"{has:g} mm inside is less than the machine moves in: {told} mm.")
    side = max(values["width"], values["depth"]) * values["height"]
    if values["vent"] > side:
        raise DoesNotFitError(
            "case.width_mm",
            f"its openings take {1e4 * values['vent']:.0f} cm², the largest wall has {1e4 * side:.0f} cm².",
        )


def with_chamber_number(inputs: ChamberInputs, name: str, value: float) -> ChamberInputs:
    """The enclosure with one number changed, kept within what is possible."""
    before = getattr(inputs, name)
    if before > 0.0 and name != "target":
        value = max(value, 0.15 * before)
    if name in ("vents_open", "sensor", "mixing", "frame"):
        value = min(max(value, 0.0), 1.0)
    return replace(inputs, **{name: value})  # type: ignore[arg-type]  # the name is of a number
