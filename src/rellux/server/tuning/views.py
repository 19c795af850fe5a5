"""The tuning station: the process from a stretch of a run, candidates side by side, and accepting one."""

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from django.shortcuts import get_object_or_404
from django.utils import timezone
from numpy.typing import NDArray
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.settings import CoolingBand
from rellux.core.errors import Refused, refuse
from rellux.core.explain import Figure
from rellux.core.messages import spoken_time
from rellux.core.runs.channels import COOLER
from rellux.core.runs.cooler_on import may_have_cooled, uncooled_until_s
from rellux.core.setup.parameters import settings_from
from rellux.core.spine import Station
from rellux.core.tuning.broken import unbroken
from rellux.core.tuning.candidates import ProposedTuning, try_out
from rellux.core.tuning.choosing import front
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.furnace.answers import Climb
from rellux.core.tuning.furnace.told import KnownFurnace
from rellux.core.tuning.hand import BY_HAND, HandNumbers, as_entered, check_stable, proposal_of
from rellux.core.tuning.identify import Fitted, Identified
from rellux.core.tuning.over_temperature import OverTemperature
from rellux.core.tuning.sampling import seldom
from rellux.core.tuning.situation import Situation, check_reaches
from rellux.core.tuning.stretch import Stretch, drive_of
from rellux.core.tuning.trials import NAMES, Trial, happens
from rellux.core.zones.chamber import MOST_SHARE
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.rigs.change import changing, difference, note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from rellux.server.setup.domain import current_values, save_sheet, working_values
from rellux.server.setup.models import Sheet
from rellux.server.zones.domain import tell_neighbours
from rellux.server.zones.places import purpose_at_work

from .comparing import CandidateView, candidate_view, comparison, situation_of
from .domain import by_temperature, fitted_of, furnace_of, learn
from .models import Identification
from .trying import found_for

SHOWN_POINTS, LINES = 400, ("time_s", "measured_c", "modelled_c", "low_c", "high_c")
NOTHING = "this rig does not heat: there is nothing to tune"
MOST_STRETCHES = 6


@dataclass(frozen=True)
class LeftOut:
    """A part of a run, s from its start."""

    start_s: float
    end_s: float


@dataclass(frozen=True)
class StretchInput:
    """A stretch of a run; ``leave_out``: parts of it in which something else moved the reading."""

    run: int
    start_s: float | None = None
    end_s: float | None = None
    leave_out: list[LeftOut] = field(default_factory=list)


@dataclass(frozen=True)
class IdentifyInput(StretchInput):
    """``more``: other stretches of the same process, of this run or others, that it is learnt from as well."""

    more: list[StretchInput] = field(default_factory=list)


@dataclass(frozen=True)
class FittedView:
    """One stretch, measured against modelled; ``low_c``/``high_c``: the models within the interval."""

    run_name: str
    time_s: list[float]
    measured_c: list[float]
    modelled_c: list[float]
    low_c: list[float]
    high_c: list[float]
    begun: list[Figure] = field(default_factory=list)


@dataclass(frozen=True)
class FurnaceView:
    """What a furnace does at full power, up to the hottest it was recorded at; ``at_c``: where its figures are told."""

    climbs: list[Climb]
    up_to_c: float
    at_c: float


@dataclass(frozen=True)
class IdentifiedView:
    """A fit with its interval figures, and the stretches it was found from."""

    id: int
    run: int | None
    run_name: str
    start_s: float
    end_s: float
    figures: list[Figure]
    residual_c: float
    points: int
    verdict: str
    verdict_reason: str
    fitted: list[FittedView]
    accepted: str
    furnace: FurnaceView | None


@dataclass(frozen=True)
class TrialWords:
    """What candidates can be put through; ``says`` with its sizes on this rig."""

    trial: Trial
    name: str
    says: str


@dataclass(frozen=True)
class TuningView:
    """``front``: keys of the candidates that nothing beats in overshoot without being later. ``problem`` says why there is
    nothing to compare yet, or what no tuning makes up for, in a sentence. ``over_temperature``: where fits at several are supported."""

    revision: int
    identified: IdentifiedView | None
    setpoint_c: float
    window_low_c: float
    window_high_c: float
    candidates: list[CandidateView]
    trials: list[TrialWords]
    front: list[str]
    preferred: dict[str, str]
    reasons: dict[str, str]
    problem: str
    over_temperature: OverTemperature | None


@dataclass(frozen=True)
class AcceptTuningInput:
    """``by_hand``: the numbers, where they are the user's own and ``candidate`` is ``by_hand``."""

    revision: int
    candidate: str
    by_hand: HandNumbers | None = None


