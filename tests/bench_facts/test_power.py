"""Wires and joints, as every bench knows them."""

from __future__ import annotations

import pytest

from tests.core.test_power import BENCH, CATALOGUE, setup_of
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.power.judge.answer import PowerAnswer, first_power


def path(watts: float, **power: object) -> PowerAnswer:
    """A bed of so many watts at 24 V on its way."""
    return first_power(patched(setup_of(**power), {"bed": {"heater_w": watts}}), CATALOGUE, air=BENCH)


@pytest.mark.parametrize(("watts", "amps", "high"), [(163.0, 10.0, 120.0), (220.0, 12.0, 150.0), (300.0, 15.0, 400.0)])
def test_a_loose_ferrule_gets_hot(fact, watts, amps, high):
    loose = path(watts, feed_terminal={"kind": "screw_ferrule", "state": "loose"})
    assert loose.full.amps.feed == pytest.approx(amps, abs=0.5)
    fact(f"loose ferrule in a screw terminal, {amps:.0f} A", loose.solved.contact("feed_terminal"), 85.0, high, "°C")
    sound = path(watts, feed_terminal={"kind": "screw_ferrule"})
    fact(f"the same, tight, {amps:.0f} A", sound.solved.contact("feed_terminal") - 25.0, 2.0, 25.0, "K")


def test_a_bundle_of_six_is_warmer_than_a_pair(fact):
    middles = [
        path(240.0, lead={"mm2": 1.0, "metres": 2.0, "bundle": wires}).solved.wire("lead") for wires in (2.0, 6.0)
    ]
    pair, six = (float(wire[len(wire) // 2]) - 25.0 for wire in middles)
    fact("six loaded wires over a pair, rise", six / pair, 1.3, 2.1, "times")
