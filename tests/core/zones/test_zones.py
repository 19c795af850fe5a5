"""Zones of a chamber: what they do to one another, judged by their joint equations as other solvers have them."""

from dataclasses import replace

import control
import numpy as np
import pytest
import scipy

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.findings import Severity
from rellux.core.guarding.cooling import TOUCHED_C
from rellux.core.guarding.family import HeatedRig, Identified, Span, family
from rellux.core.guarding.runaway import Follower, worst_peak
from rellux.core.plant.rig_models import network_for, rests_c
from rellux.core.plant.simulation import Simulation
from rellux.core.process.interaction import kept_at_c
from rellux.core.process.modes import time_63
from rellux.core.process.networks import ThermalNetwork
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.purpose import Fire, Purpose, RigKind, Supply
from rellux.core.zones.chamber import (
    Chamber,
    Zone,
    check_chamber,
    cools_s,
    gains_of,
    joints_of,
    losses_of,
    neighbours_of,
    networks_of,
    steady_of,
)
from rellux.core.zones.heat_up import heat_up
from rellux.core.zones.steady import Steady, drawn, findings_of, headline, takes_turns, tuning_order
from tests.examples import cases

PID_900 = ControllerSettings(900.0, Mode.PID, pid=PID(2.0, 600.0), period_s=2.0, sample_s=0.5)


def purpose(working_c: float, power_w: float, room_c: float = 21.0) -> Purpose:
    return Purpose(working_c, working_c + 80.0, "spoils", Supply.SINGLE_PHASE, 230.0, power_w, 230.0, ambient_c=room_c)


def zone(name: str, working_c: float, power_w: float, **changed) -> Zone:
    rig = HeatedRig(RigKind.MUFFLE, purpose(working_c, power_w), power_w)
    return Zone(name, name, replace(rig, **changed), replace(PID_900, setpoint_c=working_c))


def tube(*along: float, supply_w: float | None = None) -> Chamber:
    zones = (zone("front", 900.0, 1400.0), zone("middle", 950.0, 1000.0), zone("back", 850.0, 1200.0))
    return Chamber(zones[: len(along) + 1], along, supply_w)


def jointly(networks: list[ThermalNetwork], joints: list[float]):
    """The judge: all nodes, and every sensor, of all zones in one linear system: A, B (% of each heater), rows of chambers and sensors."""
    sizes = [len(n.capacities) + 1 for n in networks]
    at = np.cumsum([0, *sizes])
    a, b = np.zeros((at[-1], at[-1])), np.zeros((at[-1], len(networks)))
    chambers, sensors = [], []
    for k, n in enumerate(networks):
        for i, j, g in n.links:
            for one, other in ((i, j), (j, i)):
                a[at[k] + one, at[k] + one] -= g / n.capacities[one]
                a[at[k] + one, at[k] + other] += g / n.capacities[one]
        for i, g in enumerate(n.to_ambient):
            a[at[k] + i, at[k] + i] -= g / n.capacities[i]
        b[at[k] + n.heater_node, k] = n.heater_power_w / 100.0 / n.capacities[n.heater_node]
        chambers.append(at[k] + n.sensor_node)
        sensors.append(at[k + 1] - 1)
        a[sensors[-1], [chambers[-1], sensors[-1]]] = 1.0 / n.sensor_lag_s, -1.0 / n.sensor_lag_s
    for k, g in enumerate(joints):
        for one, other, n in ((k, k + 1, networks[k]), (k + 1, k, networks[k + 1])):
            a[chambers[one], chambers[one]] -= g / n.capacities[n.sensor_node]
            a[chambers[one], chambers[other]] += g / n.capacities[n.sensor_node]
    return a, b, chambers, sensors


