"""Two thousand mutants against the oracle, and every second failure on the circuits: by hand, ``./rellux endure``."""

import pytest

from tests.oracle.circuits import dressed_circuits, usual_circuits
from tests.oracle.compare import compare, seconds
from tests.oracle.mutants import mutant

BASES = {n: c for n, c in {**usual_circuits(), **dressed_circuits()}.items() if "monitor" not in n}
CHUNK = 50


@pytest.mark.parametrize("chunk", range(2000 // CHUNK))
def test_mutants(chunk):
    wrong = {}
    for seed in range(chunk * CHUNK, (chunk + 1) * CHUNK):
        name = sorted(BASES)[seed % len(BASES)]
        wiring, volts = BASES[name]
        found = compare(mutant(wiring, seed, 1 + seed % 3), volts)
        if found.wrong:
            wrong[f"{name}, seed {seed}"] = found.wrong[:3]
    assert not wrong


@pytest.mark.parametrize("name", [n for n in BASES if "start" not in n])
def test_second_failures(name):
    assert seconds(*BASES[name]).wrong == ()
