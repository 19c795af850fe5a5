"""Heating and cooling on one signed output: never both, and a deviation is answered as fast either way, judged by a loop of its own."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.control.split import SplitOutput, split_output
from rellux.core.errors import Refused
from rellux.core.questions.registry import QUESTIONS


@given(*(st.floats(0.01, 1e3) for _ in range(2)), st.floats(0, 100), st.floats(-1e4, 1e4))
def test_never_both_and_nothing_inside_the_dead_band(heat, cool, dead, asked):
    shares = SplitOutput(heat, cool, dead).shares(asked)
    assert min(shares) == 0.0 and max(shares) <= 100.0
    assert (max(shares) == 0.0) == (abs(asked) <= dead / 2) or max(shares) < 1e-9


def furthest(split, heats, cools, drift, knock, seconds=14_400):
    """How far a knock of so many °C/min, after an hour at rest, carries the reading off: proportional and integral, in steps of 1 s, the
    reading three looks behind."""
    y, integral, seen, worst = 0.0, 0.0, [0.0] * 4, 0.0
    for i in range(seconds):
        error = -seen[-4]
        heat, cool = split.shares(error + integral)
        clipped = max(heat, cool) >= 100.0
        integral += 0.0 if clipped else error / 900.0
        rate = heats * heat / 100.0 - cools * cool / 100.0 + drift + (knock if i > 3600 else 0.0)
        y += rate / 60.0
        seen.append(y)
        worst = max(worst, abs(y)) if i > 3600 else worst
    return worst


@pytest.mark.parametrize(("heats", "cools"), [(6.0, 2.0), (1.0, 3.0), (4.0, 4.0)])
def test_a_knock_either_way_is_answered_alike(heats, cools):
    """The same knock up and down: as far off with the gains proposed, and not so with one gain for both sides."""
    knock = 0.4 * min(heats, cools)

    def both(split):
        return [furthest(split, heats, cools, 0.0, k) for k in (knock, -knock)]

    up, down = both(split_output(20.0, heats, cools, 0.2))
    assert up == pytest.approx(down, rel=0.01)
    up, down = both(SplitOutput(20.0, 20.0, 0.2))
    assert (heats == cools) == (up == pytest.approx(down, rel=0.1))


def test_what_the_room_does_is_not_counted_to_a_side():
    """At rest above the room: full heating shows its rate less what is lost, full cooling more than its own."""
    ask = QUESTIONS["split"].ask
    inside = ask({"ambient_c": 20.0, "setpoint_c": 60.0, "heats": 2.0, "cools": 1.0, "drifts": 0.5, "band_c": 5.0})
    figures = {f.name: f.value for f in inside.figures}
    assert figures["cooling’s band"] == pytest.approx(5.0 * 0.5 / 2.5) and figures["heating that holds it"] == 20.0
    for field, change in (("cools", {"cools": 0.5}), ("heats", {"setpoint_c": 10.0, "heats": 0.5})):
        with pytest.raises(Refused) as refused:
            ask({"ambient_c": 20.0, "setpoint_c": 60.0, "heats": 2.0, "cools": 1.0, "drifts": 0.5, **change})
        assert refused.value.problems[0].field == field


def test_it_starts_from_the_process_that_was_found():
    """First order: at the set-point full power raises by (100 K − rise)/τ, and it falls by rise/τ without."""
    from rellux.core.process.models import FOPDT
    from rellux.core.purpose.purpose import Purpose, RigKind, Supply
    from rellux.core.questions.answer import Known
    from rellux.core.wiring.choice import SUGGESTED

    purpose = Purpose(60, 68, "clouds", Supply.SINGLE_PHASE, 230, 300, 230, ambient_c=21.0)
    started = QUESTIONS["split"].start(Known(purpose, SUGGESTED, RigKind.CABINET, process=FOPDT(1.0, 600.0, 30.0)))
    assert (started.heats, started.drifts) == (pytest.approx(6.1), pytest.approx(3.9))
