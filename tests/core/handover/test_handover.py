"""What goes with a rig that somebody else will use: how long it stays hot, what is said on its page, what is missing."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings
from rellux.core.findings import Finding, Severity
from rellux.core.guarding.cooling import TOUCHED_C, cooling_s
from rellux.core.guarding.family import family
from rellux.core.guarding.plan import Limiter, LimiterReset, Plan, PlannedAlarm, ThermalFuse
from rellux.core.handover.ready import lacking
from rellux.core.handover.safe_use import Picture, safe_use
from rellux.core.purpose.cautions import CAUTIONS
from rellux.core.purpose.kinds import KINDS
from rellux.core.purpose.purpose import Effect
from rellux.core.spine import Facts, Station
from tests.core.guarding.rigs import CABINET, generated
from tests.examples import cases

HOT = PlannedAlarm(
    "Too hot", AlarmSettings(AlarmKind.HIGH, 64.0), (Action.BEACON,), "stuck", "spoiled", "Open the switch."
)
PLAN = Plan((HOT,), Limiter(76.0, 2.0, "Pt100", 10.0), ThermalFuse(98.0, 73.0, 50.0))
READY = Facts(True, True, True, True, False, True, True, has_plan=True, is_proved=True)


@settings(max_examples=cases(8), deadline=None)
@given(st.integers(0, 10**6))
def test_it_is_cool_when_a_general_solver_says_so(seed):
    """Every node of the slowest rig it may be, left alone out of rest, by SciPy: above until then, below after."""
    known, _, _ = generated(seed)
    rigs, working = family(known.rig), known.rig.purpose.working_c
    until = cooling_s(rigs, 21.0, working)
    left = []
    for network in rigs.all:
        rest = network.equilibrium_rise()
        start = rest * (working - 21.0) / rest[network.sensor_node]
        capacity, matrix = np.array(network.capacities), network.conductance_matrix()
        found = solve_ivp(
            lambda t, x, m=matrix, c=capacity: -(m @ x) / c, (0, until), start, method="LSODA", rtol=1e-9, atol=1e-9
        )
        left.append(found.y[:, -1].max() + 21.0)
    assert max(left) == pytest.approx(TOUCHED_C, abs=0.02)


def test_what_is_cool_already_and_what_never_gets_there():
    rigs = family(generated(3)[0].rig)
    assert cooling_s(rigs, 21.0, TOUCHED_C) == 0.0 and cooling_s(rigs, TOUCHED_C, 300.0) is None
    assert cooling_s(rigs, 30.0, 300.0) > cooling_s(rigs, 21.0, 300.0) > cooling_s(rigs, 21.0, 200.0) > 0


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("effect", Effect)
def test_every_danger_of_the_kind_stands_on_the_page_once(kind, effect):
    purpose = replace(CABINET, effect=effect)
    page = safe_use(kind, purpose, PLAN, 3600.0)
    lines = [line for part in page for line in part.lines]
    for c in CAUTIONS:
        expected = (kind in c.kinds or (c.pumped and effect is Effect.COOLS)) and (
            c.watched or effect is not Effect.WATCHES
        )
        assert sum(line.startswith(c.lead) for line in lines) == int(expected), c.key
    assert [part.picture for part in page if part.picture is not Picture.HOT] == [
        Picture.READ,
        Picture.BELL,
        Picture.SWITCH,
    ]
    assert any("Too hot (at {64 °C}): Open the switch." in line for line in lines)


def test_what_is_done_when_something_tripped_is_what_was_fitted():
    def calls(plan):
        return " ".join(safe_use(CABINET_KIND, CABINET, plan, 60.0)[2].lines)

    by_itself = replace(PLAN, limiter=replace(PLAN.limiter, reset=LimiterReset.SELF))
    assert "by hand" in calls(PLAN) and "{98 °C}" in calls(PLAN)
    assert "by hand" not in calls(by_itself) and "closes by itself" in calls(by_itself)
    assert "limiter" not in calls(Plan((HOT,)))
    assert "look at the reading" in calls(Plan()) and "look at the reading" in calls(None)
    never_alone = safe_use(CABINET_KIND, CABINET, Plan((HOT,)), 60.0)[1].lines[0]
    assert (
        "never left alone" in never_alone
        and "never left alone" not in safe_use(CABINET_KIND, CABINET, PLAN, 60.0)[1].lines[0]
    )


CABINET_KIND = next(iter(KINDS))


def test_what_is_missing_is_said_and_nothing_else():
    assert lacking(READY) == ()
    for name in ("has_wiring", "has_sheet", "has_plan", "is_calibrated", "is_proved"):
        assert len(lacking(replace(READY, **{name: False}))) == 1
    fault = Finding("a", Severity.FAULT, title="crooked", reason="", fix="")
    danger, proof = (
        replace(fault, severity=Severity.DANGER, title="live"),
        replace(fault, rule="guarding.proof", title="unproved"),
    )
    found = lacking(replace(READY, findings={Station.WIRING: (fault, danger), Station.GUARDING: (proof,)}))
    assert found == ("Danger, open: live.", "unproved.", "Fault, open: crooked.")
    assert lacking(READY, (fault, danger)) == ("Danger, lived with: live.",)
