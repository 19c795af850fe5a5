"""Sensor calculators that need no rig: what mistakes look like, which wire is positive, what to feed an input."""

from dataclasses import dataclass, field

import numpy as np
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.explain import Figure
from rellux.core.sensing.budget import Chain, budget
from rellux.core.sensing.colours import Verdict, which_is_positive
from rellux.core.sensing.mistakes import Circumstances, Explanation, explain_pairs, mistakes, own_error
from rellux.core.sensing.sensors import describe, sensor_range, usual_class, usual_span
from rellux.core.sensing.stand_in import Lead, Table, table
from rellux.core.sensing.thermistors import Divider, best_series_resistor, fit
from rellux.core.sensing.tolerances import classes_of, permitted
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply

POINTS = 121


@dataclass(frozen=True)
class ShownPair:
    """A display in °C and the true temperature at the same moment."""

    display_c: float
    true_c: float


@dataclass(frozen=True)
class MistakesInput:
    """The sensor, the range to draw (the usual one if left out), where head and terminals are, and pairs seen, if any."""

    sensor: str
    low_c: float | None = None
    high_c: float | None = None
    head_c: float = 60.0
    terminals_c: float = 25.0
    junction_error_c: float = 10.0
    lead_ohm: float = 1.0
    pairs: list[ShownPair] = field(default_factory=list)


@dataclass(frozen=True)
class MistakeView:
    """One curve: displayed °C for every true one, null where the display shows under-range (−1) or over-range (+1)."""

    key: str
    title: str
    says: str
    test: str
    display_c: list[float | None]
    side: list[int]


@dataclass(frozen=True)
class MistakesView:
    true_c: list[float]
    mistakes: list[MistakeView]
    explanations: list[Explanation]
    own_error_c: float


@dataclass(frozen=True)
class ColoursInput:
    first: str
    second: str
    sheath: str = ""


@dataclass(frozen=True)
class FeedInput:
    sensor: str
    low_c: float
    high_c: float
    step_c: float
    terminals_c: float = 25.0
    lead: Lead = Lead.COPPER


class Mistakes(APIView):
    @endpoint("sensorMistakes", MistakesView, MistakesInput)
    def post(self, request: Request) -> Response:
        given = read(request, MistakesInput)
        low, high = sensor_range(given.sensor)
        usual = usual_span(given.sensor)
        start = usual[0] if given.low_c is None else given.low_c
        end = usual[1] if given.high_c is None else given.high_c
        if not low <= start < end <= high:
            raise refuse(
                "low_c", f"not all of that is inside a {describe(given.sensor)}", f"{low:g}…{high:g} °C, rising"
            )
        at = Circumstances(given.head_c, given.terminals_c, given.junction_error_c, given.lead_ohm)
        true = np.linspace(start, end, POINTS)
        curves = []
        for m in mistakes(given.sensor, at):
            shown = m.display(true)
            curves.append(MistakeView(m.key, m.title, m.says, m.test, shown.celsius, shown.side))  # type: ignore[arg-type]
        own = own_error(given.sensor, max((p.true_c for p in given.pairs), default=end))
        pairs = tuple((p.display_c, p.true_c) for p in given.pairs)
        ranked = list(explain_pairs(given.sensor, at, pairs, own)) if pairs else []
        return reply(MistakesView(true, curves, ranked, own))  # type: ignore[arg-type]


class Colours(APIView):
    @endpoint("whichIsPositive", Verdict, ColoursInput)
    def post(self, request: Request) -> Response:
        given = read(request, ColoursInput)
        return reply(which_is_positive(given.first, given.second, given.sheath))


class Feed(APIView):
    @endpoint("sensorFeed", Table, FeedInput)
    def post(self, request: Request) -> Response:
        g = read(request, FeedInput)
        return reply(table(g.sensor, g.low_c, g.high_c, g.step_c, g.terminals_c, g.lead))


