"""Kinds of rig: each with a model, a chamber and its dangers, each danger in one place."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.errors import Refused
from rellux.core.form import plain
from rellux.core.guarding.family import assumed
from rellux.core.messages import spoken_time
from rellux.core.plant.rig_models import CHARACTERS, network_for
from rellux.core.process.networks import discretise
from rellux.core.purpose.cautions import CAUTIONS
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.kinds import KINDS, Fires, check_kind
from rellux.core.purpose.purpose import MOST_W, Effect, Fire, Purpose, RigKind, Supply
from rellux.core.questions.answer import Known
from rellux.core.questions.registry import ALL
from rellux.core.questions.wall.chamber import USUAL
from rellux.core.spine import Station
from rellux.core.wiring.choice import suggested
from tests.examples import cases

FIRE = Fire(4000.0)
OVEN = Purpose(200.0, 260.0, "it chars", Supply.SINGLE_PHASE, 230.0, 1500.0, 230.0)
PLACES = {
    Station.PURPOSE: {"solvent", "pressure", "gas", "refrigerant"},
    Station.PARTS: {"clearance"},
    Station.WIRING: {"fibres", "damp", "air", "charge"},
    Station.GUARDING: {"dry", "touch", "embers"},
    Station.PROFILES: {"first-firing"},
    Station.RUNS: {"resin", "flux", "plastic", "wax", "pinch", "vacuum", "thaw"},
}
"""Where each danger is met: the table the screens are made from, said a second time."""


def test_every_kind_has_its_model_its_chamber_and_a_danger_of_its_own():
    assert set(KINDS) == set(RigKind) == set(CHARACTERS)
    for kind, known in KINDS.items():
        low, high = known.usual_c
        assert low < high and known.effects and known.like in USUAL, kind
        assert any(kind in c.kinds for c in CAUTIONS), kind
        assert bool(known.lit) == (Effect.HEATS not in known.effects)


def test_each_danger_is_told_once_at_the_station_where_it_is_met():
    assert {s: {c.key for c in CAUTIONS if c.station is s} for s in Station if s in PLACES} == PLACES
    assert {c.station for c in CAUTIONS} == set(PLACES)
    assert len({c.key for c in CAUTIONS}) == len({c.lead for c in CAUTIONS}) == len(CAUTIONS)


def test_what_cannot_heat_here_is_asked_back():
    for kind, known in KINDS.items():
        check_kind(kind, replace(OVEN, effect=Effect.WATCHES))
        lit = replace(OVEN, fire=FIRE if known.fires is Fires.ALWAYS else None)
        if Effect.HEATS in known.effects:
            check_kind(kind, lit)
        else:
            with pytest.raises(Refused) as refused:
                check_kind(kind, OVEN)
            assert refused.value.problems[0].field == "effect"
        turned = replace(lit, fire=None if lit.fire else FIRE)
        if known.fires is Fires.MAY:
            check_kind(kind, turned)
        elif Effect.HEATS in known.effects:
            with pytest.raises(Refused, match="fire"):
                check_kind(kind, turned)


@pytest.mark.parametrize(("working_c", "found"), [(39.9, True), (40.0, False), (450.0, False), (450.1, True)])
def test_a_working_temperature_that_is_unusual_is_asked_about(working_c, found):
    rules = [f.rule for f in purpose_findings(replace(OVEN, working_c=working_c, highest_c=500.0), RigKind.OVEN)]
    assert rules == (["purpose.kind"] if found else [])


@pytest.mark.parametrize("kind", [k for k in KINDS if Effect.HEATS in KINDS[k].effects])
def test_what_is_said_of_a_kind_is_what_its_model_does(kind):
    """The sentence’s two numbers against the network stepped through a heat-up at full power."""
    network = network_for(kind, OVEN, 1500.0)
    step = discretise(network, 0.5)
    n = len(network.capacities)
    move, drive = step.transition.reshape(n, n), step.response.reshape(n, n)[:, network.heater_node]
    x, rise, end = np.zeros(n), [0.0], network.equilibrium_rise()[network.sensor_node]
    while rise[-1] < (1.0 - np.exp(-1.0)) * end:
        x = move @ x + drive * network.heater_power_w
        rise.append(x[network.sensor_node])
    said = assumed(kind)
    assert said.startswith(f"full power brings it {end / 179.0:.1f} ×")
    assert spoken_time(0.5 * len(rise)) in said or spoken_time(0.5 * len(rise) - 1.0) in said


def asked(kind, working_c, supply):
    """Every question once for each kind, at one of its corners; at all of them by ``./rellux endure``."""
    corner = 2 * (working_c != KINDS[kind].usual_c[0]) + (supply is Supply.DC)
    share = 4 // min(cases(1), 4)
    return [q for i, q in enumerate(ALL) if (i + list(KINDS).index(kind)) % share == corner % share]


@pytest.mark.slow
@pytest.mark.parametrize("kind", [k for k in KINDS if Effect.HEATS in KINDS[k].effects])
def test_every_question_opens_for_every_kind(kind):
    """From a bench-top of 60 W to a connection of its own; a question may say that this rig is outside it, and where."""
    for working_c in KINDS[kind].usual_c:
        for supply, volts, watts in ((Supply.DC, 24.0, 60.0), (Supply.THREE_PHASE, 400.0, MOST_W)):
            fire = FIRE if KINDS[kind].fires is not Fires.NEVER and supply is Supply.DC else None
            purpose = Purpose(working_c, working_c + 30.0, "x", supply, volts, watts, volts, fire=fire)
            known = Known(purpose, suggested(purpose), kind)
            for question in asked(kind, working_c, supply):
                start = plain(question.start(known))
                try:
                    assert question.ask(start).headline
                except Refused as refused:
                    fields = {p.field.split("[")[0] for p in refused.problems}
                    assert fields <= set(start) and all(p.reason for p in refused.problems), question.key
                    assert not any("slip of unit" in p.reason for p in refused.problems if p.field == "power_w"), (
                        question.key
                    )
