"""Does the control's rhythm mark the product?"""

from dataclasses import dataclass
from math import sin, tau

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import quantity
from ...units import Kind
from ..answer import Answer, Axis, Curves, Mark, Question, Topic, curve

NEAR = 0.08
"""Two distances nearer than that share of the larger cannot be told apart on a product (our choice)."""
CYCLES, POINTS, MOST_MARKS = 4, 160, 12
MOST_TIMES = 4
"""Of a pitch: how many of it, or how many parts of it, are looked at."""


@dataclass(frozen=True)
class MarksInput:
    """A product that runs by, the heat's rhythm, what turns in the machine, and what was measured on the product."""

    speed_mm_s: float = number("The product runs at, mm/s", Kind.COUNT, 0.001, 100_000, 25)
    period_s: float = number("One cycle of the heat takes", Kind.TIME, 0.02, 100_000, 20)
    pitch_mm: float = number(
        "Pitch or circumference of what turns", Kind.MILLIMETRES, 0, 100_000, 480, hint="screw, roller; 0 for none"
    )
    marks_mm: float = number("Marks are apart by", Kind.MILLIMETRES, 0, 1_000_000, 0, hint="0: not measured")
    other_speed_mm_s: float = number("At another speed, mm/s", Kind.COUNT, 0, 100_000, 0, hint="0: not tried")
    other_marks_mm: float = number("they are apart by", Kind.MILLIMETRES, 0, 1_000_000, 0)
    swing_c: float = number("The temperature swings by", Kind.DIFFERENCE, 0, 500, 1)
    expansion: float = number(
        "Expansion, 10⁻⁶ per °C", Kind.COUNT, 0, 500, 12, hint="steel 12, aluminium 23, glass 9, PE 150"
    )
    length_mm: float = number("of a length of", Kind.MILLIMETRES, 0, 100_000, 300)


def _near(a: float, b: float) -> bool:
    return abs(a - b) <= NEAR * max(a, b)


def _marks(g: MarksInput) -> Answer:
    spacing = g.speed_mm_s * g.period_s
    moves = g.swing_c * g.expansion * 1e-6 * g.length_mm
    figures = [
        Figure(
            "marks by the heat's rhythm",
            spacing,
            Kind.MILLIMETRES,
            formula="speed × period",
            inputs=(Input("period", g.period_s, Kind.TIME, "T", "given"),),
            reason="So far the product runs while the heat goes once up and down.",
            source="by definition",
        ),
        Figure(
            "movement by expansion",
            moves,
            Kind.MILLIMETRES,
            formula="ΔT α l",
            inputs=(
                Input("swing", g.swing_c, Kind.DIFFERENCE, "ΔT", "given"),
                Input("length", g.length_mm, Kind.MILLIMETRES, "l", "given"),
            ),
            reason="Peak to peak, where the whole length follows the swing.",
            source="definition of the coefficient of expansion",
        ),
    ]
    return Answer(_headline(g, spacing), tuple(figures), tuple(_findings(g, spacing)), _picture(g, spacing))


def _picture(g: MarksInput, spacing: float) -> Curves:
    """The temperature at which each place of the product went by, with what was measured and what turns as points."""
    x = [spacing * CYCLES * i / POINTS for i in range(POINTS + 1)]
    heat = curve("heat", x, (0.5 * g.swing_c * (1.0 + sin(tau * v / spacing)) for v in x))
    places = ((g.pitch_mm, "turn", 0.25), (g.marks_mm, "mark", 0.75))
    marks = tuple(
        Mark(label if i == 1 else "", i * apart, height * g.swing_c)
        for apart, label, height in places
        if apart > 0
        for i in range(1, int(min(x[-1] / apart, MOST_MARKS)) + 1)
    )
    return Curves(
        Axis("along the product", Kind.MILLIMETRES), Axis("above the coldest", Kind.DIFFERENCE), (heat,), marks
    )


def _headline(g: MarksInput, spacing: float) -> str:
    said = f"The heat's rhythm would mark it every {quantity(spacing, 'mm', '.3g')}"
    if not g.marks_mm:
        return f"{said}: measure how far apart the marks are, at two speeds."
    cause = _cause(g)
    if cause == "heat":
        return (
            f"{said}: the marks go with the speed, so they are made in time, as the heat's are."
            if _near(g.marks_mm, spacing)
            else ("The marks go with the speed, so they are made in time, but not by this rhythm of the heat.")
        )
    if cause == "turns":
        return "The marks stay where the speed changes: something that turns makes them, not the heat."
    if cause == "neither":
        return (
            "The marks change, but not with the speed: neither the heat's rhythm alone nor one turning part makes them."
        )
    if _near(g.marks_mm, spacing):
        return f"{said}, and so far apart they are: change the speed to be sure."
    return (
        f"{said}, and they are {quantity(g.marks_mm, 'mm', '.3g')} apart: hardly the heat. Change the speed to be sure."
    )


def _cause(g: MarksInput) -> str:
    """By the test of the changed speed: ``heat`` where the spacing goes with it, ``turns`` where it stays, ``neither``; empty: not tried,
    or not by enough."""
    if not (g.marks_mm and g.other_speed_mm_s and g.other_marks_mm):
        return ""
    faster, wider = g.other_speed_mm_s / g.speed_mm_s, g.other_marks_mm / g.marks_mm
    if _near(faster, 1.0):
        return ""
    if _near(wider, faster):
        return "heat"
    return "turns" if _near(wider, 1.0) else "neither"


def _findings(g: MarksInput, spacing: float) -> list[Finding]:
    findings = []
    if g.pitch_mm and any(
        _near(spacing, g.pitch_mm * n) or _near(spacing, g.pitch_mm / n) for n in range(1, MOST_TIMES + 1)
    ):
        findings.append(
            Finding(
                "marks.coincide",
                Severity.ADVICE,
                title="Heat and what turns would mark it at the same distances",
                reason=f"{quantity(spacing, 'mm', '.3g')} by heat, {quantity(g.pitch_mm, 'mm', '.3g')} a turn, or a multiple.",
                fix="Change the speed: marks in time move with it, marks of a turning part stay.",
            )
        )
    if g.other_speed_mm_s and _near(g.other_speed_mm_s, g.speed_mm_s):
        findings.append(
            Finding(
                "marks.same-speed",
                Severity.ADVICE,
                title="The other speed is hardly another",
                reason="So small a change cannot be told from how well marks are measured.",
                fix="Change it by a fifth or more.",
            )
        )
    return findings


MARKS = Question(
    "marks",
    "Does the heat's rhythm mark the product?",
    Topic.SWITCH,
    MarksInput,
    _marks,
    None,
    (
        "Change the speed: if the spacing in millimetres changes with it, it is a rhythm in time; if it stays, it is mechanical.",
        "The two can coincide by chance: that is why the speed is changed, not only compared.",
        "Half a degree can show on a polished or clear product.",
    ),
    "Stop what turns before you measure on it: rollers and screws draw in hands, sleeves and cloth.",
    ("actuator",),
)
