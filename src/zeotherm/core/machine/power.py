"""The way of the power from the wall to the loads: supply, wires, contacts, switch, fuse, and what else draws."""

from __future__ import annotations

from zeotherm.core.machine.quantity import Document, choice, part, quantity


class Contact(Document):
    """A joint that a load's current passes, there and back."""

    kind: str = choice(
        "screw_ferrule", "Kind", "contacts", names=("kind", "type"), help="How the wire is held there, and made."
    )
    state: str = choice(
        "sound",
        "State",
        "contact_states",
        names=("state",),
        help="How it looks: sound, aged, loose, burnt.",
    )
    milliohm: float = quantity(
        0.0,
        "Milliohms",
        "mΩ",
        0,
        2000,
        step=5,
        relative=0.15,
        names=("milliohms", "mohm", "resistance"),
        help="Of its worse pole, measured: volts across it over the amps through it. 0: by its kind and state.",
    )


class Wire(Document):
    """A pair of wires, there and back."""

    mm2: float = quantity(
        1.5,
        "Cross-section",
        "mm²",
        0.03,
        35,
        step=0.5,
        relative=0.06,
        names=("", "cross-section", "size", "gauge"),
        help="Of the metal of one wire. A gauge number may be typed: 16 AWG.",
    )
    metres: float = quantity(
        0.5,
        "Length",
        "m",
        0.02,
        30,
        step=0.2,
        relative=0.05,
        names=("length",),
        help="One way, along the wire.",
    )
    metal: str = choice("copper", "Metal", "wire_metals", names=("metal",), help="What its strands are made of.")
    insulation: str = choice(
        "pvc", "Insulation", "wire_insulations", names=("insulation",), help="Class of its insulation."
    )
    bundle: float = quantity(
        2.0,
        "Loaded wires in its bundle",
        "pc",
        1,
        60,
        step=2,
        names=("bundle",),
        help="How many wires that carry current lie together, this pair counted. They warm each other.",
    )
    motion: str = choice(
        "still", "Motion", "motions", names=("motion", "moves"), help="Whether it moves with bed or carriage."
    )


