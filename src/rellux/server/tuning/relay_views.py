"""Auto-tune before it is made, and what a recorded one says."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.explain import Figure
from rellux.core.guarding.ladder import ladder, limits
from rellux.core.guarding.plan import Plan
from rellux.core.tuning.relay.before import BeforeTest, before, clear_setpoint, forecast_figures, patience_s
from rellux.core.tuning.relay.edges import edges
from rellux.core.tuning.relay.experiment import Edge, RelayForecast, RelayKind, forecast, relay_test
from rellux.core.tuning.relay.recorded import relay_figures
from rellux.core.tuning.rules.limit import Limit, limit_of
from rellux.core.tuning.situation import Situation
from rellux.server.answers.once import remembered
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.guarding.domain import situation_of as guarded
from rellux.server.guarding.stored import plan_of
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.setup.domain import working_values

from .comparing import situation_of
from .models import Identification
from .trying import found_for


@dataclass(frozen=True)
class RelayInput:
    """``setpoint_c``: of the test; without it the working temperature, lowered by what the test goes over it."""

    kind: RelayKind
    setpoint_c: float | None = None


@dataclass(frozen=True)
class EdgeView:
    name: str
    celsius: float


@dataclass(frozen=True)
class RelayView:
    """``hard``: what must not be reached, ``clear_c`` a set-point at which it is not; ``soft``: what it would set off. ``recorded``: what
    the cycles that the process was found from would give by themselves, where they are on and off."""

    kind: str
    setpoint_c: float
    clear_c: float | None
    hysteresis_c: float
    low: float
    high: float
    figures: list[Figure]
    hard: list[EdgeView]
    soft: list[EdgeView]
    says: list[str]
    time_s: list[float]
    reading_c: list[float]
    output: list[float]
    recorded: list[Figure]


class RelayTests(APIView):
    changes_rig = False

    @endpoint("forecastRelay", RelayView, RelayInput)
    def post(self, request: Request, slug: str) -> Response:
        """What a relay test will do to this rig, simulated; nothing is sent anywhere."""
        rig, given = get_object_or_404(Rig, slug=slug), read(request, RelayInput)
        row = found_for(rig)
        situation, told, first = before_of(rig, given.kind, given.setpoint_c)
        test = told.test
        return reply(
            RelayView(
                test.kind.value,
                test.setpoint_c,
                clear_setpoint(situation, told, first),
                test.hysteresis_c,
                test.low,
                test.high,
                list(forecast_figures(told)),
                [EdgeView(e.name, e.celsius) for e in first.hard],
                [EdgeView(e.name, e.celsius) for e in first.soft],
                list(first.says),
                np.round(told.time_s, 1),  # type: ignore[arg-type]
                np.round(told.reading_c, 2),  # type: ignore[arg-type]
                np.round(told.output, 1),  # type: ignore[arg-type]
                _recorded(row, limit_here(situation)),
            )
        )


Foretold = tuple[Situation, RelayForecast, BeforeTest]


def before_of(rig: Rig, kind: RelayKind, setpoint_c: float | None) -> Foretold:
    """What a test will do to a rig, and what to see to before. Raises ``Refused`` where its process is not known, or does not swing."""
    row = found_for(rig)
    found: Foretold = _before(rig.pk, rig.created_at, rig.revision, row.pk, kind, setpoint_c)
    return found


@remembered(32, lasts=True)
def _before(
    key: int, created_at: datetime, revision: int, identified: int, kind: RelayKind, setpoint_c: float | None
) -> Foretold:
    """Asked every few seconds, and simulated once: all it hangs on raises the revision, or is another fit."""
    rig = Rig.objects.get(pk=key)
    situation = situation_of(rig, Identification.objects.get(pk=identified))
    told = forecast(situation, relay_test(situation, kind, setpoint_c, float(working_values(rig)["setpoint_low_c"])))
    plan = plan_of(rig) if rig.sensor else None
    known = _edges(rig, plan, told.test.setpoint_c)
    return (
        situation,
        told,
        before(
            told,
            known,
            patience_s(situation, told.test),
            plan is not None,
            situation.cooler is not None,
            situation.now is not None and situation.now.inner is not None,
        ),
    )


def limit_here(situation: Situation) -> Limit | None:
    """Where the fitted process begins to swing by itself."""
    return limit_of(situation.plant, situation.process.lag_s + situation.process.dead_time_s)


def _edges(rig: Rig, plan: Plan | None, setpoint_c: float) -> list[Edge]:
    steps = ladder(guarded(rig, plan)).steps if plan else limits(purpose_of(rig))
    return edges(steps, plan, setpoint_c)


def _recorded(row: Identification, model: Limit | None) -> list[Figure]:
    if row.run is None:
        return []
    return list(relay_figures(store.read(row.run).between(row.start_s, row.end_s), model))