@pytest.mark.parametrize("along", [(30.0,), (5.0,), (60.0, 20.0)])
def test_gains_are_those_of_the_joint_system(along):
    """By python-control."""
    found = tube(*along)
    networks, joints = networks_of(found), joints_of(found)
    a, b, chambers, _ = jointly(networks, joints)
    c = np.eye(len(a))[chambers]
    n = len(networks)
    judge = control.dcgain(control.ss(a, b, c, np.zeros((n, n))))
    assert gains_of(networks, joints) == pytest.approx(judge, rel=1e-9)


def test_one_number_tells_how_far_a_neighbour_comes_along():
    like = Chamber((zone("a", 800.0, 1000.0), zone("b", 800.0, 1000.0)), (30.0,))
    gains = gains_of(networks_of(like), joints_of(like))
    assert gains[1, 0] / gains[0, 0] == pytest.approx(0.3)


@pytest.mark.parametrize("seed", range(cases(3)))
def test_a_zone_among_others_at_work_is_the_joint_system_seen_from_it(seed):
    """Where the others keep it, and what its own heater adds with them held: Purpose, Guarding and Tuning see a zone so."""
    rng = np.random.default_rng(seed)
    kinds = rng.choice([RigKind.MUFFLE, RigKind.KILN, RigKind.OVEN], 3)
    zones = tuple(
        zone(name, float(rng.uniform(700, 1000)), float(rng.uniform(500, 3000)), kind=RigKind(str(kind)))
        for name, kind in zip("abc", kinds, strict=True)
    )
    found = Chamber(zones, (float(rng.uniform(5, 40)), float(rng.uniform(5, 40))))
    networks, joints = networks_of(found), joints_of(found)
    a, b, chambers, _ = jointly(networks, joints)
    for i, one in enumerate(zones):
        at_work = replace(one.rig.purpose, neighbours=neighbours_of(found.rigs, found.along_percent, i))
        others = [c for j, c in enumerate(chambers) if j != i]
        rest = [k for k in range(len(a)) if k not in others]
        held = np.array([z.rig.purpose.working_c - z.rig.purpose.ambient_c for j, z in enumerate(zones) if j != i])
        kept = np.linalg.solve(a[np.ix_(rest, rest)], -a[np.ix_(rest, others)] @ held)[rest.index(chambers[i])]
        assert rests_c(one.rig.kind, at_work) - 21.0 == pytest.approx(kept, rel=1e-3)
        steady = steady_of(found)
        assert kept_at_c(steady.gains, steady.rises_c, i) == pytest.approx(kept, rel=1e-3)  # what the finding says
        full = np.linalg.solve(a[np.ix_(rest, rest)], -100.0 * b[rest, i])[rest.index(chambers[i])]
        network = network_for(one.rig.kind, at_work, one.rig.power_w)
        assert network.equilibrium_rise()[1] == pytest.approx(full, rel=1e-3)


def test_plants_that_tell_one_another_go_as_the_joint_system():
    """Constant outputs for two hours, by the matrix exponential."""
    found = tube(35.0, 20.0)
    networks, joints = networks_of(found), joints_of(found)
    outputs, dead = (80.0, 20.0, 50.0), [n.dead_time_s for n in networks]
    networks = [replace(n, dead_time_s=0.0) for n in networks]
    by_hand = ControllerSettings(900.0, Mode.MANUAL, period_s=0.0)
    plants = [
        Simulation(n, replace(by_hand, manual_output=u), 21.0, 0.5) for n, u in zip(networks, outputs, strict=True)
    ]
    a, b, _, sensors = jointly(networks, joints)
    whole = np.zeros((len(a) + 1, len(a) + 1))
    whole[:-1, :-1], whole[:-1, -1] = a, b @ np.array(outputs)
    for minute in range(1, 121):
        for _ in range(12):
            warm = [p.true_c for p in plants]
            plants[0].lie_beside((joints[0], warm[1]))
            plants[1].lie_beside((joints[0], warm[0]), (joints[1], warm[2]))
            plants[2].lie_beside((joints[1], warm[1]))
            for p in plants:
                p.advance(5.0)
        if minute in (5, 30, 120):
            judge = scipy.linalg.expm(whole * 60.0 * minute)[sensors, -1]
            assert [p.reading_c - 21.0 for p in plants] == pytest.approx(list(judge), rel=5e-3)
    assert max(dead) > 0.0


