"""Rules about neutrals, earths, all lives and small things: each with a case that triggers it and a near-miss."""

from dataclasses import replace

import pytest

from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.generate import generate
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Connection, ConnectionList, Part
from rellux.core.wiring.rules import check, context_for

KILN = Purpose(515, 600, "slumps", Supply.SINGLE_PHASE, 230, 3200, 230)
SHELL = Purpose(150, 180, "seals", Supply.THREE_PHASE, 400, 4500, 400)
SSR = Choice("N", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
CONTACTOR = Choice("K", Output.RELAY, Actuator.CONTACTOR, True, Practice.IEC)
USUAL = {KILN: generate(KILN, SSR), SHELL: generate(SHELL, CONTACTOR)}


def rules(wiring, purpose=KILN, sensor="N"):
    return {f.rule for f in check(wiring, context_for(purpose, Practice.IEC, sensor))}


def through(wiring, part, first, second, into, out):
    """Put a new part into the wire between two terminals."""
    wires = []
    for w in wiring.connections:
        if {w.a, w.b} == {first, second}:
            wires += [replace(w, a=first, b=into), replace(w, number=900, a=out, b=second)]
        else:
            wires.append(w)
    return ConnectionList((*wiring.parts, part), tuple(wires))


def added(wiring, *pairs, parts=()):
    extra = tuple(Connection(800 + i, a, b) for i, (a, b) in enumerate(pairs))
    return ConnectionList((*wiring.parts, *parts), (*wiring.connections, *extra))


def rated(wiring, name, **ratings):
    parts = tuple(replace(p, ratings={**p.ratings, **ratings}) if p.name == name else p for p in wiring.parts)
    return ConnectionList(parts, wiring.connections)


def part(name, kind, **ratings):
    return Part(name, PART_TYPES[kind], ratings)


FUSE = part("F9", "fuse", current_a=16.0)


def test_the_usual_circuits_have_none_of_these():
    assert rules(USUAL[KILN]) == set() and rules(USUAL[SHELL], SHELL, "K") == set()


@pytest.mark.parametrize(
    ("rule", "trigger", "near_miss"),
    [
        (
            "wiring.neutral-fused",
            through(USUAL[KILN], FUSE, "E1.2", "Q0.N", "F9.1", "F9.2"),
            through(USUAL[KILN], FUSE, "F1.2", "K0.1", "F9.1", "F9.2"),
        ),
        (
            "wiring.neutral-switched",
            through(USUAL[KILN], part("S1", "switch"), "E1.2", "Q0.N", "S1.1", "S1.2"),
            through(USUAL[KILN], part("S1", "switch"), "F1.2", "K0.1", "S1.1", "S1.2"),
        ),
        (
            "wiring.earth-broken",
            through(USUAL[KILN], FUSE, "Q0.PE", "X1.PE", "F9.1", "F9.2"),
            through(USUAL[KILN], part("X9", "earth_bar"), "Q0.PE", "X1.PE", "X9.1", "X9.2"),
        ),
        ("wiring.suppressor", rated(USUAL[KILN], "K0", suppressor="none"), USUAL[KILN]),
        (
            "wiring.suppressor",
            rated(USUAL[KILN], "K0", suppressor="none"),
            added(
                rated(USUAL[KILN], "K0", suppressor="none"),
                ("Z0.1", "K0.A1"),
                ("Z0.2", "K0.A2"),
                parts=(part("Z0", "snubber"),),
            ),
        ),
        (
            "wiring.crowded",
            added(USUAL[KILN], ("F2.2", "X8.1"), ("F2.2", "X8.3"), parts=(part("X8", "terminal_block"),)),
            added(USUAL[KILN], ("F2.2", "X8.1"), parts=(part("X8", "terminal_block"),)),
        ),
        (
            "wiring.unconnected",
            ConnectionList(USUAL[KILN].parts, tuple(w for w in USUAL[KILN].connections if "K0.A2" not in (w.a, w.b))),
            ConnectionList(
                USUAL[KILN].parts, tuple(w for w in USUAL[KILN].connections if not {"K0.A1", "K0.A2"} & {w.a, w.b})
            ),
        ),
        (
            "wiring.auto-reset",
            through(
                generate(KILN, replace(SSR, limiter=False)), part("T1", "cutout_auto"), "V1.2", "E1.1", "T1.1", "T1.2"
            ),
            through(
                generate(KILN, replace(SSR, limiter=False)), part("T1", "cutout_manual"), "V1.2", "E1.1", "T1.1", "T1.2"
            ),
        ),
    ],
)
def test_rules(rule, trigger, near_miss):
    assert rule in rules(trigger)
    assert rule not in rules(near_miss)


def test_a_limiter_that_leaves_one_phase_on():
    around = tuple(
        replace(w, a="F1.6") if w.a == "K0.6" else w for w in USUAL[SHELL].connections if "K0.5" not in (w.a, w.b)
    )
    assert "wiring.all-lives" in rules(ConnectionList(USUAL[SHELL].parts, around), SHELL, "K")
