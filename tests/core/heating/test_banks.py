"""Element banks against hand phasors, and the laws every solution must keep."""

from cmath import rect
from dataclasses import replace
from math import radians, sqrt

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.heating.bank_solving import solve
from rellux.core.heating.banks import VOLTAGES, Bank, BankSupply, Load, Nameplate, terminals

STAR = Load(BankSupply.THREE_PHASE, 380, Bank.STAR, 3, 1500, 220)
R = 220**2 / 1500


def volts(solved):
    return [e.voltage.value for e in solved.elements]


def rules(solved):
    return {f.rule for f in solved.findings}


def lines(solved):
    return {line.name: line.current_a for line in solved.lines}


# the trade's worked case: three 1500 W 220 V elements on 380 V
def test_three_220_v_elements_belong_in_star_on_380_v():
    star = solve(STAR)
    for e in star.elements:
        assert (e.voltage.value, e.power.value, e.current.value) == pytest.approx((219.4, 1492, 6.80), rel=1e-3)
    assert rules(star) == set()
    delta = solve(replace(STAR, bank=Bank.DELTA))
    assert [e.power.value for e in delta.elements] == pytest.approx([4475] * 3, rel=1e-3)
    (finding,) = delta.findings
    assert finding.rule == "bank.overload" and "star" in finding.fix


def test_delta_takes_three_times_the_power_of_star_and_line_currents_of_root_three():
    star, delta = solve(STAR), solve(replace(STAR, bank=Bank.DELTA))
    assert delta.total.value / star.total.value == pytest.approx(3)
    assert lines(delta)["L1"] == pytest.approx(sqrt(3) * 380 / R)


def test_a_lost_phase_in_star_puts_the_others_in_series_across_the_line():
    solved = solve(replace(STAR, lost=("L3",)))
    assert volts(solved) == pytest.approx([190, 190, 0], abs=1e-6)
    assert "bank.star-floats" in rules(solved)


def test_a_failed_element_in_star_with_and_without_neutral():
    without = solve(replace(STAR, failed=(1,)))
    assert volts(without)[1:] == pytest.approx([190, 190])
    with_neutral = solve(replace(STAR, bank=Bank.STAR_NEUTRAL, failed=(1,)))
    assert volts(with_neutral)[1:] == pytest.approx([380 / sqrt(3)] * 2)
    assert lines(with_neutral)["N"] == pytest.approx(380 / sqrt(3) / R)  # |I₂ + I₃| = I
    assert "bank.neutral" in rules(with_neutral)


def test_a_balanced_neutral_carries_nothing():
    solved = solve(replace(STAR, bank=Bank.STAR_NEUTRAL))
    assert lines(solved)["N"] == pytest.approx(0, abs=1e-9) and "bank.neutral" not in rules(solved)


def test_a_lost_phase_in_delta_leaves_one_whole_and_two_in_series():
    solved = solve(Load(BankSupply.THREE_PHASE, 400, Bank.DELTA, 3, 1500, 400, ("L3",)))
    assert volts(solved) == pytest.approx([400, 200, 200])
    assert solved.total.value == pytest.approx(1500 * 1.5)  # half of a healthy delta


def test_open_delta_currents():
    solved = solve(Load(BankSupply.THREE_PHASE, 400, Bank.OPEN_DELTA, 2, 1500, 400))
    assert lines(solved) == pytest.approx({"L1": 3.75, "L2": 3.75 * sqrt(3), "L3": 3.75})


def test_series_shares_the_voltage_and_one_open_stops_all():
    series = Load(BankSupply.SINGLE, 230, Bank.SERIES, 2, 500, 115)
    assert volts(solve(series)) == pytest.approx([115, 115])
    broken = solve(replace(series, failed=(1,)))
    assert broken.total.value == 0 and volts(broken)[0] == pytest.approx(230)  # the whole voltage stands over the break


def test_a_string_broken_twice_hangs_on_nothing_between():
    solved = solve(Load(BankSupply.SINGLE, 230, Bank.SERIES, 3, 500, 76, (), (1, 3)))
    assert solved.elements[1].undefined is True and "bank.undefined" in rules(solved)


def test_a_208_v_supply_gives_three_quarters_of_a_240_v_element():
    solved = solve(Load(BankSupply.THREE_PHASE, 208, Bank.DELTA, 3, 1000, 240))
    assert solved.elements[0].share == pytest.approx(0.751, abs=0.001) and "bank.weak" in rules(solved)
    near = solve(Load(BankSupply.SINGLE, 230, Bank.PARALLEL, 1, 1000, 240))  # 0.918: inside ten percent of voltage
    assert rules(near) == set()


HALVES = Load(BankSupply.SPLIT, 240, Bank.HALVES, 2, 1200, 120, others={2: Nameplate(400, 120)})


