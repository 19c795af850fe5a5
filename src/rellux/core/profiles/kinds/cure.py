"""Curing: equivalent time by Arrhenius from two schedules of the data sheet, over the temperature the load really had.

``E_a = R ln(t₁/t₂)/(1/T₁ − 1/T₂)`` and ``t_eq = ∫ exp[−(E_a/R)(1/T − 1/T_ref)] dt``. It says nothing about the degree of cure; that needs a
rate law. Below the final glass transition the reaction freezes, so that equivalent time says too much there.
"""

from dataclasses import dataclass
from enum import StrEnum
from math import inf, log

import numpy as np
import scipy

from ...errors import Problem, refuse_all
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...messages import quantity, span, temperature
from ...process.networks import Array
from ...units import ABSOLUTE_ZERO_C, Kind
from ..profile import Profile
from ..scoring import Score, Seen, Span, peak, score
from .kind import OFF, Places, ProfileKind, ramp, soak

GAS = 8.31446261815324
"""Molar gas constant, J/mol·K (CODATA 2018)."""
NODES = 3
"""Points of the Gauss–Legendre rule in every interval."""
LEAST_E, MOST_E = 20_000.0, 130_000.0
"""Activation energies of curing systems, J/mol (typical, from memory: 50…90 for epoxies); beyond, a schedule was mistyped: minutes for
hours are 100 kJ/mol."""


class Law(StrEnum):
    """A rate law: ``(1 − α)ⁿ``, or the same with ``αᵐ`` before it (autocatalytic)."""

    NONE = "none"
    NTH = "nth"
    AUTOCATALYTIC = "autocatalytic"


LAWS = {Law.NONE: "not given", Law.NTH: "nth order", Law.AUTOCATALYTIC: "autocatalytic"}
KNOWN = ("law", (Law.NTH, Law.AUTOCATALYTIC))


@dataclass(frozen=True)
class Cure:
    """Two schedules of the data sheet, and how it is to be cured here."""

    first_c: float = number("One schedule: at", Kind.TEMPERATURE, -20, 300, 30.0)
    first_s: float = number("for", Kind.TIME, 60, 30 * 86_400, 16 * 3600.0)
    second_c: float = number("Another: at", Kind.TEMPERATURE, -20, 300, 65.0)
    second_s: float = number("for", Kind.TIME, 60, 30 * 86_400, 90 * 60.0)
    hold_c: float = number("Cured here at", Kind.TEMPERATURE, -20, 300, 50.0)
    rate_c_per_min: float = number("Heated at", Kind.RATE, 0.01, 20, 1.0)
    band_c: float = number("Time counts within", Kind.DIFFERENCE, 0.2, 30, 3.0)
    highest_c: float | None = number(
        "Load never above",
        Kind.TEMPERATURE,
        -20,
        400,
        None,
        optional=True,
        hint="exotherm: thick pours heat themselves",
    )
    glass_c: float | None = number("Final glass transition", Kind.TEMPERATURE, -50, 300, None, optional=True)
    law: Law = choice("Rate law", LAWS, Law.NONE, hint="only with one is a degree of cure said")
    per_s: float = number(
        "k at the hold", Kind.COEFFICIENT, 1e-9, 10, 1e-3, hint="1/s at the hold's temperature", when=KNOWN
    )
    order: float = number("n", Kind.RATIO, 0.1, 5, 1.0, when=KNOWN)
    auto: float = number("m", Kind.RATIO, 0.05, 3, 0.5, when=("law", (Law.AUTOCATALYTIC,)))
    seed: float = number("α to begin with", Kind.RATIO, 0.0001, 0.5, 0.01, when=("law", (Law.AUTOCATALYTIC,)))
    degree: float = number("Degree wanted", Kind.RATIO, 0.1, 0.999, 0.95, when=KNOWN)


