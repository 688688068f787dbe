"""What all bench facts share. `SET_BY`: facts by which a number was set; all others were held back."""

from __future__ import annotations

import math

import pytest

SET_BY = {
    "steel neck, 40 °C air": "soft length that leaves nothing behind",
    "guard 80 % shut, 40 °C air": "soft length that leaves nothing behind",
    "steel neck, 50 °C air": "friction of soft filament on metal",
    "5 mm through a tube, 35 °C air": "whose warmth retracted filament brings: its skin's",
    "dead fan, steel neck: jam": "heat held at the sink",
    "part fan on a bare block": "part fan's film on the block",
    "0.2 mm nozzle, ordinary melt zone, PLA: drive clicks": "power of the orifice in the melt's push",
    "TPU 95A, plain drive: filament buckles from": "what a strand off the spool bears, and the usual open path",
    "TPU 85A, plain drive: filament buckles from": "modulus of TPU 85A",
    "loose ferrule in a screw terminal, 10 A": "milliohms of a loose contact",
}


@pytest.fixture
def fact(record):
    """Hold a figure against what benches accept."""

    def told(name: str, value: float, low: float, high: float, unit: str) -> None:
        span = f"{low:g} to {high:g} {unit}" if math.isfinite(high) else f"at least {low:g} {unit}"
        found = f"{value:.3g} {unit}" if math.isfinite(value) else "never"
        record(
            f"Bench: {name}",
            f"practice; {'set by it: ' + SET_BY[name] if name in SET_BY else 'held back'}",
            found,
            span,
        )
        assert low <= value <= high, name

    return told