def stretch_of(
    run: Run, start_s: float | None, end_s: float | None, ambient_c: float, leave_out: list[LeftOut] | None = None
) -> Stretch:
    """The stretch, and what the output did before it. What it did before the run nobody knows. It ends where a cooler beside the heater
    comes on, as was recorded or else by its thresholds: no log shows what that takes."""
    series = store.read(run)
    output = drive_of(series)
    start = series.time_s[0] if start_s is None else start_s
    ends_by, band = "", _cooling_in(run)
    only_heat = uncooled_until_s(series, may_have_cooled(series, band, _looks(run)), start) if band else None
    if only_heat is not None and (end_s is None or only_heat < end_s):
        end_s, ends_by = (
            only_heat,
            f"Its cooler may have come on after {spoken_time(only_heat)}: what follows is left out.",
        )
    end = series.time_s[-1] if end_s is None else end_s
    chosen = (series.time_s >= start) & (series.time_s <= end)
    earlier = series.time_s < start
    setpoint = series.setpoint_c[chosen]
    reading = series.reading_c.copy()
    for i, part in enumerate(leave_out or []):
        if not part.start_s < part.end_s:
            raise refuse(f"leave_out[{i}].end_s", "it ends before it begins", "after its beginning")
        reading[(series.time_s >= part.start_s) & (series.time_s <= part.end_s)] = np.nan
    return Stretch(
        series.time_s[chosen],
        reading[chosen],
        output[chosen],
        ambient_c,
        None,
        setpoint if np.isfinite(setpoint).all() else None,
        series.time_s[earlier],
        output[earlier],
        ends_by,
    )


def _looks(run: Run) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """When somebody looked whether its cooler was on, s, and whether it was; ``None`` where that was not recorded."""
    for track in run.tracks.all():
        for i, channel in enumerate(track.channels):
            if channel["role"] == COOLER and track.samples:
                points = store.read(track)
                return points.time_s, points.values[i]
    return None


def _cooling_in(run: Run) -> CoolingBand | None:
    """When the cooler beside its heater was on, by the sheet of a run; ``None`` where that knew of none."""
    if run.sheet and "cool_above_c" not in run.sheet:
        return None
    return settings_from({**working_values(run.rig), **run.sheet}, purpose_of(run.rig)).cooling


def result_of(found: Identified, names: list[str], furnace: KnownFurnace | None = None) -> dict[str, Any]:
    """What is kept of a fit: its figures, and measured against modelled, thinned for drawing; ``names`` of the runs, stretch by stretch."""
    return as_json(
        {
            "figures": [found.gain, found.lag, found.dead_time, found.slope, *found.extra],
            "slow_gain": found.slow_gain,
            "row_s": found.row_s,
            "residual_c": found.residual_c,
            "points": found.points,
            "verdict_reason": found.verdict_reason,
            "fitted": [_drawn(fitted, name) for fitted, name in zip(found.fitted, names, strict=True)],
            "furnace": furnace,
        }
    )


