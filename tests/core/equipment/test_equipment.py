"""What a piece of equipment can be, where it can be, and what is said of it."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.equipment.equipment import Equipment, EquipmentRole, Probe, check_equipment, probe_kinds
from rellux.core.equipment.findings import Fitted, due_findings, fitted_findings, lead_error, worn_findings
from rellux.core.equipment.stays import Stay, check_fitting, compared_in_place, inherited, places
from rellux.core.errors import Refused
from rellux.core.runs.series import Series
from rellux.core.runs.wear import times_on
from rellux.core.sensing.choosing import Junction
from rellux.core.wiring.choice import SUGGESTED, Actuator, Choice, Output

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
TODAY = date(2026, 11, 27)
PROBE = Probe("Pt100", leads=3, sheath_mm=6.0, length_mm=100.0, lead_m=2.0, lead_mm2=0.22)
IT = Equipment("S-04", EquipmentRole.SENSOR, probe=PROBE)
PLATINUM = replace(SUGGESTED, sensor="Pt100")


def said(probe: Probe, choice: Choice = PLATINUM, at_c: float = 100.0) -> set[str]:
    it = replace(IT, probe=probe)
    check_equipment(it, TODAY)
    return {f.rule for f in fitted_findings({EquipmentRole.SENSOR: Fitted(it)}, choice, at_c, TODAY)}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": " "}, "name"),
        ({"name": "x" * 41}, "name"),
        ({"probe": None}, "probe"),
        ({"role": EquipmentRole.SWITCH}, "probe"),
        ({"life": 1e5}, "life"),
        ({"role": EquipmentRole.SWITCH, "probe": None, "life": 10.0}, "life"),
        ({"probe": replace(PROBE, sensor="Q")}, "probe.sensor"),
        ({"probe": replace(PROBE, sensor="K")}, "probe.leads"),
        ({"probe": replace(PROBE, leads=5)}, "probe.leads"),
        ({"probe": replace(PROBE, elements=3)}, "probe.elements"),
        ({"probe": replace(PROBE, junction=Junction.GROUNDED)}, "probe.junction"),
        ({"probe": replace(PROBE, sheath_mm=0.006)}, "probe.sheath_mm"),
        ({"probe": replace(PROBE, lead_mm2=float("nan"))}, "probe.lead_mm2"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(change, field):
    check_equipment(IT, TODAY)
    with pytest.raises(Refused) as refused:
        check_equipment(replace(IT, **change), TODAY)
    assert [p.field for p in refused.value.problems] == [field]


def test_each_finding_of_a_probe_has_a_near_miss():
    assert not said(PROBE)
    assert said(replace(PROBE, sensor="Pt1000"), PLATINUM) == {"equipment.other-sensor"}
    assert said(replace(PROBE, length_mm=59.0)) == {"equipment.short"} and not said(replace(PROBE, length_mm=60.0))
    assert said(replace(PROBE, leads=4)) == {"equipment.fourth"}
    assert said(replace(PROBE, leads=2, lead_m=0.5)) == {"equipment.bridge"}
    assert said(replace(PROBE, leads=2, lead_m=20.0)) == {"equipment.lead"}
    thin = replace(PROBE, sensor="J", leads=2, sheath_mm=1.0, lead_m=None)
    iron = replace(SUGGESTED, sensor="J")
    assert said(thin, iron, 261.0) == {"equipment.thin"} and not said(thin, iron, 260.0)
    assert not said(replace(thin, sheath_mm=1.5), iron, 261.0) and replace(PROBE, sheath_mm=1.0).stands_c is None
    bare = replace(PLATINUM, limiter=False)
    assert said(replace(PROBE, elements=2)) == {"equipment.double"} and not said(replace(PROBE, elements=2), bare)
    welded = Probe("K", junction=Junction.GROUNDED)
    board = Choice("K", Output.PIN, Actuator.SSR, True, SUGGESTED.practice)
    assert said(welded, board) == {"equipment.grounded"} and not said(welded, SUGGESTED)


def test_a_lead_of_an_ohm_reads_as_the_table_says():
    """IEC 60751: 138.51 Ω at 100 °C and 138.89 Ω at 101 °C (from memory), so an ohm is 2.64 °C there; a Pt1000 has a tenth of it."""
    ohm = PROBE.loop_ohm
    assert ohm == pytest.approx(
        2 * 2.0 * 0.0172 / 0.22, rel=0.06
    )  # copper 0.0172 Ω mm²/m, stranded and at 25 °C a little more
    two = replace(PROBE, leads=2)
    error = lead_error(two, 100.0).value
    assert error == pytest.approx(ohm / (138.89 - 138.51), rel=0.02)
    assert lead_error(replace(two, sensor="Pt1000"), 100.0).value == pytest.approx(error / 10, rel=0.01)
    assert lead_error(PROBE, 100.0) is None and lead_error(replace(two, lead_m=None), 100.0) is None


def test_certificates_and_contacts_are_told_before_their_end():
    due = lambda days: [f.severity for f in due_findings(replace(IT, due=TODAY + timedelta(days=days)), TODAY)]  # noqa: E731
    assert (due(31), due(30), due(0), due(-1)) == ([], ["advice"], ["advice"], ["fault"])
    relay = Equipment("K-1", EquipmentRole.SWITCH, life=1e5)
    worn = lambda times: [f.severity for f in worn_findings(relay, times)]  # noqa: E731
    assert (worn(79_999), worn(80_000), worn(100_000)) == ([], ["advice"], ["fault"])
    assert not list(worn_findings(replace(relay, life=None), 1e9))


def test_a_place_holds_one_and_a_move_follows_what_is_known():
    has = places(acts=True, limiter=False)
    assert has == (
        EquipmentRole.SENSOR,
        EquipmentRole.CONTROLLER,
        EquipmentRole.SWITCH,
    ) and EquipmentRole.SWITCH not in places(acts=False, limiter=False)
    here = Stay("S-04", EquipmentRole.SENSOR, "Kiln", NOW - timedelta(days=3), NOW - timedelta(days=1))
    check_fitting(IT, has, NOW, NOW, [here])
    check_fitting(IT, has, here.until, NOW, [here])
    for at, field in ((NOW + timedelta(seconds=1), "at"), (here.until - timedelta(seconds=1), "at")):
        with pytest.raises(Refused, match=field):
            check_fitting(IT, has, at, NOW, [here])
    for role in (EquipmentRole.REFERENCE, EquipmentRole.LIMITER):
        with pytest.raises(Refused, match="role"):
            check_fitting(replace(IT, role=role), has, NOW, NOW, [])
    assert here.covers(here.since) and not here.covers(here.until)


def test_a_comparison_belongs_to_the_sensor_it_was_made_with():
    since = NOW - timedelta(days=1)
    assert compared_in_place("K", "K", NOW, since) and compared_in_place("K", "K", NOW, None)
    assert not compared_in_place("K", "K", since - timedelta(seconds=1), since)
    assert not compared_in_place("K", "N", NOW, since) and not compared_in_place("K", None, None, None)


def test_an_offset_is_inherited_where_nothing_was_entered_or_compared_since():
    since, before = NOW, NOW - timedelta(seconds=1)
    assert inherited(since, before, None) and inherited(since, None, before) and inherited(since, before, before)
    assert not inherited(since, since, before) and not inherited(since, before, since)
    assert not inherited(None, before, before) and not inherited(since, None, None)


def test_what_the_form_offers_is_what_is_accepted():
    """Every lead and junction offered for a sensor can be entered, and no other."""
    for kind in probe_kinds():
        for leads in range(1, 6):
            for junction in Junction:
                try:
                    check_equipment(replace(IT, probe=Probe(kind.sensor, leads, junction=junction)), TODAY)
                    can = True
                except Refused:
                    can = False
                assert can is (leads in kind.leads and junction in kind.junctions)


def series(switch: list[float], output: list[float], step_s: float = 1.0) -> Series:
    n = len(switch)
    nothing = np.full(n, np.nan)
    return Series(np.arange(n) * step_s, nothing, nothing, np.array(output), np.array(switch))


@given(st.lists(st.booleans(), max_size=60), st.integers(0, 60))
def test_a_switch_is_counted_alike_in_one_piece_and_in_two(states, cut):
    """Judged by looking at every pair; what stood before the first row was off."""
    on = [float(s) for s in states]
    expected = sum(a < b for a, b in zip([0.0, *on], on, strict=False))
    nothing = [float("nan")] * len(on)
    assert times_on(series(on, nothing), None)[0] == expected
    first, stood = times_on(series(on[:cut], nothing[:cut]), None)
    assert first + times_on(series(on[cut:], nothing[cut:]), None, stood)[0] == expected


def test_an_output_without_its_switch_counts_as_the_most_it_can_have_been():
    nothing = [float("nan")] * 101
    assert times_on(series(nothing, [50.0] * 101), 20.0)[0] == 5
    assert times_on(series(nothing, [100.0] * 101), 20.0)[0] == 1
    assert times_on(series(nothing, [0.0] * 101), 20.0)[0] == 0