def test_a_heat_up_under_on_off_goes_as_small_steps_of_the_joint_system_do():
    on_off = ControllerSettings(900.0, Mode.ON_OFF, hysteresis_c=6.0, sample_s=1.0, period_s=0.0)
    zones = tuple(replace(z, settings=replace(on_off, setpoint_c=z.rig.purpose.working_c)) for z in tube(30.0).zones)
    found = heat_up(Chamber(zones, (30.0,)))
    networks = networks_of(Chamber(zones, (30.0,)))
    a, b, _, sensors = jointly(networks, joints_of(Chamber(zones, (30.0,))))
    step = 0.5
    whole = np.zeros((len(a) + 2, len(a) + 2))
    whole[: len(a), : len(a)], whole[: len(a), len(a) :] = a, b
    moved = scipy.linalg.expm(whole * step)
    move, drive = moved[: len(a), : len(a)], moved[: len(a), len(a) :]
    line = [[0.0, 0.0]] * round(networks[0].dead_time_s / step)
    x, on, peaks, holds = np.zeros(len(a)), np.ones(2), np.zeros(2), [0.0, 0.0]
    wanted = np.array([z.rig.purpose.working_c - 21.0 for z in zones])
    for k in range(int(found.time_s[-1] / step)):
        if k % 2 == 0:
            on = np.where(x[sensors] >= wanted, 0.0, np.where(x[sensors] <= wanted - 6.0, 1.0, on))
        line.append(list(100.0 * on))
        x = move @ x + drive @ np.array(line.pop(0))
        peaks = np.maximum(peaks, x[sensors])
        for i in range(2):
            if not holds[i] and x[sensors[i]] >= wanted[i] * 0.98:
                holds[i] = k * step
    for i, one in enumerate(found.zones):
        assert one.holds_s == pytest.approx(holds[i], rel=0.01)
        assert one.over_c == pytest.approx(peaks[i] - wanted[i], abs=0.5)


def test_one_after_the_other_waits_and_takes_longer():
    found = tube(30.0)
    first = tuning_order(steady_of(found).gains)[0]
    together, turns = heat_up(found), heat_up(found, turns=True)
    begins = [z.begins_s for z in turns.zones]
    assert begins[first] == 0.0 and begins[1 - first] == turns.zones[first].holds_s
    assert together.holds_s < turns.holds_s and together.most_w == pytest.approx(2400.0)
    assert turns.zones[1 - first].reading_c[5] < 60.0  # hardly anything heats it at first


def test_a_quick_zone_beside_a_slow_one_is_told_in_time():
    """A bar of seconds beside a kiln of hours: as many pieces as may be, and it still comes to what the joint system rests at."""
    slow, quick = zone("slow", 900.0, 3000.0, kind=RigKind.KILN), zone("quick", 200.0, 100.0, kind=RigKind.TOOL)
    found = heat_up(Chamber((slow, replace(quick, settings=replace(quick.settings, pid=PID(5.0, 30.0)))), (2.0,)))
    assert len(found.time_s) <= 1300 and found.holds_s is not None
    assert [z.reading_c[-1] for z in found.zones] == pytest.approx([900.0, 200.0], abs=5.0)


def test_one_that_never_gets_there_is_told_and_those_after_it_never_begin():
    short = Identified(Span(4.0, 3.9, 4.1), Span(1500.0, 1400.0, 1600.0), Span(30.0, 25.0, 35.0))
    found = tube(10.0)
    weak = replace(found, zones=tuple(replace(z, rig=replace(z.rig, identified=short)) for z in found.zones))
    turns = heat_up(weak, turns=True)
    assert turns.holds_s is None and [z.begins_s for z in turns.zones].count(None) == 1
    assert {f.rule for f in findings_of(steady_of(weak))} >= {"zones.short"}


