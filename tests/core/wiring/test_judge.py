"""What single failures are said to do, against the oracle: on the usual circuits and on those people add guards and alarms to."""

import pytest

from tests.examples import some
from tests.oracle.circuits import dressed_circuits, usual_circuits
from tests.oracle.compare import compare

SHAPES = ("parts", "thermostat")
"""Starting points judged for every rig; the others, which differ little from rig to rig, for a few."""
ALSO = (
    "kiln, beacon",
    "kiln, start",
    "shell, cascade_beacon",
    "shell, start",
    "cabinet module, start",
    "kiln bare, cascade",
)
USUAL = {n: c for n, c in usual_circuits().items() if n.endswith(SHAPES) or n in ALSO}
DRESSED = dressed_circuits()
MOST_MARGINAL = 0.05
"""Share of failures that may lie too near a threshold to be judged."""


@pytest.mark.slow
@pytest.mark.parametrize("name", some(USUAL, 8))
def test_usual_circuits_are_judged_as_by_brute_force(name):
    found = compare(*USUAL[name])
    assert found.wrong == () and found.marginal <= MOST_MARGINAL * found.judged


@pytest.mark.slow
@pytest.mark.parametrize("name", some(DRESSED, 5))
def test_added_guards_alarms_and_selectors_are_judged_as_by_brute_force(name):
    found = compare(*DRESSED[name])
    assert found.wrong == () and found.marginal <= MOST_MARGINAL * found.judged