@dataclass(frozen=True)
class BudgetInput:
    """The reading chain; leave ``tolerance_class`` empty for the usual one, ``joint_c`` for no extension cable."""

    sensor: str
    celsius: float
    tolerance_class: str = ""
    joint_c: float | None = None
    input_c: float = 0.5
    input_percent: float = 0.1
    cold_junction_c: float = 1.0
    digit_c: float = 0.1
    placement_c: float = 0.0


@dataclass(frozen=True)
class ClassView:
    """What a class permits at this temperature; null where it does not cover it."""

    name: str
    permitted_c: float | None


@dataclass(frozen=True)
class BudgetView:
    tolerance_class: str
    classes: list[ClassView]
    parts: list[Figure]
    shares: list[float]
    expanded: Figure
    worst: Figure
    advice: str


class ReadingBudget(APIView):
    @endpoint("readingBudget", BudgetView, BudgetInput)
    def post(self, request: Request) -> Response:
        g = read(request, BudgetInput)
        low, high = sensor_range(g.sensor)
        if not low <= g.celsius <= high:
            raise refuse("celsius", f"{g.celsius:g} °C is outside a {describe(g.sensor)}", f"{low:g}…{high:g} °C")
        classes = [ClassView(name, permitted(g.sensor, name, g.celsius)) for name in classes_of(g.sensor)]
        chosen = g.tolerance_class or usual_class(g.sensor)
        found = budget(
            Chain(
                g.sensor,
                chosen,
                g.celsius,
                g.joint_c,
                g.input_c,
                g.input_percent,
                g.cold_junction_c,
                g.digit_c,
                g.placement_c,
            )
        )
        return reply(
            BudgetView(
                chosen, classes, list(found.parts), list(found.shares), found.expanded, found.worst, found.advice
            )
        )


@dataclass(frozen=True)
class MeasuredPair:
    ohms: float
    celsius: float


@dataclass(frozen=True)
class ThermistorInput:
    """Pairs measured, and the divider: leave ``series_ohm`` out to take the best one for the span."""

    pairs: list[MeasuredPair]
    low_c: float
    high_c: float
    series_ohm: float | None = None
    bits: int = 10
    supply_v: float = 3.3
    mw_per_k: float = 2.0


@dataclass(frozen=True)
class ThermistorView:
    """Coefficients, what they leave at each pair (in order of temperature), and the divider over the span."""

    a: float
    b: float
    c: float
    beta: float
    r25_ohm: float
    residuals_c: list[float]
    worst_c: float
    best_series_ohm: float
    series_ohm: float
    celsius: list[float]
    ohms: list[float]
    counts: list[float]
    degrees_per_count: list[float]
    best_degrees_per_count: list[float]
    self_heating_c: list[float]


class Thermistor(APIView):
    @endpoint("characteriseThermistor", ThermistorView, ThermistorInput)
    def post(self, request: Request) -> Response:
        g = read(request, ThermistorInput)
        found = fit(tuple((p.ohms, p.celsius) for p in g.pairs))
        best = best_series_resistor(found.curve, g.low_c, g.high_c)
        series = best if g.series_ohm is None else g.series_ohm
        divider, ideal = Divider(series, g.bits, g.supply_v), Divider(best, g.bits, g.supply_v)
        span = np.linspace(g.low_c, g.high_c, 61)
        ohms = found.curve.resistance(span)
        return reply(
            ThermistorView(
                found.curve.a,
                found.curve.b,
                found.curve.c,
                found.beta.beta,
                found.beta.r0,
                list(found.residuals_c),
                found.worst_c,
                best,
                series,
                span,  # type: ignore[arg-type]
                ohms,  # type: ignore[arg-type]
                divider.counts(ohms),  # type: ignore[arg-type]
                divider.degrees_per_count(found.curve, span),  # type: ignore[arg-type]
                ideal.degrees_per_count(found.curve, span),  # type: ignore[arg-type]
                divider.self_heating(found.curve, span, g.mw_per_k),  # type: ignore[arg-type]
            )
        )
