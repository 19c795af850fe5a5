"""A profile in the file of somebody's own firmware: what is written is run by a small firmware of the tests, and read back."""

import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings

from rellux.core.errors import Refused
from rellux.core.profiles.firmware import USUAL, read_by, template_from, written
from rellux.core.profiles.kinds import ALL
from rellux.core.profiles.profile import (
    MOST_SEGMENTS,
    EndAction,
    Holdback,
    Loop,
    Profile,
    Segment,
    SegmentKind,
    StartFrom,
    WaitFor,
    commanded,
)
from tests.examples import cases

from .test_tables import KILN, OFF, possible, profiles, whole

K = SegmentKind
ARRAY = """\
static const struct point PROFILE[] = { /* {segments} of {name} */
[start]   { {at_s:.0f}UL, {target_c*10:.0f} }
[point]   { {at_s:.0f}UL, {target_c*10:.0f} }
[between] ,
};
"""
WORDS = """\
[ramp_rate] ramp to {target_f:.4f} at {rate_f_per_h:.6f}
[ramp_time] ramp to {target_f:.4f} in {time_min:.6f}
[step] jump to {target_f:.4f}
[soak] hold {time_min:.6f}
[wait] ask
[end] off
[end_hold] stay
"""


def run_by_the_array(text, t):
    """What a firmware that goes from point to point asks for at ``t``."""
    points = [(int(a), int(b) / 10.0) for a, b in re.findall(r"\{ (\d+)UL, (-?\d+) \}", text)]
    i = max(n for n, (at, _) in enumerate(points) if at <= t)
    (at, c), (then, d) = points[i], points[min(i + 1, len(points) - 1)]
    return c if then == at else c + (d - c) * (t - at) / (then - at)


@settings(max_examples=cases(40), deadline=None)
@given(profiles(of=whole).filter(possible))
def test_a_firmware_that_reads_the_array_runs_the_same_course(p):
    found = written(p, template_from(ARRAY), "any", 20.0)
    assert found.text.count(",\n") == found.text.count("UL") - 1  # between, never after the last
    corners = commanded(p, 20.0 if p.start_c is None else p.start_c)
    start = 20.0 if p.start_c is None else p.start_c
    found = written(p, template_from(ARRAY), "any", start)
    times, values = [0.0, *(c.time_s for c in corners)], [start, *(c.celsius for c in corners)]
    for t in np.linspace(0.5, max(times[-1], 1.0) - 0.25, 57):
        i = int(np.searchsorted(times, t, side="right"))
        if i < len(times):
            meant = values[i - 1] + (values[i] - values[i - 1]) * (t - times[i - 1]) / (times[i] - times[i - 1])
            assert run_by_the_array(found.text, t) == pytest.approx(meant, abs=found.apart_c + 0.051)
    assert found.apart_c <= 0.0501 and abs(found.late_s) <= 0.5


@settings(max_examples=cases(40), deadline=None)
@given(profiles(of=whole).filter(possible))
def test_what_is_called_exact_comes_back_as_it_was(p):
    start = 20.0 if p.start_c is None else p.start_c
    found = written(p, template_from(WORDS), "any", start)
    back = found.runs if len(found.runs.segments) > MOST_SEGMENTS else read_by(template_from(WORDS), found.text)
    kinds = [p.segments[i].kind for i in p.order()]
    assert [s.kind for s in back.segments] == [k for k in kinds if k is not None] or found.apart_c < 1e-3
    for one, other in zip(commanded(p, start), commanded(back, start), strict=False):
        assert one.celsius == pytest.approx(other.celsius, abs=1e-3) and one.time_s == pytest.approx(
            other.time_s, abs=1.0
        )
    assert back.segments[-1].end is p.segments[-1].end


def test_by_hand():
    found = written(KILN, template_from(ARRAY), "Kiln", 20.0)
    assert found.text == (
        "static const struct point PROFILE[] = { /* 5 of Kiln */\n"
        "  { 0UL, 200 },\n  { 6000UL, 1200 },\n  { 9600UL, 1200 },\n  { 22800UL, 5600 },\n  { 30000UL, 5600 }\n};\n"
    )
    assert found.apart_c == 0.0 and "begun elsewhere" in found.losses[0].then and found.keeps != "whole"
    timed = replace(found.runs, start=StartFrom.VALUE, start_c=20.0)
    assert written(timed, template_from(ARRAY), "Kiln", 20.0).keeps == "whole"


