"""One rig, one answer: over a grid of rigs every place that states a size, a breaker, a period, a heat sink, a limit or a current
states the same."""

import itertools

import pytest

from rellux.core.errors import Refused
from rellux.core.form import plain
from rellux.core.heating.conductor_tables import Practice
from rellux.core.heating.conductors import size
from rellux.core.heating.run_of_wire import usual_run
from rellux.core.parts.chain import chain
from rellux.core.purpose.purpose import Purpose, RigKind, Supply
from rellux.core.questions.answer import Known
from rellux.core.questions.registry import QUESTIONS
from rellux.core.setup.proposals import PERIODS, propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.generate import generate
from rellux.core.wiring.model import Circuit
from rellux.core.wiring.rules import check, context_for

SUPPLIES = [
    (Supply.SINGLE_PHASE, 230.0),
    (Supply.SINGLE_PHASE, 120.0),
    (Supply.SPLIT_PHASE, 240.0),
    (Supply.THREE_PHASE, 400.0),
]
POWERS = [300, 1200, 2900, 3600, 4600, 5500, 8000, 11_000, 13_500, 16_000, 19_900]
GRID = [
    (practice, supply, volts, power)
    for practice, (supply, volts), power in itertools.product(Practice, SUPPLIES, POWERS)
]


def rig(practice, supply, volts, power):
    purpose = Purpose(560, 620, "sags", supply, volts, float(power), volts)
    three = supply is Supply.THREE_PHASE
    switch = Actuator.CONTACTOR if three or power / volts > 20 else Actuator.SSR
    output = Output.RELAY if switch is Actuator.CONTACTOR else Output.SSR_DRIVE
    return purpose, Choice("N", output, switch, True, practice)


@pytest.mark.slow
@pytest.mark.parametrize("case", GRID, ids=lambda c: "-".join(map(str, c)))
def test_every_place_states_the_same(case):
    purpose, choice = rig(*case)
    practice = choice.practice
    known = Known(purpose, choice, RigKind.KILN)
    facts = RigFacts(purpose, choice.sensor, choice.actuator.value)
    period = next(p.value for p in propose(facts) if p.name == "period_s")
    for question in QUESTIONS.values():
        question.start(known)  # whatever the rig, every question opens; what cannot be is said by its answer
    try:
        links = chain(purpose, choice, period)
    except Refused as refused:
        with pytest.raises(Refused):
            generate(purpose, choice)
        assert all(p.reason for p in refused.problems)
        return
    pieces = {p.key: p for p in links.pieces}
    figures = {f.name: f for f in links.figures}
    wiring = generate(purpose, choice)
    answer = QUESTIONS["wire"].ask(plain(QUESTIONS["wire"].start(known)))

    # the conductor and its breaker: chain, circuit laid out, rules, question
    breaker = pieces["breaker"].rating
    assert {p.number("current_a") for p in wiring.parts if p.name == "F1"} == {breaker}
    assert next(f for f in answer.figures if f.name == "breaker").value == breaker
    power_wires = {w.area_mm2 for w in wiring.connections if w.circuit is Circuit.POWER}
    chosen = next(a for a in answer.alternatives if a.chosen)
    assert chosen.key == pieces["conductor"].says
    assert next(b for b in answer.bars if b.label == chosen.key).figure.value == pieces["conductor"].rating
    wrong = {f.rule for f in check(wiring, context_for(purpose, practice, choice.sensor))}
    assert not wrong & {"wiring.wire-breaker", "wiring.trips", "wiring.thin-earth"}
    cores = 3 if purpose.supply is Supply.THREE_PHASE else 2
    run = usual_run(practice, cores, purpose.supply_voltage_v)
    sized = size(pieces["breaker"].duty.value, run)
    if sized.best:
        assert min(power_wires) == pytest.approx(sized.best.area_mm2, rel=2e-3)

    # the heat sink and the period of the switch
    if choice.actuator is Actuator.SSR:
        sink = QUESTIONS["sink"].start(known)
        assert sink.current_a == pytest.approx(pieces["actuator"].duty.value)
        asked = {f.name: f.value for f in QUESTIONS["sink"].ask(plain(sink)).figures}
        assert asked["heat sink, at most"] == pytest.approx(figures["heat sink, at most"].value)
    assert period == PERIODS[choice.actuator.value]

    # the limit: what the sheet proposes is clear of what the purpose allows, and what may be written is bounded by the same
    limit = next(p.value for p in propose(facts) if p.name == "setpoint_high_c")
    assert purpose.working_c <= limit < purpose.highest_c
