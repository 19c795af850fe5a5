"""What references are worth: boiling water and the atmosphere against their standards, the rest against worked numbers; certificates."""

from dataclasses import replace
from datetime import date
from math import sqrt

import pytest
from CoolProp.CoolProp import PropsSI
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.calibration.certificates import CertificateSays
from rellux.core.calibration.certified import Certificate, CertificatePoint, certified, check_certificates
from rellux.core.calibration.fixed_points import METALS, boiling, pressure_at
from rellux.core.calibration.references import ReferenceInput, ReferenceKind, check_good_enough, offered, usable, worth
from rellux.core.errors import Refused

TODAY = date(2026, 6, 1)


def test_water_boils_where_the_formulation_says():
    """IAPWS R7-97(2012), table 36: 372.755919 K at 0.1 MPa. Handbook values: 1609 m 94.6 °C, 2500 m 91.6 °C."""
    assert boiling(1000.0) == pytest.approx(372.755919 - 273.15, abs=1e-6)
    assert boiling(1013.25) == pytest.approx(99.974, abs=5e-4)
    assert boiling(pressure_at(1609.0)) == pytest.approx(94.6, abs=0.05)
    assert boiling(pressure_at(2500.0)) == pytest.approx(91.6, abs=0.05)


@given(st.floats(450, 1090))
def test_it_is_the_same_in_another_library(hpa):
    assert boiling(hpa) == pytest.approx(PropsSI("T", "P", hpa * 100.0, "Q", 1, "IF97::Water") - 273.15, abs=1e-6)


@pytest.mark.parametrize(
    ("metres", "hpa"), [(0, 1013.25), (500, 954.6), (1000, 898.75), (2000, 794.95), (3000, 701.09)]
)
def test_the_standard_atmosphere(metres, hpa):
    """ISO 2533:1975, table 1, from memory."""
    assert pressure_at(metres) == pytest.approx(hpa, rel=2e-4)


def asked(kind, near=100.0, room=20.0, **more):
    return worth(replace(ReferenceInput(), kind=kind, **more), near, room)


def test_boiling_water_by_what_is_known_of_the_pressure():
    measured = asked(ReferenceKind.BOILING, pressure_hpa=850.0)
    reported = asked(ReferenceKind.BOILING, pressure_hpa=1013.25, sea_level=True, altitude_m=1609.0)
    by_height = asked(ReferenceKind.BOILING, altitude_m=1609.0)
    assert measured.value.value == pytest.approx(boiling(850.0))
    assert reported.value.value == pytest.approx(by_height.value.value) and 94.5 < by_height.value.value < 94.7
    assert measured.u.value < reported.u.value < by_height.u.value
    salted = asked(ReferenceKind.BOILING, pressure_hpa=1013.25, salt_g_per_kg=29.0)
    assert salted.value.value == pytest.approx(100.47, abs=0.01)  # 0.5 °C for 29 g/kg
    for missing in ({}, {"pressure_hpa": 1010.0, "sea_level": True}):
        with pytest.raises(Refused) as refused:
            asked(ReferenceKind.BOILING, **missing)
        assert refused.value.problems[0].field == "altitude_m"
    for impossible in (60_000.0, -1000.0):
        with pytest.raises(Refused, match="not where an oven stands"):
            pressure_at(impossible)
    with pytest.raises(Refused, match="no pressure of air"):
        boiling(50.0)


def test_what_each_kind_is_worth():
    strip = asked(ReferenceKind.STRIP, last_c=65.0, next_c=71.0, maker_percent=1.0)
    assert (
        strip.value.value == 68.0
        and strip.u.value == pytest.approx(sqrt(36 / 12 + 0.68**2 / 3))
        and "peak" in strip.warns
    )
    crayon = asked(ReferenceKind.CRAYON, near=560.0, melted_c=550.0, unmelted_c=570.0)
    assert crayon.value.value == 560.0
    ice, cubes = asked(ReferenceKind.ICE, near=0.0), asked(ReferenceKind.ICE, near=0.0, crushed=False)
    assert ice.value.value == 0.0 and ice.u.value < 0.05 and cubes.value.value > 0.2 and cubes.u.value > 5 * ice.u.value
    thermometer = asked(ReferenceKind.THERMOMETER, expanded_c=0.2)
    assert thermometer.u.value == pytest.approx(0.1) and asked(ReferenceKind.THERMOMETER).u is None
    assert asked(ReferenceKind.PROBE, near=400.0).u.value == pytest.approx(1.6 / sqrt(3))  # IEC 60584-1 class 1
    # 10 % of emissivity at 227 °C and 10 µm is 17 K: λ T² / 14388 · Δε/ε
    infrared = asked(ReferenceKind.INFRARED, near=227.0, emissivity=1.0, emissivity_by=0.1)
    assert infrared.u.value == pytest.approx(sqrt(1.5**2 + 17.4**2) / sqrt(3), rel=0.01)
    assert asked(ReferenceKind.BLOCK, diameters=3).u.value > 2 * asked(ReferenceKind.BLOCK, diameters=15).u.value
    assert asked(ReferenceKind.METAL, near=230.0, metal="tin").value.value == METALS["tin"] == 231.928
    assert asked(ReferenceKind.GLOW, near=700.0).u.value > 20


