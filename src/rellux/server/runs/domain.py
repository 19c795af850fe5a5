"""Runs as the interface sees them."""

from dataclasses import dataclass
from datetime import datetime

from .models import Run


@dataclass(frozen=True)
class EventView:
    time_s: float
    kind: str
    text: str


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
    )
