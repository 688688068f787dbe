"""The manual's table of what causes do, from the model: python -m docs.make_causes"""

from __future__ import annotations

import sys
from pathlib import Path

from tests.bench_facts.machines import LINED, machine

from zeotherm.core.catalogue import shipped
from zeotherm.core.causes.effects import Effect, effects
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.wording.causes import changed, lasts

PAGE = Path(__file__).parents[1] / "src" / "zeotherm" / "manual" / "causes.md"
HEAD = """# What causes do

Every cause of the catalogue that is simulated, alone in a machine that is sound otherwise: PLA, 205 °C, 4 mm³/s, six
retractions of 0.8 mm a minute, eight hours, in {air:.0f} °C air. Written by the model (`python -m docs.make_causes`,
for any job `zeotherm causes-do JOB`), not by hand. *Jams above*: the fan's air in which this print just does
not jam. *Jams after*: in the air given here. All figures
by the stated numbers; their bands are a few kelvin wide, hours a factor of four.
"""
TABLE = """
## {head}

| cause | as | sink base, °C | soft length, mm | jams above, °C | jams after |
|---|---|---|---|---|---|
"""
AIR = 35.0


def row(one: Effect, sound: Setup) -> str:
    """A line of the table."""
    label = shipped().causes[one.cause].label if one.cause else "none: sound"
    told = ", ".join(changed(sound, one.setup, shipped())) or "–"
    return f"| {label} | {told} | {one.base:.0f} | {one.soft_mm:.1f} | {one.jams_above:.0f} | {lasts(one.hours)} |\n"


def main() -> int:
    """Write the page."""
    text = HEAD.format(air=AIR)
    lined = machine(AIR, **LINED, printing__nozzle_c=200.0)
    cased = {"case": {"part": "side_vented"}, "surroundings": {"air_from": "case"}, "room": {"mean_c": 27.0}}
    for head, setup in (("Metal bore, air as stated", machine(AIR)), ("Lined, air as stated", lined),
                        ("Metal bore in a case", patched(machine(AIR, bed__target_c=60.0), cased))):  # fmt: skip
        found = list(effects(setup, shipped()))
        text += TABLE.format(head=head) + "".join(row(one, found[0].setup) for one in found)
    PAGE.write_text(text, encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