def activation(first_c: float, first_s: float, second_c: float, second_s: float) -> float:
    """E_a in J/mol from two schedules that cure alike. Raises ``Refused`` for schedules that no reaction has.

    >>> round(activation(30.0, 16 * 3600.0, 65.0, 90 * 60.0))  # worked by hand from ln(960/90)/(1/303.15 − 1/338.15)
    57644
    """
    if first_c == second_c or (first_c < second_c) != (first_s > second_s):
        raise_with = Problem(
            "second_c", "the hotter schedule must be the shorter one", "two schedules of one data sheet"
        )
        refuse_all([raise_with])
    found = GAS * log(first_s / second_s) / (1.0 / _kelvin(first_c) - 1.0 / _kelvin(second_c))
    if not LEAST_E <= found <= MOST_E:
        reason = f"{quantity(found / 1000, form='.0f')} kJ/mol follows from them: no curing system is like that"
        refuse_all([Problem("second_s", reason, "times for the same cure at both temperatures (hours or minutes?)")])
    return found


def _kelvin(celsius: float) -> float:
    return celsius - ABSOLUTE_ZERO_C


def speed(celsius: Array | float, reference_c: float, energy: float) -> Array:
    """How many times as fast as at ``reference_c`` it goes; ``energy`` in J/mol."""
    kelvin = np.asarray(celsius, dtype=np.float64) - ABSOLUTE_ZERO_C
    return np.asarray(np.exp(-energy / GAS * (1.0 / kelvin - 1.0 / _kelvin(reference_c))))


def equivalent(time_s: Array, celsius: Array, reference_c: float, energy: float) -> Array:
    """(n − 1) equivalent time of every interval, s, the temperature straight between its rows."""
    x, w = np.polynomial.legendre.leggauss(NODES)
    share = 0.5 * (x + 1.0)
    between = celsius[:-1, None] + np.diff(celsius)[:, None] * share
    return np.asarray(np.diff(time_s) * (speed(between, reference_c, energy) * w).sum(axis=1) / 2.0)


def equivalent_span(seen: Seen, reference_c: float, energy: float) -> Span:
    """Of a whole run, s. A gap counts from the coolest to the hottest that it may have been."""
    each, step = equivalent(seen.time_s, seen.celsius, reference_c, energy), np.diff(seen.time_s)
    middle = 0.5 * (seen.celsius[:-1] + seen.celsius[1:])
    reach = 0.5 * np.maximum(seen.quickest * step, np.abs(np.diff(seen.celsius)))
    known = float(each[~seen.breaks].sum())
    ends = [
        known
        + float(
            (step * speed(np.maximum(middle + sign * reach, ABSOLUTE_ZERO_C + 1), reference_c, energy))[
                seen.breaks
            ].sum()
        )
        for sign in (-1.0, 1.0)
    ]
    return Span(float(each.sum()), *ends)


def hold_time(g: Cure) -> float:
    """How long at the hold's temperature is as much as either schedule, s. Raises ``Refused`` outside the two schedules."""
    energy = activation(g.first_c, g.first_s, g.second_c, g.second_s)
    low, high = sorted((g.first_c, g.second_c))
    if not low <= g.hold_c <= high:
        reason = "beyond the two schedules nothing is known of it"
        refuse_all([Problem("hold_c", reason, span(low, high, "°C"))])
    return g.first_s / float(speed(g.hold_c, g.first_c, energy))


def _build(g: Cure) -> Profile:
    time_s = hold_time(g)
    return Profile((ramp(g.hold_c, g.rate_c_per_min), soak(time_s, g.band_c, "time counts now"), OFF))


