"""How wrong can the reading be?"""

from dataclasses import dataclass
from typing import Any

from ...form import choice, number
from ...messages import difference, quantity
from ...sensing.budget import ReadingChain, budget
from ...sensing.sensors import usual_class
from ...sensing.thermocouples import TYPES
from ...sensing.tolerances import PLATINUM_CLASSES, THERMOCOUPLE_CLASSES, classes_of, permitted
from ...units import Kind
from ..answer import Alternative, Answer, Bar, Known, Question, Topic
from .sensor_words import STANDARD, sensor_of, within

USUAL = "usual"
CLASSES = {USUAL: "the usual one", **{c: c for c in (*THERMOCOUPLE_CLASSES, *PLATINUM_CLASSES)}}
ONLY_THERMOCOUPLES = ("sensor", tuple(TYPES))


@dataclass(frozen=True)
class BudgetInput:
    """The chain from the sensor to the digit."""

    sensor: str = choice("Sensor", STANDARD, "K")
    celsius: float = number("At", Kind.TEMPERATURE, -270, 1820, 500)
    tolerance_class: str = choice("Class", CLASSES, USUAL)
    joint_c: float | None = number(
        "Cable's joint at (empty: none)", Kind.TEMPERATURE, -40, 300, 40, optional=True, when=ONLY_THERMOCOUPLES
    )
    input_c: float = number("Input, fixed", Kind.DIFFERENCE, 0, 50, 0.5)
    input_percent: float = number("Input, of reading", Kind.PERCENT, 0, 10, 0.1)
    cold_junction_c: float = number("Cold junction", Kind.DIFFERENCE, 0, 20, 1, when=ONLY_THERMOCOUPLES)
    digit_c: float = number("Display digit", Kind.DIFFERENCE, 0, 10, 0.1)
    placement_c: float = number("Placement", Kind.DIFFERENCE, 0, 200, 0)


def _budget(g: BudgetInput) -> Answer:
    within("celsius", g.sensor, g.celsius)
    chosen = usual_class(g.sensor) if g.tolerance_class == USUAL else g.tolerance_class
    found = budget(
        ReadingChain(
            g.sensor,
            chosen,
            g.celsius,
            g.joint_c if g.sensor in TYPES else None,
            g.input_c,
            g.input_percent,
            g.cold_junction_c,
            g.digit_c,
            g.placement_c,
        )
    )
    full = max((p.value for p in found.parts), default=0.0) or 1.0
    return Answer(
        f"Within {difference(found.expanded.value, '.2g')} of the truth, 19 times in 20. {found.advice}",
        (found.expanded, found.worst),
        bars=tuple(
            Bar(p.name.capitalize(), p, full, note=f"{quantity(share * 100, '%', '.0f')} of it")
            for p, share in zip(found.parts, found.shares, strict=True)
        ),
        alternatives=tuple(_class(g, name, chosen) for name in classes_of(g.sensor)),
    )


def _class(g: BudgetInput, name: str, chosen: str) -> Alternative:
    allowed = permitted(g.sensor, name, g.celsius)
    says = "Does not cover this temperature." if allowed is None else f"Permits ± {difference(allowed, '.2f')}."
    return Alternative(name, name, None, says=says, chosen=name == chosen)


def _of_rig(known: Known) -> dict[str, Any]:
    return {**sensor_of(known), "celsius": known.purpose.working_c}


BUDGET = Question(
    "reading",
    "How wrong can the reading be?",
    Topic.SENSOR,
    BudgetInput,
    _budget,
    _of_rig,
    (
        "Class limits hold for sensors as delivered. Used ones drift: calibrate in place at the working depth.",
        "Independent parts add as squares; if all erred the same way they would simply add.",
    ),
    "The limit that guards the load must allow for this much error of its own sensor.",
    ("sensor",),
)