@pytest.mark.parametrize("which", [(0,), (1,), (0, 1), (0, 1, 2)])
def test_what_was_found_with_the_others_held_is_that_in_the_chamber(which):
    """By the gain with the others held, out of the joint system; and a neighbour still comes along as far as was told."""
    known = Identified(Span(6.0, 5.5, 6.5), Span(1800.0, 1700.0, 1900.0), Span(30.0, 25.0, 35.0))
    found = tube(30.0, 20.0) if 2 in which else tube(30.0)
    rigs = [replace(z.rig, identified=known) if i in which else z.rig for i, z in enumerate(found.zones)]
    found = replace(found, zones=tuple(replace(z, rig=rig) for z, rig in zip(found.zones, rigs, strict=True)))
    joints, losses = joints_of(found), losses_of(found.rigs, found.along_percent)
    a, b, chambers, _ = jointly(networks_of(found), joints)
    for i in which:
        others = [c for j, c in enumerate(chambers) if j != i]
        rest = [k for k in range(len(a)) if k not in others]
        held = np.linalg.solve(a[np.ix_(rest, rest)], -b[rest, i])[rest.index(chambers[i])]
        assert held == pytest.approx(6.0, rel=1e-3)
    assert joints[0] / np.sqrt(losses[0] * losses[1]) == pytest.approx(0.3 / 0.7, rel=1e-6)


def test_where_others_keep_it_its_guards_begin():
    found = tube(30.0)
    alone = found.rigs[0]
    beside = replace(alone, purpose=replace(alone.purpose, neighbours=neighbours_of(found.rigs, (30.0,), 0)))
    assert alone.rests_c == 21.0 and 240.0 < beside.rests_c < 300.0
    hottest = [r.rests_c + float(family(r).likely.equilibrium_rise()[1]) for r in (alone, beside)]
    assert hottest[1] < hottest[0]  # what they take when it is hot is more than what they give


def beyond_trip(networks, joints, i: int, trip_c: float, start: str, held) -> float:
    """The judge: zone ``i`` stuck at full power out of a ``hold`` of all, out of one of its own with the others off (``alone``), or from
    ``cold`` with all of them; the others go on as they were. How far its chamber passes the trip, by small exact steps of all nodes."""
    a, b, chambers, _ = jointly(networks, joints)
    n, step = len(networks), 2.0
    whole = np.zeros((len(a) + n, len(a) + n))
    whole[: len(a), : len(a)], whole[: len(a), len(a) :] = a, b
    moved = scipy.linalg.expm(whole * step)
    move, drive = moved[: len(a), : len(a)], moved[: len(a), len(a) :]
    others = {"hold": held, "alone": np.zeros(n), "cold": np.full(n, 100.0)}[start].copy()
    first = others.copy()
    if start == "alone":
        wanted = np.linalg.solve(a, -b @ held)[chambers[i]]
        first[i] = wanted / np.linalg.solve(a, -b[:, i])[chambers[i]]
    x = np.zeros(len(a)) if start == "cold" else np.linalg.solve(a, -b @ first)
    line = [first[i]] * round(networks[i].dead_time_s / step)
    on, peak = True, 0.0
    for _ in range(200_000):
        on = on and x[chambers[i]] + 21.0 < trip_c
        line.append(100.0 if on else 0.0)
        given = others.copy()
        given[i] = line.pop(0)
        x = move @ x + drive @ given
        peak = max(peak, x[chambers[i]] + 21.0 - trip_c)
        if not on and x[chambers[i]] + 21.0 < trip_c - 1.0:
            break
    return peak


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(cases(4)))
def test_a_switch_that_sticks_in_one_zone_stays_within_the_edge_whatever_the_others_do(seed):
    """Of zones that were found exactly, by themselves or among the others."""
    rng = np.random.default_rng(seed)
    zones = []
    for name in "ab" if seed % 2 else "abc":
        gain, lag = float(rng.uniform(8.0, 16.0)), float(rng.uniform(800.0, 4000.0))
        spans = [Span(v, 0.97 * v, 1.03 * v) for v in (gain, lag, float(rng.uniform(10.0, 60.0)))]
        known = Identified(*spans, by_itself=bool(rng.integers(2)))
        zones.append(zone(name, float(rng.uniform(750.0, 900.0)), float(rng.uniform(800.0, 3000.0)), identified=known))
    found = Chamber(tuple(zones), tuple(float(v) for v in rng.uniform(5.0, 35.0, len(zones) - 1)))
    networks, joints, held = networks_of(found), joints_of(found), np.array(steady_of(found).outputs)
    for i, one in enumerate(zones):
        at_work = replace(one.rig.purpose, neighbours=neighbours_of(found.rigs, found.along_percent, i))
        rigs = family(replace(one.rig, purpose=at_work))
        trip, rests = at_work.working_c + 40.0, rests_c(one.rig.kind, at_work)
        length = 6.0 * max(time_63(n) for n in rigs.all)
        told = worst_peak(rigs.fast, rests, at_work.working_c, length, Follower(0.0, 1.0, trip, 0.0))
        for start in ("hold", "alone", "cold"):
            true = beyond_trip(networks, joints, i, trip, start, held)
            assert true <= 0.0 or (told is not None and told - trip >= true), (i, start, true, told)


