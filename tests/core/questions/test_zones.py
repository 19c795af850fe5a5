"""Zones that heat one another: against python-control's closed loops, against a network of real zones, and a published column."""

from dataclasses import replace

import control
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.process.interaction import better_paired, holding_outputs, kept_at_c, relative_gains
from rellux.core.questions.control.zones import ZoneRow, ZonesInput
from rellux.core.questions.registry import QUESTIONS
from tests.examples import cases

ASK = QUESTIONS["zones"]
PAIR = st.tuples(*(st.floats(low, high) for low, high in ((1.0, 8.0), (0.05, 0.9), (0.05, 0.9), (1.0, 8.0))))


def gains_of(own_1, share_12, share_21, own_2):
    return np.array([[own_1, share_12 * own_2], [share_21 * own_1, own_2]])


@settings(max_examples=cases(25), deadline=None)
@given(PAIR, st.floats(100.0, 900.0), st.floats(100.0, 900.0))
def test_the_gain_with_the_other_zone_held_is_that_of_a_loop_that_holds_it(pair, lag_1, lag_2):
    """Zone 2 under a PI round its own heater: what is left of heater 1 on zone 1, by python-control's state space at rest."""
    gains = gains_of(*pair)
    s = control.tf("s")
    lags = np.array([[lag_1, lag_1], [lag_2, lag_2]])
    g = [[gains[i, j] / (lags[i, j] * s + 1) for j in range(2)] for i in range(2)]
    pi = 0.02 * (1 + 1 / (200.0 * s))
    left = g[0][0] - g[0][1] * pi / (1 + g[1][1] * pi) * g[1][0]
    at_rest = float(np.real(left(1e-9)))
    assert gains[0, 0] / relative_gains(gains)[0, 0] == pytest.approx(at_rest, rel=1e-3, abs=1e-3)


@settings(max_examples=cases(25), deadline=None)
@given(st.integers(2, 3), st.integers(0, 10_000))
def test_what_they_hold_with_is_what_a_network_of_them_holds_with(n, seed):
    """Zones with losses of their own and conduction between: stepped one by one as somebody would, then set to the outputs found."""
    rng = np.random.default_rng(seed)
    loss, between, power = rng.uniform(1.0, 5.0, n), rng.uniform(0.05, 3.0, n - 1), rng.uniform(300.0, 2000.0, n)
    matrix = np.diag(loss)
    for i, link in enumerate(between):
        matrix[i : i + 2, i : i + 2] += link * np.array([[1.0, -1.0], [-1.0, 1.0]])
    heats = np.linalg.inv(matrix) * power / 100.0
    rises = 10.0 * heats
    targets = heats @ rng.uniform(10.0, 90.0, n)
    zones = tuple(
        ZoneRow(21.0 + targets[j], power[j], rises[0, j], rises[1, j], rises[2, j] if n == 3 else None)
        for j in range(n)
    )
    answer = ASK.answer(ZonesInput(21.0, 10.0, 1e5, zones))
    outputs = np.array([f.value for f in answer.figures[:n]])
    assert np.allclose(heats @ outputs, targets, rtol=1e-6)
    relative = relative_gains(heats)
    assert (
        np.allclose(relative.sum(axis=0), 1.0)
        and np.allclose(relative.sum(axis=1), 1.0)
        and np.diag(relative).min() >= 1.0 - 1e-9
    )
    assert better_paired(heats) is None and not any("exchanged" in f.rule for f in answer.findings)
    if n == 3 and not np.allclose(heats[:, [1, 0, 2]], heats):
        assert better_paired(heats[:, [1, 0, 2]]) == (1, 0, 2)


@settings(max_examples=cases(30), deadline=None)
@given(PAIR, st.floats(10.0, 95.0), st.floats(-60.0, 200.0))
def test_a_zone_is_said_to_be_kept_too_hot_just_where_no_output_cools_it(pair, first, second):
    gains = gains_of(*pair)
    wanted = gains @ np.array([first, second])
    if not 25.0 < 21.0 + wanted[1] < 1800.0 or not 25.0 < 21.0 + wanted[0] < 1800.0:
        return
    scaled = gains / gains.max(axis=1, keepdims=True)
    assume(np.linalg.cond(scaled) < 60.0)  # one zone, which is refused
    assume(abs(second) > 0.02 and abs(max(first, second) - 95.0) > 1e-6)
    zones = (
        ZoneRow(21.0 + wanted[0], 500.0, 10.0 * gains[0, 0], 10.0 * gains[1, 0]),
        ZoneRow(21.0 + wanted[1], 500.0, 10.0 * gains[0, 1], 10.0 * gains[1, 1]),
    )
    rules = {f.rule for f in ASK.answer(ZonesInput(21.0, 10.0, 5000.0, zones)).findings}
    assert ("zones.too-hot" in rules) == (second < 0.0) and ("zones.short" in rules) == (max(first, second) > 95.0)
    if second < 0.0:
        assert kept_at_c(gains, wanted, 1) > wanted[1]


def test_the_column_of_wood_and_berry_and_what_moves_alike():
    """K = [[12.8, −18.9], [6.6, −19.4]]: λ = 2.01 (Seborg, Edgar, Mellichamp: Process Dynamics and Control; from memory)."""
    assert relative_gains(np.array([[12.8, -18.9], [6.6, -19.4]]))[0, 0] == pytest.approx(2.01, abs=0.005)
    assert holding_outputs(np.eye(2) * 4.0, np.array([100.0, 60.0])).tolist() == [25.0, 15.0]
    with pytest.raises(Refused):
        relative_gains(np.array([[4.0, 3.99], [4.0, 4.01]]))


@pytest.mark.parametrize(
    ("zones", "field"),
    [
        ((ZoneRow(), ZoneRow(rise_3_c=5.0)), "zones[1].rise_3_c"),
        ((ZoneRow(), ZoneRow(), ZoneRow(rise_3_c=5.0)), "zones[0].rise_3_c"),
        ((ZoneRow(rise_1_c=0.0), ZoneRow(rise_1_c=10.0, rise_2_c=40.0)), "zones[0].rise_1_c"),
        ((ZoneRow(), ZoneRow()), "zones"),
    ],
)
def test_rows_that_tell_nothing_are_asked_back(zones, field):
    with pytest.raises(Refused) as refused:
        ASK.answer(replace(ZonesInput(), zones=zones))
    assert field in [p.field for p in refused.value.problems]


def test_no_zone_is_said_to_hold_what_the_supply_does_not_carry():
    said = lambda supply_w: ASK.answer(replace(ZonesInput(), supply_w=supply_w)).headline  # noqa: E731
    assert "Each holds" in said(2000.0) and "supply" in said(1999.0)  # both need more than half of the time