def test_halves_to_the_neutral_and_its_loss_by_hand():
    """12 Ω and 36 Ω: 10 A and 3.33 A, 6.67 A in the neutral; without it 240 V over 48 Ω is 5 A, so 60 V and 180 V."""
    whole = solve(HALVES)
    assert volts(whole) == pytest.approx([120, 120]) and lines(whole)["N"] == pytest.approx(20 / 3)
    lost = solve(replace(HALVES, lost=("N",)))
    assert volts(lost) == pytest.approx([60, 180])
    assert rules(lost) >= {"bank.overload", "bank.neutral-lost"} and "bank.neutral-lost" not in rules(whole)
    equal = solve(replace(HALVES, lost=("N",), others={}))
    assert volts(equal) == pytest.approx([120, 120]) and rules(equal) == set()


def test_unequal_elements_in_series_share_by_resistance():
    """1000 W and 500 W at 115 V are 13.2 and 26.5 Ω: the weaker one gets two thirds of 230 V."""
    solved = solve(Load(BankSupply.SINGLE, 230, Bank.SERIES, 2, 1000, 115, others={2: Nameplate(500, 115)}))
    assert volts(solved) == pytest.approx([230 / 3, 460 / 3])
    finding = next(f for f in solved.findings if f.rule == "bank.overload")
    assert finding.subjects == ("element 2",) and "odd one" in finding.fix


@st.composite
def loads(draw):
    network = draw(st.sampled_from(list(BankSupply)))
    simple = [Bank.PARALLEL, Bank.SERIES]
    fitting = {
        BankSupply.THREE_PHASE: [b for b in Bank if b is not Bank.HALVES],
        BankSupply.SPLIT: [*simple, Bank.HALVES],
    }
    bank = draw(st.sampled_from(fitting.get(network, simple)))
    unit = {Bank.OPEN_DELTA: 2, Bank.STAR: 3, Bank.STAR_NEUTRAL: 3, Bank.DELTA: 3}.get(bank, 1)
    count = unit * draw(st.integers(1, 4))
    supply = draw(st.sampled_from(VOLTAGES[network]) | st.floats(1, 1000))
    failed = tuple(draw(st.sets(st.integers(1, count), max_size=2)))
    plate = st.builds(Nameplate, st.floats(5, 5000), st.floats(5, 500))
    others = draw(st.dictionaries(st.integers(1, count), plate, max_size=3))
    return Load(network, supply, bank, count, draw(st.floats(5, 5000)), draw(st.floats(5, 500)), (), failed, others)


@settings(max_examples=150)
@given(loads())
def test_power_is_conserved_and_currents_return(load):
    """What the elements turn to heat is what the conductors bring; the conductors' phasors add to nothing."""
    solved = solve(load)
    phasors = {line.name: rect(line.current_a, radians(line.angle)) for line in solved.lines}
    brought = sum((terminals(load)[n] * i.conjugate()).real for n, i in phasors.items())
    assert brought == pytest.approx(solved.total.value, rel=1e-6, abs=1e-6)
    assert abs(sum(phasors.values())) < 1e-6 * (1 + max(line.current_a for line in solved.lines))


@settings(max_examples=60)
@given(loads(), st.floats(1.1, 2.0))
def test_power_goes_with_the_square_of_the_voltage(load, factor):
    weaker = {n: Nameplate(p.power_w, p.voltage_v / factor) for n, p in load.others.items()}
    made_for_less = replace(load, voltage_v=load.voltage_v / factor, others=weaker)  # the same as a higher supply
    if min(n.voltage_v for n in made_for_less.nameplates) < 1:
        return
    assert solve(made_for_less).total.value == pytest.approx(solve(load).total.value * factor**2, rel=1e-6, abs=1e-9)


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"count": 4}, "count"),
        ({"bank": Bank.OPEN_DELTA}, "count"),
        ({"network": BankSupply.SINGLE, "supply_v": 230}, "bank"),
        ({"supply_v": 1001}, "supply_v"),
        ({"power_w": 1_500_000}, "power_w"),
        ({"voltage_v": -220}, "voltage_v"),
        ({"lost": ("L4",)}, "lost"),
        ({"failed": (7,)}, "failed"),
        ({"others": {4: Nameplate(1000, 230)}}, "others"),
        ({"others": {1: Nameplate(0.1, 230)}}, "power_w"),
        ({"bank": Bank.HALVES}, "bank"),
    ],
)
def test_impossible_banks_are_asked_back(changed, field):
    with pytest.raises(Refused) as refused:
        solve(replace(STAR, **changed))
    assert field in [p.field for p in refused.value.problems]


def test_an_open_element_is_said_to_be_and_a_whole_one_is_not():
    whole, broken = solve(STAR), solve(replace(STAR, failed=(2,)))
    assert not any("open" in e.voltage.reason for e in whole.elements)
    assert ["open, so no current flows" in e.voltage.reason for e in broken.elements] == [False, True, False]


def test_an_open_delta_of_four_is_two_of_two():
    two, four = (solve(Load(BankSupply.THREE_PHASE, 400, Bank.OPEN_DELTA, n, 1500, 400)) for n in (2, 4))
    assert volts(four) == pytest.approx([*volts(two), *volts(two)])
    assert lines(four) == pytest.approx({name: 2 * amps for name, amps in lines(two).items()})
