"""What each change brought: runs, the book's changes, and what somebody says was changed besides."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

import numpy as np
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Refused, refuse
from rellux.core.explain import Figure
from rellux.core.runs.metrics import measure
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import spoken_value
from rellux.core.spine import Station
from rellux.core.tuning.ledger import Changed, LedgerLine, RanAs, ledger
from rellux.server.answers.once import remembered
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run

MOST_RUNS = 60
SAID = "changed"
"""Under this name the book keeps what somebody says was changed."""
LONGEST = 120


@dataclass(frozen=True)
class LedgerChange:
    at: datetime
    title: str
    why: str
    values: list[str]


@dataclass(frozen=True)
class LedgerCredit:
    """``is_told``: it differs by more than runs differ anyway."""

    figure: Figure
    is_told: bool
    is_better: bool


@dataclass(frozen=True)
class LedgerLineView:
    """``before``, ``after``: names of the runs that are held against each other."""

    changes: list[LedgerChange]
    before: list[str]
    after: list[str]
    credits: list[LedgerCredit]
    is_attributable: bool
    says: str


@dataclass(frozen=True)
class LedgerView:
    revision: int
    lines: list[LedgerLineView]


@dataclass(frozen=True)
class SayChangeInput:
    """Something that was changed on the rig and stands on no sheet: insulation, a filter, a probe moved."""

    revision: int
    what: str
    why: str = ""


class Ledger(APIView):
    @endpoint("tuningLedger", LedgerView)
    def get(self, request: Request, slug: str) -> Response:
        """Every change with runs on either side of it, the newest first."""
        return reply(_view(get_object_or_404(Rig, slug=slug)))

    @endpoint("sayChange", LedgerView, SayChangeInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """Keeps in the book what was changed just now."""
        given = read(request, SayChangeInput)
        what = given.what.strip()
        if not 1 <= len(what) <= LONGEST:
            raise refuse("what", "say what was changed", f"1…{LONGEST} characters")
        with changing(slug, given.revision) as rig:
            note(rig, request.user, Station.TUNING, f"Changed: {what}", after={SAID: what}, why=given.why.strip())
        return reply(_view(rig), 201)


def _view(rig: Rig) -> LedgerView:
    runs = rig.runs.filter(removed_at__isnull=True, samples__gt=0).exclude(status=Run.Status.RECORDING)
    judged = [r for r in (_ran(run) for run in runs[:MOST_RUNS]) if r]
    return LedgerView(rig.revision, [_line(line) for line in ledger(judged, _changes(rig))])


def _ran(run: Run) -> RanAs | None:
    return _judged(run.pk, run.samples, run.name, run.started_at)


@remembered(256)
def _judged(pk: int, samples: int, name: str, started_at: datetime) -> RanAs | None:
    """``samples`` is there for the cache: a run that grew is another."""
    series = store.read(Run.objects.get(pk=pk))
    try:
        found = measure(series)
    except Refused:
        return None
    reading = series.reading_c[np.isfinite(series.reading_c)]
    figures = (found.overshoot, found.settling_time, found.ripple, found.switch_rate)
    values = (f.value if f and f.low is None else None for f in figures)  # with an end: rows are missing
    return RanAs(pk, name, started_at.timestamp(), found.setpoint_c, float(reading[0]), *values)


def _changes(rig: Rig) -> list[Changed]:
    """What the book knows of changes that move a temperature: numbers of the sheet, parts, and what somebody said."""
    stations = [Station.SETUP.value, Station.TUNING.value, Station.PARTS.value]
    found = []
    for entry in rig.entries.filter(station__in=stations).order_by("at"):
        if SAID in entry.after:
            found.append(Changed(entry.at.timestamp(), str(entry.after[SAID]), entry.why))
        elif values := _values(entry):
            found.append(Changed(entry.at.timestamp(), entry.title, entry.why, values))
    return found


def _values(entry: Entry) -> tuple[tuple[str, str, str], ...]:
    names = {*entry.before, *entry.after}
    if entry.station != Station.PARTS.value:
        names &= set(BY_NAME)
    changed = (n for n in sorted(names) if entry.before.get(n) != entry.after.get(n))
    return tuple((n, _spoken(n, entry.before), _spoken(n, entry.after)) for n in changed)


def _spoken(name: str, values: dict[str, Any]) -> str:
    """A value as a sentence has it; what was not there, or is no value of it, as it stands."""
    value = values.get(name)
    if value is None:
        return "–"
    try:
        return spoken_value(name, value).removeprefix(f"{BY_NAME[name].title.lower()} " if name in BY_NAME else "")
    except (TypeError, ValueError):
        return str(value)


def _line(line: LedgerLine) -> LedgerLineView:
    return LedgerLineView(
        [
            LedgerChange(datetime.fromtimestamp(c.at, UTC), c.title, c.why, [_said(*v) for v in c.values])
            for c in line.changes
        ],
        [r.name for r in line.before],
        [r.name for r in line.after],
        [LedgerCredit(c.figure, c.is_told, c.is_better) for c in line.credits],
        line.is_attributable,
        line.says,
    )


def _said(name: str, was: str, now: str) -> str:
    return f"{BY_NAME[name].title if name in BY_NAME else name.replace('_', ' ')}: {was} → {now}"