def _drawn(fitted: Fitted, name: str) -> dict[str, Any]:
    every = max(1, len(fitted.time_s) // SHOWN_POINTS)
    lines = {name: np.round(getattr(fitted, name)[::every], 3) for name in LINES}
    return {"run_name": name, "begun": fitted.begun, **lines}


def identified_view(row: Identification) -> IdentifiedView:
    result = row.result
    return IdentifiedView(
        row.pk,
        row.run_id,
        row.run.name if row.run else "a run that was removed",
        row.start_s,
        row.end_s,
        result["figures"],
        result["residual_c"],
        result["points"],
        row.verdict,
        result["verdict_reason"],
        [
            FittedView(part["run_name"], *(part[name] for name in LINES), begun=part.get("begun", []))
            for part in fitted_of(row)
        ],
        row.accepted,
        _furnace_view(furnace_of(row)),
    )


def _furnace_view(known: KnownFurnace | None) -> FurnaceView | None:
    return FurnaceView(list(known.climbs), known.up_to_c, known.at_c) if known else None


def tuning_view(rig: Rig) -> TuningView:
    low = rig.lowest_c if rig.lowest_c is not None else rig.ambient_c
    row = rig.identifications.select_related("run").first()
    if not purpose_of(rig).heats:
        return TuningView(rig.revision, None, rig.working_c, low, rig.highest_c, [], [], [], {}, {}, NOTHING, None)
    if row is None:
        return TuningView(rig.revision, None, rig.working_c, low, rig.highest_c, [], [], [], {}, {}, "", None)
    over, identified = by_temperature(rig.identifications.all()), identified_view(row)
    try:
        found = comparison(rig, found_for(rig))
    except Refused as refused:  # of a process that is not known well enough the verdict has said what is wrong
        reason = refused.problems[0].reason if FitVerdict(row.verdict).usable else ""
        return TuningView(rig.revision, identified, rig.working_c, low, rig.highest_c, [], [], [], {}, {}, reason, over)
    return TuningView(
        rig.revision,
        identified,
        rig.working_c,
        low,
        rig.highest_c,
        [candidate_view(found.situation, c) for c in found.candidates],
        [TrialWords(t, NAMES[t], happens(found.situation.stage, t)) for t in found.situation.stage.trials],
        list(front(found.candidates)),
        {p.value: c.key for p, c in found.preferred.items()},
        {p.value: c.reason for p, c in found.preferred.items()},
        " ".join(filter(None, (found.short, _sampling(row, found.situation)))),
        over,
    )


def _sampling(row: Identification, situation: Situation) -> str:
    """What the rows of the run it was learnt from say of how often is looked."""
    if row.run is None or row.run.samples < 2:
        return ""
    known = situation.known
    return seldom(row.run.length_s / (row.run.samples - 1), known.one.dead_time_s, known.calm_s)


class Tuning(APIView):
    @endpoint("tuning", TuningView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(tuning_view(get_object_or_404(Rig, slug=slug)))


class IdentifyRun(APIView):
    @endpoint("identify", TuningView, IdentifyInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        given = read(request, IdentifyInput)
        if not rig.sensor:
            raise refuse("parts", "choose the parts first", "sensor, output and switch")
        if not purpose_of(rig).heats:
            raise refuse("run", NOTHING, "a rig that heats")
        if len(given.more) >= MOST_STRETCHES:
            raise refuse("more", "too many stretches to learn from at once", f"up to {MOST_STRETCHES} in all")
        chosen = [_chosen(rig, given, ""), *(_chosen(rig, s, f"more[{i}].") for i, s in enumerate(given.more))]
        _check_apart(chosen)
        run = chosen[0][0]
        parts = [(r, part) for r, stretch in chosen for part in unbroken(stretch)]
        found, furnace = learn(rig, [part for _, part in parts])
        result = result_of(found, [r.name for r, _ in parts], furnace)
        beside = purpose_at_work(rig).neighbours
        result["among"] = min(beside.share, MOST_SHARE) if beside else 0.0
        result["verdict_reason"] = " ".join(filter(None, (found.verdict_reason, *(s.ends_by for _, s in parts))))
        row = Identification.objects.create(
            rig=rig,
            run=run,
            at=timezone.now(),
            start_s=float(chosen[0][1].time_s[0]),
            end_s=float(chosen[0][1].time_s[-1]),
            gain=found.process.gain,
            lag_s=found.process.lag_s,
            dead_time_s=found.process.dead_time_s,
            verdict=found.verdict.value,
            result=result,
        )
        tell_neighbours(rig)
        note(
            rig,
            request.user,
            Station.TUNING,
            f"Process found from {' and '.join(dict.fromkeys(r.name for r, _ in chosen))}",
            after={"gain": row.gain, "lag_s": row.lag_s, "dead_time_s": row.dead_time_s, "verdict": row.verdict},
        )
        return reply(tuning_view(rig), 201)


def _check_apart(chosen: list[tuple[Run, Stretch]]) -> None:
    """Raise ``Refused`` for a part of a run that is there twice: it would count for more than it tells."""
    for i, (run, stretch) in enumerate(chosen):
        for other, before in chosen[:i]:
            if run == other and stretch.time_s[0] < before.time_s[-1] and before.time_s[0] < stretch.time_s[-1]:
                raise refuse(f"more[{i - 1}].run", "this part of the run is learnt from already", "another run or part")


def _chosen(rig: Rig, given: StretchInput, at: str) -> tuple[Run, Stretch]:
    """A run and its stretch; ``at``: where it stands in what was sent, for refusals."""
    run = get_object_or_404(Run, rig=rig, pk=given.run, removed_at__isnull=True)
    if run.samples == 0:
        raise refuse(f"{at}run", "this run has no samples yet", "a run with samples")
    try:
        return run, stretch_of(run, given.start_s, given.end_s, rig.ambient_c, given.leave_out)
    except Refused as refused:
        raise Refused(*(replace(p, field=at + p.field) for p in refused.problems)) from refused


class AcceptTuning(APIView):
    @endpoint("acceptTuning", TuningView, AcceptTuningInput)
    def post(self, request: Request, slug: str) -> Response:
        """Writes the candidate into the parameter sheet, as left."""
        given = read(request, AcceptTuningInput)
        with changing(slug, given.revision) as rig:
            row = found_for(rig)
            proposal = _proposal(rig, row, given)
            before = current_values(rig)
            values = {**working_values(rig), **as_entered(proposal.settings, bool(rig.heater_sensor))}
            save_sheet(rig, values, Sheet.Kind.AS_LEFT, f"tuning accepted: {proposal.name}", request.user)
            row.accepted, row.accepted_at = proposal.key, timezone.now()
            row.save(update_fields=["accepted", "accepted_at"])
            was, now = difference(before, values)
            title = f"Tuning accepted: {proposal.name}"
            note(rig, request.user, Station.TUNING, title, before=was, after=now, why=proposal.aim)
        return reply(tuning_view(rig))


def _proposal(rig: Rig, row: Identification, given: AcceptTuningInput) -> ProposedTuning:
    if given.candidate == BY_HAND:
        if given.by_hand is None:
            raise refuse("by_hand", "its numbers are missing", "band, integral and derivative time, or a hysteresis")
        situation = situation_of(rig, row)
        check_reaches(situation)
        candidate = try_out(situation, proposal_of(situation, given.by_hand))
    else:
        found = comparison(rig, row)
        known = found.candidate(given.candidate)
        if known is None:
            keys = ", ".join(c.key for c in found.candidates)
            raise refuse("candidate", f"{given.candidate!r} is not a candidate", f"{keys}, {BY_HAND}")
        candidate = known
    check_stable(candidate)
    return candidate.proposal