@pytest.mark.parametrize(
    ("kind", "near", "more", "field"),
    [
        (ReferenceKind.STRIP, 70.0, {"last_c": 71.0, "next_c": 65.0}, "next_c"),
        (ReferenceKind.STRIP, 70.0, {"last_c": 65.0, "next_c": 250.0}, "last_c"),
        (ReferenceKind.METAL, 100.0, {"metal": "tin"}, "metal"),
        (ReferenceKind.PROBE, 1300.0, {}, "kind"),
        (ReferenceKind.STRIP, 300.0, {"last_c": 65.0, "next_c": 71.0}, "kind"),
        (ReferenceKind.ICE, 5.1, {}, "kind"),
        (ReferenceKind.GLOW, 549.0, {}, "kind"),
    ],
)
def test_what_cannot_be_is_asked_back(kind, near, more, field):
    with pytest.raises(Refused) as refused:
        asked(kind, near, **more)
    assert refused.value.problems[0].field == field


def test_what_is_offered_fits_the_temperature():
    at = {t: set(usable(t)) for t in (0.0, 95.0, 400.0, 700.0)}
    assert ReferenceKind.ICE in at[0.0] and ReferenceKind.ICE not in at[95.0]
    assert ReferenceKind.BOILING in at[95.0] and ReferenceKind.BOILING not in at[400.0]
    assert ReferenceKind.METAL in at[400.0] and ReferenceKind.GLOW in at[700.0] and ReferenceKind.STRIP not in at[700.0]
    for t in at:
        for one in offered(t, 20.0):
            assert one.warns and (one.u_c is None) == (one.kind is ReferenceKind.THERMOMETER)


def test_a_reference_may_take_a_quarter_of_what_is_allowed():
    assert check_good_enough(0.5, 2.0) == "" and "more than a quarter" in check_good_enough(0.51, 2.0)


def certificate(day, says, *points, coverage=2.0):
    return Certificate(day, says, tuple(CertificatePoint(*p) for p in points), coverage)


OLD = certificate(date(2024, 6, 1), CertificateSays.CORRECTION, (0.0, 0.0, 0.1), (100.0, 0.1, 0.2))
NEW = certificate(date(2025, 6, 1), CertificateSays.ERROR, (0.0, -0.1, 0.1), (100.0, -0.3, 0.2))


def test_a_certificate_between_its_points_and_its_sign():
    found = certified((NEW,), 50.0, TODAY)
    assert found.added_c == pytest.approx(0.2) and found.u_c == pytest.approx(0.1) and found.drifted_c == 0.0
    assert certified((replace(NEW, coverage=3.0),), 50.0, TODAY).u_c == pytest.approx(0.2 / 3.0)
    assert "nobody knows how it drifts" in found.reason
    for far in (-20.0, 130.0):
        with pytest.raises(Refused, match="do not reach"):
            certified((NEW,), far, TODAY)
    with pytest.raises(Refused, match="it has none"):
        certified((), 50.0, TODAY)


def test_from_one_certificate_to_the_next_it_drifts():
    """At 100 °C from +0.1 to +0.3 in a year: a year later it may have moved as much again."""
    found = certified((NEW, OLD), 100.0, TODAY)
    assert found.added_c == pytest.approx(0.3) and found.drifted_c == pytest.approx(0.2, abs=1e-3)
    assert found.u_c == pytest.approx(sqrt(0.1**2 + 0.2**2 / 3), abs=1e-3) and "{0.2 Δ°C} a year" in found.reason


@pytest.mark.parametrize(
    ("bad", "field"),
    [
        (replace(NEW, dated=date(2027, 1, 1)), "certificates[0].dated"),
        (replace(NEW, coverage=0.5), "certificates[0].coverage"),
        (replace(NEW, points=()), "certificates[0].points"),
        (replace(NEW, points=NEW.points * 2), "certificates[0].points"),
        (certificate(date(2025, 1, 1), CertificateSays.ERROR, (5000.0, 0.0, 0.1)), "certificates[0].points[0].at_c"),
        (certificate(date(2025, 1, 1), CertificateSays.ERROR, (50.0, 80.0, 0.1)), "certificates[0].points[0].number_c"),
        (
            certificate(date(2025, 1, 1), CertificateSays.ERROR, (50.0, 0.0, 0.0)),
            "certificates[0].points[0].expanded_c",
        ),
    ],
)
def test_certificates_that_cannot_be(bad, field):
    check_certificates((NEW, OLD), TODAY)
    with pytest.raises(Refused) as refused:
        check_certificates((bad,), TODAY)
    assert field in [p.field for p in refused.value.problems]


POINTS = st.lists(
    st.tuples(st.integers(0, 60), st.floats(-5, 5), st.floats(0.05, 2)),
    min_size=2,
    max_size=8,
    unique_by=lambda p: p[0],
)


@given(POINTS, st.floats(0, 1))
def test_between_two_points_the_number_is_between_theirs_and_no_surer_than_either(points, where):
    ordered = sorted(points)
    (low, first, u_first), (high, second, u_second) = ordered[0], ordered[1]
    at = 10.0 * (low + where * (high - low))
    found = certified(
        (certificate(date(2025, 1, 1), CertificateSays.CORRECTION, *((10.0 * t, c, u) for t, c, u in points)),),
        at,
        TODAY,
    )
    assert min(first, second) - 1e-9 <= found.added_c <= max(first, second) + 1e-9
    assert found.u_c >= max(u_first, u_second) / 2.0 - 1e-12 or at in (10.0 * low, 10.0 * high)
    as_error = certified(
        (certificate(date(2025, 1, 1), CertificateSays.ERROR, *((10.0 * t, c, u) for t, c, u in points)),), at, TODAY
    )
    assert as_error.added_c == -found.added_c


@given(st.floats(-400, 5900), st.floats(-400, 5900))
def test_higher_up_water_boils_cooler(one, other):
    low, high = sorted((one, other))
    assert boiling(pressure_at(low)) >= boiling(pressure_at(high))
