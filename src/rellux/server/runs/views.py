"""Runs: recording, looking at a window, judging a stretch, and notes."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Refused, refuse
from rellux.core.explain import Figure
from rellux.core.findings import Finding
from rellux.core.purpose.purpose import Effect
from rellux.core.runs.controlled import against_sheet, controlled
from rellux.core.runs.metrics import measure
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.numbers import number_from
from rellux.server.api.shapes import read, reply
from rellux.server.links.live import live_of
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values

from . import store
from .domain import RunView, run_view
from .models import Event, Run, Track

MOST_POINTS = 4000
ALL_S = 1e12
"""Later than any run lasts, s."""


@dataclass(frozen=True)
class StartInput:
    name: str = ""


@dataclass(frozen=True)
class NoteInput:
    text: str
    time_s: float | None = None


@dataclass(frozen=True)
class WindowView:
    """Buckets of a window: first time, minimum and maximum of each column, null where there is no value."""

    run: int
    start_s: float
    end_s: float
    time_s: list[float]
    reading_low: list[float | None]
    reading_high: list[float | None]
    setpoint: list[float | None]
    output_low: list[float | None]
    output_high: list[float | None]
    switch: list[float | None]


@dataclass(frozen=True)
class LineView:
    """One channel in a window: minimum and maximum of every bucket, its offset added, null where there is no value."""

    source: str
    name: str
    role: str
    kind: str
    low: list[float | None]
    high: list[float | None]


@dataclass(frozen=True)
class TrackWindowView:
    """What one device showed in a window, by the first time of every bucket."""

    track: int
    device: str
    time_s: list[float]
    lines: list[LineView]


@dataclass(frozen=True)
class MetricsView:
    """What a stretch shows. ``controlled``: what its control was, in a sentence; ``findings``: where the sheet of then says otherwise."""

    setpoint_c: float | None
    figures: list[Figure]
    missing: list[str]
    controlled: str
    findings: list[Finding]


def run_of(slug: str, number: int) -> Run:
    return get_object_or_404(Run, rig__slug=slug, pk=number, removed_at__isnull=True)


class Runs(APIView):
    @endpoint("runs", RunView, many=True)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        runs = rig.runs.filter(removed_at__isnull=True).prefetch_related("events", "tracks")[:200]
        return reply([run_view(r) for r in runs])

    @endpoint("startRun", RunView, StartInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, StartInput)
        with transaction.atomic():
            rig = get_object_or_404(Rig.objects.select_for_update(), slug=slug)
            live = live_of(rig)
            if live.status != "online":
                raise refuse("link", live.message or "there is no link to the controller", "a controller that answers")
            if live.recording:
                raise refuse("run", "a run is being recorded already", "stop it first")
            now = timezone.localtime()
            run = Run.objects.create(
                rig=rig,
                name=given.name.strip()[:80] or f"Run of {now:%d %b %H:%M}",
                source=Run.Source.LIVE,
                status=Run.Status.RECORDING,
                started_at=timezone.now(),
                sheet=current_values(rig),
            )
            note(rig, request.user, Station.RUNS, f"Recording started: {run.name}")
        return reply(run_view(run), 201)


@dataclass(frozen=True)
class RenameInput:
    name: str


class RunDetail(APIView):
    @endpoint("run", RunView)
    def get(self, request: Request, slug: str, number: int) -> Response:
        return reply(run_view(run_of(slug, number)))

    @endpoint("renameRun", RunView, RenameInput)
    def put(self, request: Request, slug: str, number: int) -> Response:
        run = run_of(slug, number)
        name = read(request, RenameInput).name.strip()
        if not 1 <= len(name) <= 80:
            raise refuse("name", "a run needs a name", "1…80 characters")
        run.name = name
        run.save(update_fields=["name"])
        return reply(run_view(run))

    @endpoint("removeRun", RunView)
    def delete(self, request: Request, slug: str, number: int) -> Response:
        """Takes the run out of sight; ``restore`` brings it back."""
        run = run_of(slug, number)
        if run.status == Run.Status.RECORDING:
            raise refuse("run", "it is being recorded", "stop it first")
        run.removed_at = timezone.now()
        run.save(update_fields=["removed_at"])
        note(run.rig, request.user, Station.RUNS, f"Run removed: {run.name}")
        return reply(run_view(run))


class RunRestore(APIView):
    @endpoint("restoreRun", RunView)
    def post(self, request: Request, slug: str, number: int) -> Response:
        run = get_object_or_404(Run, rig__slug=slug, pk=number)
        run.removed_at = None
        run.save(update_fields=["removed_at"])
        note(run.rig, request.user, Station.RUNS, f"Run restored: {run.name}")
        return reply(run_view(run))


class RunStop(APIView):
    @endpoint("stopRun", RunView)
    def post(self, request: Request, slug: str, number: int) -> Response:
        run = run_of(slug, number)
        if run.status == Run.Status.RECORDING:
            run.status = Run.Status.FINISHED
            run.save(update_fields=["status"])
            note(run.rig, request.user, Station.RUNS, f"Recording stopped: {run.name}")
        return reply(run_view(run))


class RunNotes(APIView):
    @endpoint("addRunNote", RunView, NoteInput)
    def post(self, request: Request, slug: str, number: int) -> Response:
        run = run_of(slug, number)
        given = read(request, NoteInput)
        text = given.text.strip()
        if not 1 <= len(text) <= 200:
            raise refuse("text", "a note needs some words", "1…200 characters")
        at = run.length_s if given.time_s is None else given.time_s
        Event.objects.create(run=run, time_s=at, kind="note", text=text)
        return reply(run_view(run))


class RunWindow(APIView):
    @endpoint("runWindow", WindowView, query={"from": float, "to": float, "points": int})
    def get(self, request: Request, slug: str, number: int) -> Response:
        run = run_of(slug, number)
        found = store.window(run, *_window_asked(request))
        t = found["time_s"]
        return reply(
            WindowView(
                run.pk,
                float(t[0]) if len(t) else 0.0,
                float(t[-1]) if len(t) else 0.0,
                found["time_s"],  # type: ignore[arg-type]
                np.round(found["reading_c_low"], 3),  # type: ignore[arg-type]
                np.round(found["reading_c_high"], 3),  # type: ignore[arg-type]
                np.round(found["setpoint_c_high"], 3),  # type: ignore[arg-type]
                np.round(found["output_low"], 2),  # type: ignore[arg-type]
                np.round(found["output_high"], 2),  # type: ignore[arg-type]
                found["switch_high"],  # type: ignore[arg-type]
            )
        )


class RunTracks(APIView):
    @endpoint("runTracks", TrackWindowView, many=True, query={"from": float, "to": float, "points": int})
    def get(self, request: Request, slug: str, number: int) -> Response:
        """What every other device showed in a window of the run."""
        run = run_of(slug, number)
        return reply([_track_window(track, *_window_asked(request)) for track in run.tracks.all()])


def _window_asked(request: Request) -> tuple[float, float, int]:
    """The window and the number of points in a query."""
    start, end = number_from(request, "from", None), number_from(request, "to", None)
    points = int(min(max(number_from(request, "points", 1000) or 1000, 10), MOST_POINTS))
    return -ALL_S if start is None else start, ALL_S if end is None else end, points


def _track_window(track: Track, start_s: float, end_s: float, points: int) -> TrackWindowView:
    found = store.window(track, start_s, end_s, points)

    def line(c: dict[str, Any]) -> LineView:
        low, high = (np.round(found[f"{c['source']}_{end}"] + c["offset"], 3) for end in ("low", "high"))
        return LineView(c["source"], c["name"], c["role"], c["kind"], low, high)

    return TrackWindowView(track.pk, track.device, found["time_s"], [line(c) for c in track.channels])  # type: ignore[arg-type]


class RunMetrics(APIView):
    @endpoint("runMetrics", MetricsView, query={"from": float, "to": float, "setpoint": float})
    def get(self, request: Request, slug: str, number: int) -> Response:
        run = run_of(slug, number)
        series = store.read(run, number_from(request, "from", None), number_from(request, "to", None))
        sheet = run.sheet or current_values(run.rig)
        seen = controlled(series, Effect(run.rig.effect), sheet)
        findings = list(against_sheet(seen, sheet))
        told = [f for f in (seen.hysteresis, seen.off_above, seen.period) if f is not None]
        try:
            found = measure(series, number_from(request, "setpoint", None))
        except Refused as refused:
            return reply(MetricsView(None, told, [p.reason for p in refused.problems], seen.says, findings))
        return reply(MetricsView(found.setpoint_c, [*found.figures, *told], list(found.missing), seen.says, findings))