@pytest.mark.parametrize("along", [(5.0,), (30.0,), (40.0, 30.0)])
def test_what_may_be_touched_by_then_can_be_with_all_of_them_hot(along):
    """Out of a hold of all, by the matrix exponential of the joint system."""
    found = tube(*along)
    told = cools_s(found.rigs)
    networks = networks_of(found)
    a, b, chambers, sensors = jointly(networks, joints_of(found))
    held = np.linalg.solve(a, -b @ np.array(steady_of(found).outputs))
    assert held[chambers] + 21.0 == pytest.approx([z.rig.purpose.working_c for z in found.zones])
    after = scipy.linalg.expm(a * told) @ held
    assert np.delete(after, sensors).max() + 21.0 <= TOUCHED_C
    by_itself = [cools_s([r]) for r in found.rigs]
    assert told >= max(by_itself)


@pytest.mark.parametrize("seed", range(cases(20)))
def test_outputs_take_turns_where_a_laid_out_hour_says_so(seed):
    """Judged by laying a hundred slots: of two, both or one at a time; of three, every split of the hour among what is carried."""
    rng = np.random.default_rng(seed)
    duties, powers = rng.uniform(0.05, 0.9, 2), rng.uniform(500.0, 2000.0, 2)
    supply = float(rng.uniform(powers.min() * 0.9, powers.sum() * 1.1))
    both, each = powers.sum() <= supply, [p <= supply for p in powers]
    fits = both or (all(each) and duties.sum() <= 1.0)
    assert takes_turns(duties, powers, supply) == fits
    three, equal = np.array([*duties, rng.uniform(0.05, 0.9)]), np.full(3, 1000.0)
    assert takes_turns(three, equal, 2000.0) == (three.sum() <= 2.0)  # two at a time, by McNaughton's rule
    assert takes_turns(three, equal, 1000.0) == (three.sum() <= 1.0)


def test_an_average_that_fits_is_not_enough_where_only_one_may_be_on():
    """Two of 2000 W that need 60 % each draw 2400 W on average; a supply of 2500 W carries one at a time, and 120 % of the time there is
    not."""
    like = Steady(
        ("a", "b"), ("a", "b"), np.diag([10.0, 10.0]), (621.0, 621.0), (2000.0, 2000.0), 21.0, 2500.0, "given"
    )
    (found,) = findings_of(like)
    assert found.rule == "zones.supply" and found.severity is Severity.DANGER and "do not all hold" in found.fix
    (lower,) = findings_of(replace(like, setpoints_c=(471.0, 471.0)))
    assert lower.severity is Severity.FAULT
    assert "do not all hold" in drawn(like, 4000.0) and "takes longer" in drawn(
        replace(like, setpoints_c=(471.0, 471.0)), 4000.0
    )
    assert drawn(like, 2500.0) == drawn(replace(like, supply_w=None), 2500.0)


