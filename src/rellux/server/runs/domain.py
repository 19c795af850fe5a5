"""Runs as the interface sees them."""

from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values

from .models import Run


@dataclass(frozen=True)
class EventView:
    time_s: float
    kind: str
    text: str


@dataclass(frozen=True)
class TrackChannelView:
    """A column of a track as it was recorded. ``kind`` is its quantity, empty for a state; ``offset`` is not yet in its values."""

    source: str
    role: str
    name: str
    kind: str
    sensor: str
    offset: float


@dataclass(frozen=True)
class TrackView:
    """What one device showed beside the control reading."""

    id: int
    device: str
    interval_s: float | None
    samples: int
    channels: list[TrackChannelView]


@dataclass(frozen=True)
class RunView:
    """A run without its samples."""

    id: int
    name: str
    source: str
    status: str
    started_at: datetime
    samples: int
    length_s: float
    peak_c: float | None
    events: list[EventView]
    tracks: list[TrackView]


def open_run(rig: Rig, name: str) -> tuple[Run, bool]:
    """The run that is being recorded, or a new one of that name; whether it is new."""
    run = rig.runs.filter(status=Run.Status.RECORDING, removed_at__isnull=True).first()
    if run is not None:
        return run, False
    made = Run.objects.create(
        rig=rig, name=name[:80], source=Run.Source.LIVE, status=Run.Status.RECORDING, started_at=timezone.now(),
        sheet=current_values(rig),
    )  # fmt: skip
    return made, True


def run_view(run: Run) -> RunView:
    return RunView(
        run.pk,
        run.name,
        run.source,
        run.status,
        run.started_at,
        run.samples,
        run.length_s,
        run.peak_c,
        [EventView(e.time_s, e.kind, e.text) for e in run.events.all()],
        [
            TrackView(t.pk, t.device, t.interval_s, t.samples, [TrackChannelView(**c) for c in t.channels])
            for t in run.tracks.all()
        ],
    )
