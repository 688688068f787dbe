"""The machine as a thing that takes room: what a case about it has to let move."""

from __future__ import annotations

from zeotherm.core.machine.quantity import Document, choice, quantity


class Frame(Document):
    """Outer size and reach of the machine; zero where it is not measured."""

    kind: str = choice(
        "bed_moves", "Frame", "frames", names=("frame", "frame kind"), help="How the machine is built; for its picture."
    )
    width_mm: float = quantity(
        0.0,
        "Machine's width",
        "mm",
        0,
        3000,
        step=10,
        tolerance=3.0,
        names=("machine width",),
        help="Outside, motors and knobs with it; 0: not measured.",
    )
    depth_mm: float = quantity(
        0.0,
        "Machine's depth",
        "mm",
        0,
        3000,
        step=10,
        tolerance=3.0,
        names=("machine depth",),
        help="Outside, the bed in the middle of its way; 0: not measured.",
    )
    height_mm: float = quantity(
        0.0,
        "Machine's height",
        "mm",
        0,
        3000,
        step=10,
        tolerance=3.0,
        names=("machine height",),
        help="Outside, with the gantry at its top; 0: not measured.",
    )
    sweep_mm: float = quantity(
        0.0,
        "Bed's sweep",
        "mm",
        0,
        1000,
        step=10,
        tolerance=3.0,
        names=("sweep", "bed sweep"),
        help="How far a moving bed reaches beyond the frame, front and back together.",
    )
    loop_mm: float = quantity(
        0.0,
        "Cable loop",
        "mm",
        0,
        1000,
        step=10,
        tolerance=10.0,
        names=("loop", "cable loop"),
        help="How far the carriage's cables and tube arch above the machine at its top.",
    )
    behind_mm: float = quantity(
        0.0,
        "Plugs behind",
        "mm",
        0,
        500,
        step=10,
        tolerance=5.0,
        names=("behind", "plugs behind"),
        help="What plugs, cable chains and a spool holder take behind the machine.",
    )
