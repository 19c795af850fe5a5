"""The plan over a recorded run: what would have called, and which settings would have caught what happened."""

from dataclasses import dataclass

import numpy as np
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.alarms.replay import Occurrence, Recorded
from rellux.core.control.programme.marks import flags
from rellux.core.errors import refuse
from rellux.core.guarding.log_check import Chart, chart, check_run
from rellux.core.guarding.policy import Glitch, glitches
from rellux.core.runs.series import Series
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import reply
from rellux.server.runs import store
from rellux.server.runs.joined import held_at
from rellux.server.runs.models import Run

from .domain import proposed, situation_of
from .stored import plan_of
from .views import rig_with_parts

MOST_TOLD = 20


@dataclass(frozen=True)
class CheckedView:
    """One guard over the run. ``recorded``: what it watches was recorded; ``calls`` are the first of ``count``."""

    name: str
    recorded: bool
    count: int
    acting_s: float
    calls: list[Occurrence]


@dataclass(frozen=True)
class RunCheckView:
    run: int
    name: str
    length_s: float
    checked: list[CheckedView]
    glitches: list[Glitch]
    chart: Chart | None


class GuardingRun(APIView):
    @endpoint("guardingRun", RunCheckView, query={"alarm": int})
    def get(self, request: Request, slug: str, run: int) -> Response:
        """Every alarm of the plan over a run; ``alarm``: for which of them, counted from 0, a chart is made."""
        rig = rig_with_parts(slug)
        found = get_object_or_404(Run, rig=rig, pk=run, removed_at__isnull=True)
        if not found.samples:
            raise refuse("run", "this run has no samples yet", "a run with samples")
        plan = plan_of(rig) or proposed(rig).plan
        recorded = _recorded(found)
        checked = [
            CheckedView(
                c.name, c.found is not None, c.found.count, c.found.acting_s, list(c.found.occurrences[:MOST_TOLD])
            )
            if c.found
            else CheckedView(c.name, False, 0, 0.0, [])
            for c in check_run(plan, situation_of(rig, plan), recorded)
        ]
        index = request.query_params.get("alarm", "")
        chosen = plan.alarms[int(index)] if index.isdigit() and int(index) < len(plan.alarms) else None
        return reply(
            RunCheckView(
                found.pk,
                found.name,
                found.length_s,
                checked,
                glitches(plan.policy, recorded.time_s, recorded.reading_c)[:MOST_TOLD],
                chart(chosen.alarm, recorded) if chosen else None,
            )
        )


def _recorded(run: Run) -> Recorded:
    series = _read_by_somebody(store.read(run))
    nothing = np.zeros(0)

    def known(column: np.ndarray) -> np.ndarray:
        return column if np.isfinite(column).any() else nothing

    second, current = (held_at(run, role, series.time_s) for role in ("second", "current"))
    marks = run.events.values_list("time_s", "kind")
    return Recorded(
        series.time_s,
        series.reading_c,
        known(series.setpoint_c),
        known(series.output),
        second,
        current,
        *flags(series.time_s, marks),
    )


def _read_by_somebody(series: Series) -> Series:
    """Without the rows that only say what the output did between two polls: nobody looked at the reading then."""
    between = ~np.isfinite(series.reading_c) & ~np.isfinite(series.switch) & np.isfinite(series.output)
    if not between.any() or not np.isfinite(series.switch).any():
        return series
    return Series(*(column[~between] for column in series.columns))