@pytest.mark.parametrize(
    ("segment", "word"),
    [
        (Segment(K.SOAK, time_s=60.0, holdback=Holdback(3.0)), "waits for the load"),
        (Segment(K.WAIT, wait=WaitFor.PERSON), "that it waits"), (Segment(K.WAIT, 90.0, wait=WaitFor.RISEN), "that it waits"),
        (Segment(K.SOAK, time_s=60.0, says="look"), "told"), (Segment(K.SOAK, time_s=60.0, pid_set=2), "control values"),
        (Segment(K.SOAK, time_s=60.0), ""),
    ],
)  # fmt: skip
def test_what_the_file_cannot_say_is_named(segment, word):
    p = Profile((Segment(K.STEP, 80.0), segment, OFF))
    losses = written(p, template_from(ARRAY), "any", 20.0).losses
    assert bool(losses) == bool(word) and word in " ".join(x.what for x in losses)
    holding = replace(p, segments=(*p.segments[:-1], Segment(K.END, end=EndAction.HOLD)))
    assert "holds at the end" in written(holding, template_from(ARRAY), "any", 20.0).losses[-1].what


def test_whole_minutes_carry_what_they_leave():
    """Three soaks of 100.4 min in whole minutes: 100, 101, 100."""
    p = Profile((Segment(K.STEP, 50.0), *[Segment(K.SOAK, time_s=100.4 * 60)] * 3, OFF))
    form = template_from("[step] S {target_c}\n[soak] H {time_min:.0f}\n[end] E\n")
    found = written(p, form, "any", 20.0)
    assert re.findall(r"H (\d+)", found.text) == ["100", "101", "100"] and found.late_s == pytest.approx(-12.0)
    assert found.keeps != "whole"


@pytest.mark.parametrize(
    ("template", "word"),
    [
        ("only words\n", "how a segment is written"), ("[point] {at_s}\n", "line 1: [point] does not say its target"),
        ("[point] {target_c}\n", "time or at"), ("[ramp_rate] {target_c} {rate_c_per_min}\n[ramp_rate] x\n", "twice"),
        ("[point] {at_s} {target_c}\n[soak] {time_s}\n", "writes every"), ("{target_c}\n[point] {at_s} {target_c}\n", "own line"),
        ("[point] {at_s} {temp_c}\n", "{temp_c} is no value"), ("[point] {at_s*0} {target_c}\n", "no factor"),
        ("[point] {at_s:.99f} {target_c}\n", "99 decimals"), ("[ramps] {target_c}\n[end] x\n", "there is no [ramps]"),
        ("[soak] {time_s}\n[between] {number}\n", "stands as it is"), ("[end]\n[soak] {time_s}\n", "as nothing"),
        ("x" * 9000, "too long"),
    ],
)  # fmt: skip
def test_a_template_that_cannot_be_is_named(template, word):
    with pytest.raises(Refused) as refused:
        template_from(template)
    assert word in str(refused.value), refused.value


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("T0 S20.0\nT60 S80\nHEAT 5\nEND\n", "line 3"), ("T0 S20.0\nT60 S80\nT30 S90\nEND\n", "before the line above"),
        ("", "segments"), ("T0 S20\nT60 Snan\n", "line 2"), ("T0 S20\nT60 S9e9\nEND\n", "target_c"), ("x" * 200_001, "too long"),
    ],
)  # fmt: skip
def test_a_file_in_another_form_is_refused_by_its_line(text, word):
    with pytest.raises(Refused) as refused:
        read_by(template_from(USUAL), text)
    assert word in str(refused.value), refused.value


def test_a_template_too_coarse_for_the_profile_is_refused_and_one_that_is_read_otherwise_is_not_called_exact():
    quick = Profile((Segment(K.RAMP_TIME, 80.0, time_s=20.0), OFF), start=StartFrom.VALUE, start_c=20.0)
    with pytest.raises(Refused, match="read back"):
        written(quick, template_from("[ramp_time] {target_c} {time_h:.0f}\n[end] E\n"), "any", 20.0)
    alike = template_from(
        "[start] {target_c}\n[ramp_time] {target_c} {time_s}\n[ramp_rate] {target_c} {rate_c_per_min}\n[end] E\n"
    )
    by_rate = replace(quick, segments=(Segment(K.RAMP_RATE, 80.0, 2.0), OFF))
    assert written(by_rate, alike, "any", 20.0).keeps != "whole"
    assert written(quick, alike, "any", 20.0).keeps == "whole"


@pytest.mark.parametrize("kind", ALL, ids=lambda k: k.key)
def test_every_kind_is_written_by_the_usual_template(kind):
    p = kind.build(kind.shape())
    found = written(p, template_from(USUAL), kind.title, 20.0)
    assert found.apart_c <= 0.5 or found.losses
    assert len(list(replace(p, loops=p.loops or (Loop(1, 1, 2),)).order())) >= len(found.runs.segments) - 1
