"""Profiles in and out: CSV both ways without loss, what people paste, a controller's own table with what it loses; and a recorded run
against the profile it was of."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.profiles.apart import keeps
from rellux.core.profiles.controller_table import HoldbackKind, ProgrammeForm, RampBy, controller_table
from rellux.core.profiles.files import as_csv, from_csv
from rellux.core.profiles.kinds import ALL
from rellux.core.profiles.profile import (
    AfterCut,
    AfterPower,
    EndAction,
    EventOutput,
    Holdback,
    Loop,
    Profile,
    Segment,
    SegmentKind,
    Side,
    StartFrom,
    WaitFor,
    check_profile,
    commanded,
)
from rellux.core.runs.followed import follow, slower_because
from rellux.core.runs.series import Series
from tests.examples import cases

K = SegmentKind
OFF = Segment(K.END, end=EndAction.OFF)
numbers = st.floats(0.01, 900.0).map(lambda v: float(f"{v:.7g}"))
words = st.text(st.sampled_from('abc ,;"#°|\t'), max_size=12).map(str.strip)
common = {
    "events": st.lists(st.sampled_from(EventOutput), unique=True).map(tuple),
    "says": words,
    "alarms": st.one_of(st.none(), st.just(()), st.just(("Too hot",)), st.just(("Too hot", "Sensor broken"))),
    "pid_set": st.integers(1, 8),
}
held = st.one_of(st.none(), st.builds(Holdback, numbers.map(lambda v: min(v, 200.0)), st.sampled_from(Side)))
segments = st.one_of(
    st.builds(Segment, st.just(K.RAMP_RATE), numbers, numbers, holdback=held, **common),
    st.builds(Segment, st.just(K.RAMP_TIME), numbers, time_s=numbers, holdback=held, **common),
    st.builds(Segment, st.just(K.SOAK), time_s=numbers, holdback=held, **common),
    st.builds(Segment, st.just(K.STEP), numbers, **common),
    st.builds(Segment, st.just(K.WAIT), wait=st.just(WaitFor.PERSON), **common),
    st.builds(Segment, st.just(K.WAIT), numbers, wait=st.just(WaitFor.RISEN), **common),
)


@st.composite
def profiles(draw, of=segments):
    made = Profile(
        (
            Segment(K.STEP, 5.0),
            *draw(st.lists(of, max_size=6)),
            draw(st.sampled_from([OFF, Segment(K.END, end=EndAction.HOLD)])),
        ),
        start=draw(st.sampled_from([StartFrom.READING, StartFrom.ROOM])),
        after_power=AfterPower(1.5, draw(numbers) + 2.0, draw(numbers), draw(st.sampled_from(AfterCut))),
    )
    if draw(st.booleans()):
        made = replace(made, loops=(Loop(1, len(made.segments) - 1, draw(st.integers(2, 9))),))
    if draw(st.booleans()):
        made = replace(made, start=StartFrom.VALUE, start_c=draw(numbers))
    return made


def possible(p):
    try:
        check_profile(p)
    except Refused:
        return False
    return True


@settings(max_examples=cases(100), deadline=None)
@given(profiles().filter(possible))
def test_csv_and_back_is_the_same_profile(p):
    assert from_csv(as_csv(p)) == p


@pytest.mark.parametrize(
    "text",
    [
        "target_c,rate_c_per_h,time_min\n100,60,30\n560,150,90\n",
        "Temperature (°C)\tRamp (°C/h)\tHold (min)\n100\t60\t30\n560\t150\t90\n",
        "target (°C);rate (°C/min);soak (h)\n100;1,0;0,5\n560;2,5;1,5\n",
        "target_f,rate_f_per_h,time_s\n212,108,1800\n1040,270,5400\n",
    ],
)
def test_a_ramp_and_hold_table_as_people_write_it(text):
    p = from_csv(text)
    got = [(s.kind, s.target_c, s.rate_c_per_min, s.time_s) for s in p.segments]
    up = [(K.RAMP_RATE, 100.0, 1.0, None), (K.RAMP_RATE, 560.0, 2.5, None)]
    hold = [(K.SOAK, None, None, 1800.0), (K.SOAK, None, None, 5400.0)]
    expected = [up[0], hold[0], up[1], hold[1]]
    for one, other in zip(got, [*expected, (K.END, None, None, None)], strict=True):
        assert one[0] is other[0] and one[1:] == pytest.approx(other[1:])


@pytest.mark.parametrize(
    ("text", "field", "word"),
    [
        ("target_c,rate_f_per_h\n100,2\n", "rate_f_per_h", "mixed"),
        ("target,rate_c_per_h\n100,2\n", "target", "unit"),
        ("target_c,time_min\n100 °F,3\n", "target_c", "row 2"),
        ("target_c,time_min\n100,3\n200,3h\n", "time_min", "row 3"),
        ("target_c,colour\n100,red\n", "colour", "column"),
        ("target_c,target_c\n100,3\n", "target_c", "twice"),
        ("kind,target_c\nleap,100\n", "kind", "row 2"),
        ("kind,target_c,events\nstep,100,fan siren\n", "events", "siren"),
        ("# loop,1,2\nkind,target_c\nstep,100\n", "loop", "read"),
        ("", "table", "nothing"),
        ("target_c,rate_c_per_min\n100,0\n", "segments[0].rate_c_per_min", ""),
    ],
)
def test_what_a_table_must_not_say_is_named(text, field, word):
    with pytest.raises(Refused) as refused:
        from_csv(text)
    told = {p.field: p.reason for p in refused.value.problems}
    assert field in told and word in told[field], told


# -- a controller's table --------------------------------------------------------------------------------------------------------

KILN = Profile(
    (
        Segment(K.RAMP_RATE, 120.0, 1.0),
        Segment(K.SOAK, time_s=3600.0),
        Segment(K.RAMP_RATE, 560.0, 2.0),
        Segment(K.SOAK, time_s=7200.0),
        OFF,
    )
)


def test_whole_minutes_by_hand():
    """From 20: 100 °C at 1/min in 100 min, 60 min, 440 at 2 in 220 min, 120 min."""
    found = controller_table(KILN, ProgrammeForm(), 20.0)
    assert found.keeps == "whole" and [r.time_s and r.time_s / 60 for r in found.rows] == [100, 60, 220, 120, None]
    assert found.runs != KILN and commanded(found.runs, 20.0) == commanded(KILN, 20.0)


def test_what_a_form_keeps_is_said_no_better_than_it_is():
    assert [keeps((), 0.0, 0.0), keeps((), 0.004, 0.4), keeps((), 0.006, 0.0), keeps((), 0.0, 0.6)] == [
        "whole",
        "course",
        "part",
        "part",
    ]
    assert keeps(("a note",), 0.0, 0.0) == "course"


def test_what_is_rounded_off_is_carried_on():
    """Three soaks of 100.4 min: 100, 101, 100 rather than 100, 100, 100; never more than half a minute from the profile."""
    p = Profile((Segment(K.STEP, 50.0), *[Segment(K.SOAK, time_s=100.4 * 60)] * 3, OFF))
    assert [r.time_s / 60 for r in controller_table(p, ProgrammeForm(), 20.0).rows[1:4]] == [100, 101, 100]


whole = st.one_of(
    st.builds(lambda c, t: Segment(K.RAMP_TIME, float(c), time_s=60.0 * t), st.integers(30, 900), st.integers(1, 900)),
    st.builds(lambda t: Segment(K.SOAK, time_s=60.0 * t), st.integers(1, 900)),
    st.builds(lambda c: Segment(K.STEP, float(c)), st.integers(30, 900)),
)


@pytest.mark.long
@settings(max_examples=cases(60), deadline=None)
@given(profiles(of=whole).filter(possible), st.sampled_from(RampBy), st.booleans())
def test_where_it_claims_to_be_exact_the_courses_are_the_same_and_elsewhere_no_further_than_it_says(p, ramp_by, loops):
    form = ProgrammeForm(40, ramp_by, holdback=HoldbackKind.EACH, loops=loops)
    found = controller_table(p, form, 20.0)
    before, after = commanded(p, 20.0), commanded(found.runs, 20.0)
    moments = np.linspace(0, max(before[-1].time_s, after[-1].time_s, 1.0), 3001)[1:]

    def at(corners, t):
        times, values = [0.0, *(c.time_s for c in corners)], [20.0, *(c.celsius for c in corners)]
        i = int(np.searchsorted(times, t, side="right"))
        if i >= len(times):
            return values[-1]
        return values[i - 1] + (values[i] - values[i - 1]) * (t - times[i - 1]) / (times[i] - times[i - 1])

    worst = max(abs(at(before, t) - at(after, t)) for t in moments)
    assert worst <= found.apart_c + 1e-6
    if found.keeps == "whole":
        assert worst < 1e-9 and len(after) == len(before)
    if ramp_by is RampBy.TIME and len(list(p.order())) <= 40 and not loops:
        assert found.apart_c == 0.0 or found.losses


def test_what_cannot_be_entered_is_said_with_what_follows():
    rich = Profile(
        (
            Segment(K.RAMP_RATE, 120.4, 1.0, holdback=Holdback(3.0), events=(EventOutput.FAN,), says="look", pid_set=2),
            Segment(K.WAIT, wait=WaitFor.PERSON),
            Segment(K.SOAK, time_s=3600.0),
            OFF,
        ),
        (Loop(1, 3, 4),),
    )
    found = controller_table(rich, ProgrammeForm(), 20.0)
    said = " ".join(f"{x.what}: {x.then}" for x in found.losses)
    for word in ("switches", "told", "control values", "waits for the load", "that it waits", "exactly", "rows more"):
        assert word in said, said
    assert len(found.rows) == 8 and found.rows[-1].says.startswith("end")
    assert not controller_table(KILN, ProgrammeForm(segments=5), 20.0).losses
    assert controller_table(KILN, ProgrammeForm(segments=4), 20.0).losses
    long = Profile((Segment(K.STEP, 50.0), Segment(K.SOAK, time_s=2000 * 60.0), OFF))
    pieces = controller_table(long, ProgrammeForm(longest_s=999 * 60.0), 20.0).rows[1:4]
    assert [r.time_s / 60.0 for r in pieces] == [998, 998, 4]


# -- a run against its profile ---------------------------------------------------------------------------------------------------


def ran(p, lag_s=0.0, power=1.0, extra_loss=0.0, hole=None, every=10.0, mass=1.0):
    """A run by the profile's own corners, the reading behind by a lag; output as a rig of one mass would need it."""
    corners = commanded(p, 20.0)
    t = np.arange(0.0, corners[-1].time_s + 300.0, every)
    sp = np.interp(t, [0.0, *(c.time_s for c in corners)], [20.0, *(c.celsius for c in corners)])
    y = np.interp(t - lag_s, t, sp)
    need = (mass * 10.0 * np.gradient(y, t) * 60.0 + (0.05 + extra_loss) * (y - 20.0)) / power
    if hole:
        y[(t > hole[0]) & (t < hole[1])] = np.nan
    return Series(t, sp, y, np.clip(need, 0, 100), np.full(len(t), np.nan))