def _figures(g: Cure) -> tuple[Figure, ...]:
    energy = activation(g.first_c, g.first_s, g.second_c, g.second_s)
    given = (
        Input("one schedule", g.first_c, Kind.TEMPERATURE, "T₁", "data sheet"),
        Input("its time", g.first_s, Kind.TIME, "t₁", "data sheet"),
        Input("another", g.second_c, Kind.TEMPERATURE, "T₂", "data sheet"),
        Input("its time", g.second_s, Kind.TIME, "t₂", "data sheet"),
    )
    time_s = hold_time(g)
    return (
        Figure(
            "time at the hold",
            time_s,
            Kind.TIME,
            formula="t₁ · exp[(E/R)(1/T − 1/T₁)],  E = R ln(t₁/t₂)/(1/T₁ − 1/T₂)",
            inputs=(*given, Input("held at", g.hold_c, Kind.TEMPERATURE, "T", "entered")),
            reason=f"{quantity(energy / 1000, form='.1f')} kJ/mol follows from the two schedules; both are rounded, and a quarter "
            "in the ratio of their times moves it by about a tenth.",
            source="Arrhenius",
        ),
    )


def _findings(g: Cure) -> tuple[Finding, ...]:
    found = []
    if g.glass_c is not None and g.hold_c < g.glass_c:
        found.append(
            Finding(
                "profiles.cure-below-glass",
                Severity.FAULT,
                title="Held below the final glass transition",
                reason=f"It freezes at {temperature(g.hold_c)} before it is cured through: {temperature(g.glass_c)} is its glass "
                "transition when cured. Equivalent time says too much there.",
                fix="A last hold above it, or take what the data sheet says of this temperature.",
            )
        )
    if g.highest_c is None:
        found.append(
            Finding(
                "profiles.cure-exotherm",
                Severity.ADVICE,
                title="Nothing says how hot the resin itself may get",
                reason="A thick pour heats itself, more the hotter it is held; it can smoke or crack.",
                fix="Enter what the data sheet allows, and put a probe into the resin.",
            )
        )
    return tuple(found)


def cured(seen: Seen, g: Cure) -> tuple[Array, float]:
    """Degree of cure at every row by the given law, and the one at the end. Integrated with the temperature straight between rows."""
    energy = activation(g.first_c, g.first_s, g.second_c, g.second_s)

    def rate(t: float, alpha: Array) -> Array:
        left = np.maximum(1.0 - alpha, 0.0)
        own = np.maximum(alpha, 0.0) ** g.auto if g.law is Law.AUTOCATALYTIC else 1.0
        k = g.per_s * speed(float(np.interp(t, seen.time_s, seen.celsius)), g.hold_c, energy)
        return np.asarray(k * own * left**g.order)

    begin = g.seed if g.law is Law.AUTOCATALYTIC else 0.0
    step = float(np.diff(seen.time_s).max())
    found = scipy.integrate.solve_ivp(
        rate,
        (seen.time_s[0], seen.time_s[-1]),
        [begin],
        t_eval=seen.time_s,
        rtol=1e-6,
        atol=1e-9,
        max_step=max(step, 1.0),
    )
    return np.asarray(found.y[0]), float(found.y[0][-1])


def _judge(g: Cure, places: Places) -> tuple[Score, ...]:
    energy = activation(g.first_c, g.first_s, g.second_c, g.second_s)
    measured = equivalent_span(places.coldest, g.hold_c, energy)
    scores = [score("time", f"equivalent time at {temperature(g.hold_c)}", "cure", Kind.TIME, measured, hold_time(g))]
    most = g.highest_c if g.highest_c is not None else None
    if most is not None:
        scores.append(score("peak", "hottest of the load", "resin", Kind.TEMPERATURE, peak(places.hottest), most=most))
    if g.law is not Law.NONE:
        gap = bool(places.coldest.breaks.any())
        degree = cured(places.coldest, g)[1]
        known = Span(degree, 0.0 if gap else degree, inf if gap else degree)
        scores.append(score("degree", "degree of cure", "cure", Kind.RATIO, known, g.degree))
    return tuple(scores)


KIND = ProfileKind(
    "cure",
    "Cure",
    Cure,
    _build,
    _judge,
    source="Arrhenius; the two schedules are those of your data sheet",
    figures=_figures,
    findings=_findings,
    caution="Resins give off vapours and can heat themselves: ventilate, keep pours thin, do not leave the first one alone. The sheet of "
    "the resin's maker goes before anything here.",
)