class Power(Document):
    """The paths of the bed's and the hotend's power, the supply, and the other loads."""

    path: str = choice(
        "unknown",
        "Power path",
        "power_paths",
        names=("power path", "path"),
        help="By what the bed is switched. Not described: nothing is said of wires and contacts.",
    )
    supply: str = choice(
        "boxed_fanless",
        "Power supply",
        "supplies",
        names=("supply type", "supply kind", "power supply"),
        help="The kind of supply: how well it does, and from which air on it gives less.",
    )
    supply_w: float = quantity(
        350.0,
        "Supply's rating",
        "W",
        10,
        5000,
        step=50,
        names=("supply rating", "supply watts", "rating"),
        help="Printed on it, at the voltage it is set to.",
    )
    out_v: float = quantity(
        24.0,
        "Supply's output",
        "V",
        4,
        60,
        step=0.5,
        tolerance=0.15,
        names=("supply output", "output volts"),
        help="Across its output terminals under load.",
    )
    years: float = quantity(
        2.0,
        "Supply's age",
        "years",
        0,
        40,
        step=1,
        tolerance=1.0,
        names=("supply age", "supply's age"),
        help="Years of use: its capacitors dry out, and it gives less.",
    )
    mains_v: float = quantity(
        230.0,
        "Mains",
        "V",
        85,
        265,
        step=10,
        relative=0.06,
        names=("mains", "mains voltage"),
        help="At the outlet, by the plug-in meter.",
    )
    selector_v: float = quantity(
        0.0,
        "Supply's selector",
        "V",
        0,
        240,
        step=115,
        names=("selector", "mains selector"),
        help="Mains voltage that the supply's selector is set to, 115 or 230; 0: not looked at, or it has none.",
    )
    outlet_a: float = quantity(
        13.0,
        "Outlet or strip",
        "A",
        1,
        63,
        step=1,
        names=("outlet", "strip", "outlet rating"),
        help="Rating of the weakest of outlet, strip and cord.",
    )
    strip_w: float = quantity(
        0.0,
        "Others on the same outlet",
        "W",
        0,
        10000,
        step=100,
        relative=0.1,
        names=("strip load", "others on the outlet"),
        help="What else is plugged in there: dryer, second printer. The enclosure's heaters count by themselves.",
    )
    fuse_a: float = quantity(
        0.0,
        "Bed's fuse",
        "A",
        0,
        63,
        step=5,
        names=("fuse", "bed fuse"),
        help="Fuse in the bed's own path; 0: there is none, or it is not known.",
    )
    board_fuse_a: float = quantity(
        0.0,
        "Board's fuse",
        "A",
        0,
        63,
        step=5,
        names=("board fuse", "input fuse"),
        help="Fuse in or before the board's input, behind which the feed wire lies; 0: there is none, or it is not "
        "known.",
    )
    board_a: float = quantity(
        0.0,
        "Board's input, rating",
        "A",
        0,
        63,
        step=5,
        names=("board input", "board rating"),
        help="What the board's input may carry for all its loads, by its data sheet; 0: not known.",
    )
    heater_output_a: float = quantity(
        0.0,
        "Hotend output, rating",
        "A",
        0,
        30,
        step=1,
        names=("hotend output", "hotend output rating"),
        help="What the board's output for the hotend's heater may carry, by its data sheet; 0: not known.",
    )
    motors_w: float = quantity(
        24.0,
        "Motors and drivers",
        "W",
        0,
        500,
        step=5,
        relative=0.3,
        names=("motors", "drivers"),
        help="What all motors and their drivers draw while they print.",
    )
    fans_w: float = quantity(
        7.0,
        "Fans",
        "W",
        0,
        200,
        step=2,
        relative=0.2,
        names=("fans", "fan watts"),
        help="All fans together.",
    )
    lights_w: float = quantity(
        0.0,
        "Lights, display and others",
        "W",
        0,
        500,
        step=5,
        relative=0.2,
        names=("lights",),
        help="What else hangs on the supply: lights, display, camera, second controller.",
    )
    output_fans_w: float = quantity(
        0.0,
        "Fans on one output",
        "W",
        0,
        100,
        step=1,
        relative=0.2,
        names=("fans on one output", "fan output load"),
        help="Of the fans that are spliced onto one output of the board; 0: not counted.",
    )
    output_a: float = quantity(
        1.0,
        "Rating of that output",
        "A",
        0.1,
        10,
        step=0.5,
        names=("fan output", "fan output rating"),
        help="What the board's fan output may carry.",
    )
    bed_from: str = choice(
        "S1",
        "Bed fed by",
        "power_sources",
        names=("bed on", "bed from", "bed fed by"),
        help="The supply that feeds the bed.",
    )
    motors_from: str = choice(
        "S1",
        "Motors fed by",
        "power_sources",
        names=("motors on", "motors from", "motors fed by"),
        help="The supply that feeds the motors' drivers.",
    )
    fans_from: str = choice(
        "S1",
        "Fans fed by",
        "power_sources",
        names=("fans on", "fans from", "fans fed by"),
        help="The supply that feeds the fans.",
    )
    lights_from: str = choice(
        "S1",
        "Lights and display fed by",
        "power_sources",
        names=("lights on", "lights from", "lights fed by", "display on", "display from", "display fed by"),
        help="The supply that feeds lights, display and others.",
    )
    supply_terminal: Contact = part(Contact(), "Supply terminal", names=("supply terminal",))
    feed: Wire = part(Wire(mm2=2.5), "Feed wire", names=("feed wire", "feed"))
    feed_terminal: Contact = part(Contact(), "Feed terminal", names=("feed terminal", "board terminal"))
    switch: str = choice(
        "board_transistor",
        "Bed switch",
        "switches",
        names=("bed switch", "switch"),
        help="What switches the bed, on the board or on its own.",
    )
    plug: Contact = part(Contact(kind="crimped_plug"), "Bed plug", names=("bed plug",))
    lead: Wire = part(Wire(insulation="silicone", motion="moving"), "Bed lead", names=("bed lead", "lead"))
    tabs: Contact = part(Contact(kind="soldered_tab"), "Bed tabs", names=("bed tabs", "tabs"))
    heater_terminal: Contact = part(Contact(), "Hotend terminal", names=("hotend terminal", "heater terminal"))
    heater_lead: Wire = part(
        Wire(mm2=0.5, metres=1.0, insulation="silicone", bundle=6.0, motion="moving"), "Hotend lead",
        names=("hotend lead", "heater lead"),
    )  # fmt: skip
    heater_plug: Contact = part(Contact(kind="small_plug"), "Hotend plug", names=("hotend plug", "heater plug"))
