"""A recorded run against a profile: plan, prediction and recording over one another, segment by segment, and the judge of its kind."""

import math
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Refused, refuse
from rellux.core.messages import span
from rellux.core.profiles.feasible import SegmentForecast, forecasts
from rellux.core.profiles.kinds import KINDS
from rellux.core.profiles.kinds.kind import places
from rellux.core.profiles.predict import predict
from rellux.core.profiles.profile import COLDEST_C, HOTTEST_C, Profile, start_of
from rellux.core.profiles.scoring import Score, Verdict, overall, seen_from
from rellux.core.runs.aligned import first_passage
from rellux.core.runs.followed import PassedSegment, follow, slower_because
from rellux.core.runs.series import Series
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.joined import held_at
from rellux.server.runs.models import Run

from .domain import conditions_of, heated_rig, used_in
from .models import ProfileVersion
from .stored import profile_from
from .views import version_of

POINTS = 600
ROLES = ("load", "second")
"""What a load is judged by: its own channel, else a second probe, else the reading."""


@dataclass(frozen=True)
class AttachInput:
    """Of which version of which profile a run was, and when in the run it began, s."""

    revision: int
    key: str
    number: int
    start_s: float = 0.0


@dataclass(frozen=True)
class EarlierView:
    """An earlier run of the same profile, and what changed since."""

    run: int
    name: str
    started_at: datetime
    says: str


@dataclass(frozen=True)
class SegmentEnergy:
    """What the heater took in one passage of a segment, and what it was foreseen to take; None where that is not known."""

    took_kwh: float | None
    foreseen_kwh: float | None


@dataclass(frozen=True)
class RunProfileView:
    """``place``: what stands for the load; ``verdict`` and ``scores`` of the kind's judge (none where it was made by hand).
    ``planned_late_s``/``predicted_late_s``: how much later the reading passed the temperature asked for than planned and predicted (None
    where one of them never did)."""

    run: int
    key: str
    number: int
    name: str
    kind: str
    start_s: float
    ended: bool
    place: str
    segments: list[PassedSegment]
    energies: list[SegmentEnergy]
    profile: Profile
    time_s: list[float]
    planned_c: list[float | None]
    reading_c: list[float | None]
    load_c: list[float | None]
    predicted_s: list[float]
    predicted_c: list[float]
    scores: list[Score]
    verdict: Verdict | None
    cannot: str
    earlier: list[EarlierView]
    planned_late_s: float | None
    predicted_late_s: float | None


def _run_of(rig: Rig, number: int) -> Run:
    run = get_object_or_404(Run, rig=rig, pk=number, removed_at__isnull=True)
    if not run.samples:
        raise refuse("run", "this run has no samples yet", "a run with samples")
    return run


class RunProfile(APIView):
    @endpoint("runProfile", RunProfileView, query={"align_c": float})
    def get(self, request: Request, slug: str, number: int) -> Response:
        rig = heated_rig(slug)
        run = _run_of(rig, number)
        if not run.programme:
            raise refuse("run", "nothing says of which profile it was", "choose one")
        return reply(run_profile(rig, run, _level(request.query_params.get("align_c"))))

    @endpoint("attachProfile", RunProfileView, AttachInput)
    def put(self, request: Request, slug: str, number: int) -> Response:
        """Say of which profile a run was; it is judged by it then."""
        given = read(request, AttachInput)
        rig = heated_rig(slug)
        run = _run_of(rig, number)
        version = version_of(rig, given.key, given.number)
        if not 0 <= given.start_s < run.length_s:
            raise refuse("start_s", "it began within the run", f"{{0…{run.length_s:.0f} s}}")
        with changing(slug, given.revision) as rig:
            run.programme = {"key": version.key, "number": version.number, "start_s": given.start_s}
            run.save(update_fields=["programme"])
            note(rig, request.user, Station.PROFILES, f"Run {run.name} was of {version.name}")
        return reply(run_profile(rig, run))


def _load_of(run: Run, series: Series) -> tuple[str, np.ndarray, np.ndarray | None]:
    """What stands for the load, at the run's own rows, and a second place where there is one."""
    found = [(role, held_at(run, role, series.time_s)) for role in ROLES]
    known = [(role, column) for role, column in found if len(column) and np.isfinite(column).sum() > 1]
    if not known:
        return "reading", series.reading_c, None
    return known[0][0], known[0][1], known[1][1] if len(known) > 1 else None


def _start_c(profile: Profile, series: Series, start_s: float, room_c: float) -> float:
    """Where its first ramp began: at the reading of that moment."""
    known = np.isfinite(series.reading_c)
    reading = float(np.interp(start_s, series.time_s[known], series.reading_c[known])) if known.any() else room_c
    return start_of(profile, reading, room_c)


