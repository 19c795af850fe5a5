"""Annealing glass: soak by thickness, then so slowly from the annealing to below the strain point that what stress is left can be borne.

A slab cooled from both faces at R has, at half thickness a, a surface stress of ``E α R a²/[3 κ (1 − ν)]``, half of it in the middle
with the opposite sign. Made between annealing and strain point it stays for ever; below it only passes, but may break the piece. Hence
``R_max = 3 κ (1 − ν) σ/(E α a²)``.
"""

from dataclasses import dataclass

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import difference, temperature
from ...units import Kind
from ..profile import Profile
from ..scoring import Score, Span, score, span_above, steepest
from .kind import OFF, Places, ProfileKind, per_minute, ramp, soak

FASTER_BELOW, TO_C = 2.0, 60.0
"""Below the strain point twice as fast, until it may be taken out (common practice, no source)."""
BELOW_STRAIN_C = 20.0
SOAK_S_PER_MM2 = 36.0
"""Soak at the annealing point by half thickness squared: 1 h at 10 mm (common practice, no source)."""
LEAST_SOAK_S = 1200.0
HELD_C, WINDOW_S, TOLERATED = 5.0, 300.0, 1.1
GPA, MPA = 1e9, 1e6


@dataclass(frozen=True)
class Glass:
    """The piece and its glass; values as for borosilicate, from memory."""

    half_mm: float = number("Half its thickness", Kind.MILLIMETRES, 0.5, 200, 12.5)
    annealing_c: float = number("Annealing point", Kind.TEMPERATURE, 350, 1200, 560.0)
    strain_c: float = number("Strain point", Kind.TEMPERATURE, 300, 1100, 515.0)
    stress_mpa: float = number("Stress that may stay", Kind.RATIO, 0.02, 20, 0.5, hint="MPa")
    modulus_gpa: float = number("Young's modulus", Kind.RATIO, 20, 150, 64.0, hint="GPa")
    poisson: float = number("Poisson's ratio", Kind.RATIO, 0.05, 0.45, 0.2)
    expansion: float = number("Expansion", Kind.RATIO, 0.02, 30, 3.3, hint="millionths for each degree Celsius")
    diffusivity: float = number("Thermal diffusivity", Kind.RATIO, 0.1, 5, 0.62, hint="mm²/s")
    heat_c_per_min: float | None = number(
        "Heated at", Kind.RATE, 0.01, 50, None, optional=True, hint="else three times the slow rate"
    )


def slowest_rate(g: Glass, stress_mpa: float | None = None) -> float:
    """R_max in °C/min for the stress that may stay (or another).

    >>> from dataclasses import replace
    >>> blank = replace(Glass(), stress_mpa=1.0)
    >>> [round(60 * slowest_rate(replace(blank, half_mm=a))) for a in (10.0, 25.0)]  # °C/h, worked by hand
    [254, 41]
    """
    stress = (g.stress_mpa if stress_mpa is None else stress_mpa) * MPA
    a = g.half_mm / 1000.0
    per_s = 3.0 * g.diffusivity * 1e-6 * (1.0 - g.poisson) * stress / (g.modulus_gpa * GPA * g.expansion * 1e-6 * a * a)
    return per_s * 60.0


def soak_time(g: Glass) -> float:
    """At the annealing point, s."""
    return max(SOAK_S_PER_MM2 * g.half_mm**2, LEAST_SOAK_S)


def _build(g: Glass) -> Profile:
    slow = _neat(slowest_rate(g))
    return Profile(
        (
            ramp(g.annealing_c, g.heat_c_per_min or _neat(3.0 * slow)),
            soak(soak_time(g), HELD_C, "all through at the annealing point"),
            ramp(g.strain_c - BELOW_STRAIN_C, slow, "the stress that stays is made now"),
            ramp(TO_C, _neat(FASTER_BELOW * slow), "keep it shut"),
            OFF,
        )
    )


def _neat(rate: float) -> float:
    """Three figures, never faster."""
    digits = f"{rate:.3g}"
    found = float(digits)
    return found if found <= rate else float(f"{rate * 0.995:.3g}")


def _judge(g: Glass, places: Places) -> tuple[Score, ...]:
    low, high = g.strain_c, g.annealing_c
    slope = steepest(places.hottest, low, high, True, WINDOW_S)
    per_min = per_minute(slope)
    allowed = slowest_rate(g)
    return (
        score("soak", "at the annealing point", "glass", Kind.TIME, span_above(places.coldest, high - HELD_C), soak_time(g)),
        score(
            "slow", "steepest from annealing to strain point", "glass", Kind.RATE, per_min, most=allowed * TOLERATED,
            none="it did not cool through it in the run",
        ),
        score(
            "stress", "stress that stays, MPa", "glass", Kind.RATIO,
            None if per_min is None else Span(*(v / allowed * g.stress_mpa for v in (per_min.value, per_min.low, per_min.high))),
            most=g.stress_mpa * TOLERATED, none="it did not cool through it in the run",
        ),
    )  # fmt: skip


def _figures(g: Glass) -> tuple[Figure, ...]:
    return (
        Figure(
            "slowest rate needed",
            slowest_rate(g),
            Kind.RATE,
            formula="3 κ (1 − ν) σ / (E α a²)",
            inputs=(
                Input("diffusivity, mm²/s", g.diffusivity, Kind.RATIO, "κ", "entered"),
                Input("Poisson's ratio", g.poisson, Kind.RATIO, "ν", "entered"),
                Input("stress that may stay, MPa", g.stress_mpa, Kind.RATIO, "σ", "entered"),
                Input("Young's modulus, GPa", g.modulus_gpa, Kind.RATIO, "E", "entered"),
                Input("expansion, 10⁻⁶/K", g.expansion, Kind.RATIO, "α", "entered"),
                Input("half thickness", g.half_mm, Kind.MILLIMETRES, "a", "entered"),
            ),
            reason="Twice as thick must cool four times as slowly.",
            source="thermal stress of a slab in a steady ramp; values of borosilicate from memory",
        ),
        Figure(
            "soak",
            soak_time(g),
            Kind.TIME,
            reason="One hour at 10 mm half thickness, by its square.",
            source="common practice, no source",
        ),
    )


def _findings(g: Glass) -> tuple[Finding, ...]:
    if g.strain_c < g.annealing_c:
        return ()
    return (
        Finding(
            "profiles.glass-points",
            Severity.FAULT,
            title="The strain point lies above the annealing point",
            reason=f"Strain {temperature(g.strain_c)}, annealing {temperature(g.annealing_c)}: it is usually "
            f"{difference(45)} or so lower.",
            fix="Look both up in the sheet of the glass.",
        ),
    )


KIND = ProfileKind(
    "glass",
    "Glass annealing",
    Glass,
    _build,
    _judge,
    source="slab in a steady ramp; borosilicate's values from memory, soak by common practice",
    figures=_figures,
    findings=_findings,
    caution="A door opened early breaks the piece, and hot glass looks like cold glass. Wear eye protection when it is taken out.",
)