def test_what_was_never_found_is_not_said_to_hold():
    found = steady_of(tube(30.0))
    assert headline(found, []).startswith("As rigs of their kind (front, middle)")
    assert headline(replace(found, assumed=()), []).startswith("Each holds its own.")


def rig(working_c: float, power_w: float, **changed) -> HeatedRig:
    return HeatedRig(RigKind.MUFFLE, replace(purpose(working_c, power_w), **changed), power_w)


GOOD = [("front", rig(900.0, 1400.0)), ("back", rig(850.0, 1200.0))]
COOL = Cooler(CooledBy.FAN, 200.0, 12.0)


@pytest.mark.parametrize(
    ("zones", "along", "supply_w", "field"),
    [
        (GOOD[:1], (), None, "zones"),
        ([*GOOD, ("c", GOOD[0][1]), ("d", GOOD[0][1])], (30.0,) * 3, None, "zones"),
        ([GOOD[0], GOOD[0]], (30.0,), None, "zones"),
        ([GOOD[0], ("warm room", rig(850.0, 1200.0, ambient_c=25.0))], (30.0,), None, "zones[1]"),
        (GOOD, (), None, "along_percent"),
        (GOOD, (0.5,), None, "along_percent[0]"),
        (GOOD, (80.5,), None, "along_percent[0]"),
        (GOOD, (float("nan"),), None, "along_percent[0]"),
        (GOOD, (30.0,), 0.0, "supply_w"),
        (GOOD, (30.0,), float("inf"), "supply_w"),
        ([GOOD[0], ("fire", rig(850.0, 1200.0, fire=Fire(3000.0)))], (30.0,), None, "zones[1]"),
        ([GOOD[0], ("cool", rig(250.0, 1200.0))], (40.0,), None, "zones[1]"),
    ],
)
def test_what_is_no_chamber_is_refused_by_its_field(zones, along, supply_w, field):
    with pytest.raises(Refused) as refused:
        check_chamber(zones, along, supply_w)
    assert field in [p.field for p in refused.value.problems]


def test_what_just_is_one_is_taken():
    check_chamber(GOOD, (1.0,), None)
    check_chamber(GOOD, (80.0,), 400_000.0)
    check_chamber([GOOD[0], ("cool", rig(250.0, 1200.0))], (10.0,), 1.0)
    check_chamber([GOOD[0], ("cooled", rig(850.0, 1200.0, cooler=COOL))], (30.0,), None)


def test_what_was_found_of_it_by_itself_is_less_among_others():
    """By the gain with the others held, out of the joint system."""
    known = Identified(Span(9.0, 8.5, 9.5), Span(1800.0, 1700.0, 1900.0), Span(30.0, 25.0, 35.0), by_itself=True)
    found = tube(30.0)
    front = replace(found.zones[0].rig, identified=known)
    found = replace(found, zones=(replace(found.zones[0], rig=front), found.zones[1]))
    networks, joints = networks_of(found), joints_of(found)
    assert float(networks[0].equilibrium_rise()[1]) == pytest.approx(900.0)
    a, b, chambers, _ = jointly(networks, joints)
    rest = [k for k in range(len(a)) if k != chambers[1]]
    held = np.linalg.solve(a[np.ix_(rest, rest)], -b[rest, 0])[rest.index(chambers[0])]
    at_work = replace(front.purpose, neighbours=neighbours_of(found.rigs, found.along_percent, 0))
    guarded = family(replace(front, purpose=at_work)).likely
    assert float(guarded.equilibrium_rise()[1]) == pytest.approx(100.0 * held, rel=1e-3)