def test_a_run_is_taken_apart_by_the_programme_itself():
    found = follow(KILN, ran(KILN, lag_s=120.0), 0.0, 20.0)
    assert found.ended and [s.segment for s in found.segments] == [0, 1, 2, 3, 4]
    first, soak = found.segments[0], found.segments[1]
    assert first.end_s == pytest.approx(6000.0, abs=20.0) and first.lag_c == pytest.approx(2.0, abs=0.1)
    assert soak.within_s == pytest.approx(3600.0, abs=30.0)  # two degrees behind at first, within three


def test_a_guaranteed_soak_waits_in_the_replay_as_it_did_in_the_rig():
    p = Profile((Segment(K.RAMP_RATE, 120.0, 1.0), Segment(K.SOAK, time_s=3600.0, holdback=Holdback(1.0)), OFF))
    found = follow(p, ran(p, lag_s=300.0), 0.0, 20.0)
    assert found.segments[1].held_s == pytest.approx(240.0, abs=20.0)


def test_somebody_it_waited_for_came_when_the_set_point_moved_on():
    p = Profile(
        (
            Segment(K.STEP, 60.0),
            Segment(K.WAIT, wait=WaitFor.PERSON),
            Segment(K.STEP, 80.0),
            Segment(K.SOAK, time_s=600.0),
            OFF,
        )
    )
    t = np.arange(0.0, 3000.0, 10.0)
    sp = np.where(t < 1000.0, 60.0, 80.0)
    found = follow(p, Series(t, sp, sp.copy(), np.full(len(t), 40.0), np.full(len(t), np.nan)), 0.0, 20.0)
    waited = next(s for s in found.segments if s.segment == 1)
    assert waited.end_s == pytest.approx(1010.0, abs=11.0) and found.ended