def _passed(rig: Rig, run: Run, profile: Profile, start_s: float):
    series = store.read(run)
    place, load, second = _load_of(run, series)
    return (
        series,
        place,
        load,
        second,
        follow(profile, series, start_s, _start_c(profile, series, start_s, rig.ambient_c), load),
    )


def _level(text: str | None) -> float | None:
    if text is None:
        return None
    try:
        level = float(text)
    except ValueError:
        level = math.nan
    if not COLDEST_C <= level <= HOTTEST_C:
        raise refuse("align_c", "no temperature to lay them over one another at", span(COLDEST_C, HOTTEST_C, "°C"))
    return level


def run_profile(rig: Rig, run: Run, align_c: float | None = None) -> RunProfileView:
    told = run.programme
    version = version_of(rig, told["key"], told["number"])
    profile, start_s = profile_from(version.profile), float(told["start_s"])
    series, place, load, second, followed = _passed(rig, run, profile, start_s)
    known = np.flatnonzero(np.isfinite(followed.planned_c))
    rows = known[np.linspace(0, len(known) - 1, min(POINTS, len(known))).astype(int)] if len(known) else known
    begins = _start_c(profile, series, start_s, rig.ambient_c)
    conditions, _, _ = conditions_of(rig, None, begins)
    predicted = predict(profile, conditions).likely
    drawn = np.linspace(0, len(predicted.time_s) - 1, min(POINTS, len(predicted.time_s))).astype(int)
    since = int(np.searchsorted(series.time_s, start_s))
    own = Series(*(c[since:] for c in series.columns))
    scores, cannot = _judged(version, own, load[since:], None if second is None else second[since:], rig.ambient_c)
    return RunProfileView(
        run.pk,
        version.key,
        version.number,
        version.name,
        version.kind,
        start_s,
        followed.ended,
        place,
        list(followed.segments),
        _energies(followed.segments, forecasts(profile, predicted, conditions), conditions.power_w),
        profile,
        series.time_s[rows].tolist(),
        followed.planned_c[rows].tolist(),
        series.reading_c[rows].tolist(),
        load[rows].tolist(),
        (predicted.time_s[drawn] + start_s).tolist(),
        predicted.reading_c[drawn].tolist(),
        list(scores),
        overall(scores) if scores else None,
        cannot,
        _earlier(rig, run, version, profile, followed.segments),
        *_late(align_c, own, (series.time_s, followed.planned_c), (predicted.time_s + start_s, predicted.reading_c)),
    )


def _energies(
    passed: tuple[PassedSegment, ...], foreseen: tuple[SegmentForecast, ...], full_power_w: float
) -> list[SegmentEnergy]:
    """Passage by passage, as far as both are of the same segment; one that still goes on has no comparison."""
    known = [f.energy_kwh if f.segment == p.segment else None for p, f in zip(passed[:-1], foreseen, strict=False)]
    known += [None] * (len(passed) - len(known))
    return [SegmentEnergy(p.energy_kwh(full_power_w), f) for p, f in zip(passed, known, strict=True)]


def _late(
    level_c: float | None, own: Series, *curves: tuple[np.ndarray, np.ndarray]
) -> tuple[float | None, float | None]:
    """How much later the recording passed a temperature than the plan, and than the prediction."""
    passed = None if level_c is None else first_passage(own.time_s, own.reading_c, level_c)
    if level_c is None or passed is None:
        return None, None
    planned, predicted = (first_passage(t, y, level_c) for t, y in curves)
    return None if planned is None else passed - planned, None if predicted is None else passed - predicted


def _judged(
    version: ProfileVersion, series: Series, load: np.ndarray, second: np.ndarray | None, room_c: float
) -> tuple[tuple[Score, ...], str]:
    """The scores of its kind, or why there are none."""
    if not version.kind:
        return (), "It was made by hand: no kind judges it. Its soaks are judged segment by segment."
    kind = KINDS[version.kind]
    try:
        interval = float(np.median(np.diff(series.time_s)))
        seen = [seen_from(series.time_s, column, interval) for column in (load, second) if column is not None]
        return kind.judge(kind.read(version.inputs), places(seen, room_c)), ""
    except Refused as refused:
        return (), str(refused)


def _earlier(
    rig: Rig, run: Run, version: ProfileVersion, profile: Profile, now: tuple[PassedSegment, ...]
) -> list[EarlierView]:
    """Up to three earlier runs of this version."""
    others = [r for r in used_in(rig).get((version.key, version.number), []) if r.started_at < run.started_at]
    found = []
    for other in sorted(others, key=lambda r: r.started_at, reverse=True)[:3]:
        if not other.samples:
            continue
        before = _passed(rig, other, profile, float(other.programme["start_s"]))[4]
        said = slower_because(now, before.segments, profile)
        found.append(EarlierView(other.pk, other.name, other.started_at, said))
    return found
