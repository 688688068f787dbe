"""The manual's tables of what remedies do, from the model: python -m docs.make_tables"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

from zeotherm.answers.compare import compare
from zeotherm.answers.executor import Rest, Until
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.compared import RemedyTried, ordinary
from zeotherm.wording import compared as words

PAGE = Path(__file__).parents[1] / "src" / "zeotherm" / "manual" / "remedies.md"
HEAD = """# What remedies do

Parts and remedies that are often asked for, each tried alone on one ordinary machine: all-metal hotend with an
aluminium block, 24 V, 40 W, 30 mm fan, PLA at 205 °C and 4 mm³/s, 25 °C at the fan unless said. Written by the model
(`python -m docs.make_tables`), not by hand; `zeotherm remedies NAME JOB` makes the same table of any machine. Behind
each figure is half of its 95 % band: where two bands overlap widely, the difference between the figures is surer than
either, since they share their doubts.
"""
VOLTS = """
## Cartridges on another supply

What happens when the volts are mixed up? Watts go with the square of the volts.

{table}
Never switch on a cartridge on more volts than its stamp says. One on too few is no cure for one that is too strong: it
never gets warm.
"""


def solved(key: str) -> tuple[RemedyTried, ...]:
    """Each of a comparison, on an ordinary machine."""
    found: tuple[RemedyTried, ...] = ()
    for step in compare(Store(), ordinary(key, shipped()), shipped(), key)(lambda: False):
        if not isinstance(step, Rest | Until):
            found = step
    return found


def sections() -> Iterator[str]:
    """Each comparison as a section of the page."""
    for key, about in shipped().comparisons.items():
        yield section(key, words.table(words.heads(about), words.rows(about, solved(key))))
    yield VOLTS.format(table=words.volts_table())


def section(key: str, table: str) -> str:
    """A section with its table."""
    about = shipped().comparisons[key]
    return f"\n## {about.label}\n\n{about.asks}\n\n{table}\n{about.why}\n"


def main() -> int:
    """Write the page."""
    PAGE.write_text(HEAD + "".join(sections()), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