def test_what_was_not_recorded_is_not_held():
    found = follow(KILN, ran(KILN, hole=(7000.0, 8000.0)), 0.0, 20.0)
    soak = found.segments[1]
    assert soak.unseen_s == pytest.approx(1000.0, abs=30.0) and soak.within_s == pytest.approx(2600.0, abs=40.0)


@pytest.mark.parametrize(
    ("changed", "word"),
    [
        ({}, "what they take now"),
        ({"power": 0.98}, "what they take now"),
        ({"power": 0.85}, "supply voltage"), ({"extra_loss": 0.02}, "insulation"),
        ({"mass": 1.6}, "more to heat"),
    ],
)  # fmt: skip
def test_why_a_rig_got_slower(changed, word):
    """Element or voltage, losses, load: each from a run that was made with just that changed; and two near misses that are nothing."""
    before, now = (follow(KILN, ran(KILN, **c), 0.0, 20.0).segments for c in ({}, changed))
    said = slower_because(now, before, KILN)
    assert word in said, said


def test_what_cannot_be_compared_is_never_called_alike():
    known, dark = ran(KILN), ran(KILN)
    dark.output[:] = np.nan
    before, now = (follow(KILN, r, 0.0, 20.0).segments for r in (known, dark))
    assert "not known" in slower_because(now, before, KILN)
    assert "not known" in slower_because(before[:1], now, KILN)


@pytest.mark.parametrize("kind", ALL, ids=lambda k: k.key)
def test_every_kind_goes_through_csv_and_a_controllers_table(kind):
    p = kind.build(kind.shape())
    assert from_csv(as_csv(p)) == p
    assert controller_table(p, ProgrammeForm(segments=900, holdback=HoldbackKind.EACH), 20.0).rows
