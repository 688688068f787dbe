"""Lines that heat an enclosure from a part program: set, set and wait, soak and caps, each with its comment.

M141 sets a chamber's temperature, M191 sets it and waits, M140 and M190 do so for a bed; a controller that has no
heated chamber passes over the former two. Written as most controllers read them; whoever pastes them tries them first.
"""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.guard.fitted import ALL_ENTERED, Assumed
from zeotherm.core.guard.heat import bed_cap
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer

TOLD_K = 1.0  # below what is wanted that still count as reached


@dataclass(frozen=True, slots=True)
class ControlLine:
    """One line and why it stands there; without a command it is a comment of its own."""

    command: str
    why: str  # key
    value: float  # that goes into the comment
    what: str = ""  # a part that goes into it

    def written(self, comment: str) -> str:
        """The line with its comment in words."""
        return f"{self.command} ; {comment}" if self.command else f"; {comment}"


def control_lines(
    answer: ChamberAnswer, wanted: float, reached: float, seconds: float, lacking: str = "",
    assumed: Assumed = ALL_ENTERED,
) -> list[ControlLine]:  # fmt: skip
    """Lines for a case wanted so warm [°C] whose air comes to so much [°C], within a time [s].

    Waiting is asked only where the target is reached: else the program would wait without end. Nothing is written that
    a fitted part does not stand; lacking: the part inside that does not stand what is wanted, nothing where all do.
    assumed: what nobody entered, as for `bed_cap`.
    """
    case, bed = answer.setup.case, answer.setup.bed
    most = bed_cap(answer.setup, answer.catalogue, assumed) if bed.target_c > 0.0 else None
    beds = bed.target_c > 0.0 and (most is None or bed.target_c <= most.value)
    found = [ControlLine(f"M140 S{bed.target_c:.0f}", "bed", bed.target_c)] if beds else []
    if most is not None and not beds:
        found.append(ControlLine("", "bed_over", most.value, most.part))
    if answer.resolved.inputs.heats and lacking:
        found.append(ControlLine("", "held", wanted, lacking))
    elif answer.resolved.inputs.heats:
        found.append(ControlLine(f"M141 S{wanted:.0f}", "set", wanted))
        if reached >= wanted - TOLD_K:
            found.append(ControlLine(f"M191 S{wanted:.0f}", "wait", seconds))
        else:
            found.append(ControlLine("", "never", reached))
        for key, cap in (("cap", case.heater_cap_c), ("second_cap", case.heater2_cap_c if case.heater2_w else 0.0)):
            if cap > 0.0:
                found.append(ControlLine("", key, cap))
    else:
        found.append(ControlLine(f"G4 S{seconds:.0f}", "soak", reached))
    if beds:
        found.append(ControlLine(f"M190 S{bed.target_c:.0f}", "bed_wait", bed.target_c))
    found.append(ControlLine("M141 S0" if answer.resolved.inputs.heats else "M140 S0", "off", 0.0))
    return found
