"""How much finding out a fact is expected to settle: whether the worst limit of a machine holds, in bits."""

from __future__ import annotations

import math

import numpy as np

from zeotherm.core.judgement.margins import probability_positive
from zeotherm.core.judgement.standing import Deciding

POINTS = 9  # of the Gauss-Hermite rule over what a fact may turn out to be
SPREAD = 1.96  # half-widths of 95 % in standard deviations
_NODES, _WEIGHTS = np.polynomial.hermite_e.hermegauss(POINTS)
OUTCOMES = tuple(zip(_NODES.tolist(), (_WEIGHTS / _WEIGHTS.sum()).tolist(), strict=True))


def entropy(holds: float) -> float:
    """Of a limit that holds with a probability [bit].

    >>> entropy(0.5), entropy(1.0)
    (1.0, 0.0)
    """
    return sum(share * math.log2(1.0 / share) for share in (holds, 1.0 - holds) if share > 0.0)


def bits_told(room: float, deciding: Deciding) -> dict[str, float]:
    """Expected information of each fact about whether the worst limit holds [bit], by key.

    The room is split normal about its value (as everywhere), a fact's share of it likewise; once the fact is known the
    room has moved by its share and is as wide as the others leave it: I = H(P) - E[H(P | fact)], never below zero.
    """
    now = entropy(probability_positive(room, deciding.now))
    found = {}
    for one in deciding.facts:
        left = deciding.without((one.key,))
        after = sum(
            weight * entropy(probability_positive(room + node * (one.up if node > 0.0 else one.down) / SPREAD, left))
            for node, weight in OUTCOMES
        )
        found[one.key] = max(now - after, 0.0)
    return found
