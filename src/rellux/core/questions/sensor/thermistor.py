"""What does this thermistor read, and with which series resistor is it read best?"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np

from ...errors import Problem, Refused
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number, rows
from ...messages import difference, quantity, temperature
from ...sensing.thermistors import Divider, Fitted, best_series_resistor, fit
from ...units import Kind
from ..answer import Answer, Axis, Curves, Known, NumberTable, Question, Topic, curve

OFF_C, WARM_C, HOTTEST_C = 0.5, 0.5, 300.0
"""A pair off the curve and warming by its own current worth a word, °C (our choice: half a degree on a display of whole ones);
hottest rig a bead is proposed for, °C."""

NEAR_C, LEAST_SPREAD_C, BEYOND_C = 5.0, 30.0, 10.0
"""Pairs nearer than this, over less than this, or a span this far beyond them, °C: a curve held by too little (our choice)."""

SOURCE = "Steinhart & Hart, Deep-Sea Research 15, 1968"


@dataclass(frozen=True)
class MeasuredResistance:
    """A resistance measured beside a reference thermometer."""

    ohms: float = number("Resistance", Kind.RESISTANCE, 0.1, 1e8, 10_000)
    celsius: float = number("at", Kind.TEMPERATURE, -100, 400, 25)


USUAL_BEAD = (
    MeasuredResistance(32_650, 0),
    MeasuredResistance(10_000, 25),
    MeasuredResistance(2_485, 60),
    MeasuredResistance(679, 100),
)
"""The usual 10 kΩ bead as a start (typical of data sheets); the user's own pairs replace it."""


@dataclass(frozen=True)
class ThermistorInput:
    """The span to be read, and the divider in front of the converter."""

    low_c: float = number("Span from", Kind.TEMPERATURE, -100, 400, 20)
    high_c: float = number("to", Kind.TEMPERATURE, -100, 400, 90)
    series_ohm: float | None = number("Series resistor (empty: best)", Kind.RESISTANCE, 1, 1e7, None, optional=True)
    bits: str = choice("Converter", {b: f"{b} bit" for b in ("8", "10", "12", "16")}, "10")
    supply_v: float = number("Supply", Kind.VOLTAGE, 0.5, 30, 3.3)
    mw_per_k: float = number("Warms itself, mW for 1 K", Kind.COUNT, 0.05, 100, 2)
    pairs: tuple[MeasuredResistance, ...] = rows(
        "Measured beside a reference thermometer", MeasuredResistance, USUAL_BEAD, 3, 20
    )


def _thermistor(g: ThermistorInput) -> Answer:
    found = _fitted(g)
    best = best_series_resistor(found.curve, g.low_c, g.high_c)
    series = best if g.series_ohm is None else g.series_ohm
    divider, ideal = (Divider(r, int(g.bits), g.supply_v) for r in (series, best))
    span = np.linspace(g.low_c, g.high_c, 61)
    steps = divider.degrees_per_count(found.curve, span)
    coarsest = int(np.argmax(steps))
    heating = float(np.max(divider.self_heating(found.curve, span, g.mw_per_k)))
    spoken = quantity(series / 1000, "kΩ", ".3g") if series >= 1000 else quantity(series, "Ω", ".3g")
    ordered = sorted(g.pairs, key=lambda p: p.celsius)
    return Answer(
        f"With {spoken} in series one count is at most {difference(float(steps[coarsest]), '.2g')},"
        f" at {temperature(span[coarsest], '.0f')}.",
        (
            *_equation(found),
            Figure(
                "series resistor",
                series,
                Kind.RESISTANCE,
                formula="least of the coarsest count" if g.series_ohm is None else "as given",
                inputs=(Input("best for the span", best, Kind.RESISTANCE, "", "searched"),),
                reason=(
                    "The coarsest count of the span is then as fine as it can "
                    "be; a resistor of the next usual value is as good."
                ),
                source="n = N R/(R + R_s)",
            ),
            Figure(
                "warms itself by up to",
                heating,
                Kind.DIFFERENCE,
                formula="V_T²/R / δ",
                inputs=(Input("supply", g.supply_v, Kind.VOLTAGE, "V", "given"),),
                reason="The divider's own current, in still air.",
                source="dissipation constant of the data sheet",
            ),
        ),
        (*_spread(g), *_findings(found, heating, float(steps[coarsest]))),
        Curves(
            Axis("temperature", Kind.TEMPERATURE),
            Axis("one count", Kind.DIFFERENCE, low=0.0),
            (
                curve("with this resistor", span, steps),
                *(
                    (curve("with the best", span, ideal.degrees_per_count(found.curve, span), "other"),)
                    if series != best
                    else ()
                ),
            ),
        ),
        table=NumberTable(
            (
                Axis("Measured at", Kind.TEMPERATURE),
                Axis("resistance", Kind.RESISTANCE),
                Axis("the fit leaves", Kind.DIFFERENCE),
            ),
            tuple((p.celsius, p.ohms, left) for p, left in zip(ordered, found.residuals_c, strict=True)),
        ),
    )


def _fitted(g: ThermistorInput) -> Fitted:
    try:
        return fit(tuple((p.ohms, p.celsius) for p in g.pairs))
    except Refused as refused:
        raise Refused(*(Problem("pairs", p.reason, p.accepted) for p in refused.problems)) from None


def _equation(found: Fitted) -> tuple[Figure, ...]:
    why = "1/T = a + b ln R + c (ln R)³, T in kelvin: the numbers firmware needs."
    return (
        *(
            Figure(name, value, Kind.COEFFICIENT, formula="least squares in 1/T", reason=why, source=SOURCE)
            for name, value in (("a", found.curve.a), ("b", found.curve.b), ("c", found.curve.c))
        ),
        Figure("at {25 °C}", found.beta.r0, Kind.RESISTANCE, formula="R₂₅", reason="From the fit.", source=SOURCE),
        Figure(
            "B, kelvin",
            found.beta.beta,
            Kind.COUNT,
            formula="ln(R₁/R₂)/(1/T₁ − 1/T₂)",
            reason="Between the coldest and the hottest pair; good to a degree or so over {50 °C}.",
            source="beta equation",
        ),
    )


def _spread(g: ThermistorInput) -> tuple[Finding, ...]:
    """Pairs too near each other, and a span beyond them."""
    at = sorted(p.celsius for p in g.pairs)
    told = []
    closest = min(b - a for a, b in pairwise(at))
    if closest < NEAR_C or at[-1] - at[0] < LEAST_SPREAD_C:
        told.append(
            Finding(
                "thermistor.near",
                Severity.FAULT,
                title="The pairs lie too near each other"
                if at[-1] - at[0] < LEAST_SPREAD_C
                else f"Two pairs are only {difference(closest, '.2g')} apart",
                reason="A tenth of a degree in one of them bends the whole curve.",
                fix=f"Pairs at least {difference(NEAR_C)} apart, over {difference(LEAST_SPREAD_C)} or more.",
            )
        )
    beyond = max(at[0] - g.low_c, g.high_c - at[-1])
    if beyond > BEYOND_C:
        told.append(
            Finding(
                "thermistor.beyond",
                Severity.FAULT,
                title=f"The span goes {difference(beyond, '.0f')} beyond what was measured",
                reason=f"Between {temperature(at[0])} and {temperature(at[-1])} the curve is held by pairs, outside it is a guess.",
                fix="Measure a pair at the end of the span, or narrow it.",
            )
        )
    return tuple(told)


def _findings(found: Fitted, heating: float, coarsest: float) -> tuple[Finding, ...]:
    told = []
    if found.worst_c > OFF_C:
        told.append(
            Finding(
                "thermistor.pairs",
                Severity.FAULT,
                title=f"A pair is {difference(found.worst_c, '.1f')} from the curve of all",
                reason="Three coefficients follow an NTC to hundredths: one of the pairs was misread, or not yet steady.",
                fix="Measure that pair again, stirred, and wait until both stand still.",
            )
        )
    if heating > WARM_C:
        told.append(
            Finding(
                "thermistor.warm",
                Severity.ADVICE,
                title=f"It warms itself by {difference(heating, '.1f')}",
                reason="The divider's current heats the bead, less so in a liquid.",
                fix="A larger series resistor, or feed it only while reading.",
            )
        )
    if coarsest > 1.0:
        told.append(
            Finding(
                "thermistor.coarse",
                Severity.ADVICE,
                title=f"One count is {difference(coarsest, '.1f')}",
                reason="A controller sees steps and its derivative kicks at each.",
                fix="More bits, a narrower span, or average several readings.",
            )
        )
    return tuple(told)


def _of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    inside = p.highest_c <= HOTTEST_C
    return {"low_c": p.ambient_c, "high_c": p.highest_c} if inside else {}


THERMISTOR = Question(
    "thermistor",
    "What does this thermistor read?",
    Topic.SENSOR,
    ThermistorInput,
    _thermistor,
    _of_rig,
    (
        "Log its resistance beside a reference thermometer at three temperatures or more, spread over the range you need.",
        "Three pairs fit exactly and say nothing about their own errors; a fourth shows what is left over.",
        "Counts 0 and full scale mean shorted and open: let the firmware treat both as a broken sensor.",
    ),
    "An open thermistor reads cold, and the heater stays on: firmware must switch it off at either rail.",
    ("sensor",),
)
