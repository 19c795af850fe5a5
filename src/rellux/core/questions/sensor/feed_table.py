"""What must be fed into an input so that it shows a temperature?"""

from dataclasses import dataclass
from typing import Any

from ...form import choice, number
from ...sensing.feed_table import LEADS, Lead, table
from ...sensing.thermocouples import TYPES
from ...units import Kind
from ..answer import Answer, Axis, Known, NumberTable, Question, Topic
from .sensor_words import STANDARD, sensor_of, within

HOTTEST_C = 1820
"""Where the tables of the hottest thermocouple, type B, end."""


@dataclass(frozen=True)
class FeedInput:
    """A sensor to be stood in for, and the rows wanted."""

    sensor: str = choice("Sensor", STANDARD, "K")
    low_c: float = number("From", Kind.TEMPERATURE, -270, HOTTEST_C, 0)
    high_c: float = number("to", Kind.TEMPERATURE, -270, HOTTEST_C, 300)
    step_c: float = number("every", Kind.DIFFERENCE, 0.1, 500, 20)
    terminals_c: float = number("Input's terminals now", Kind.TEMPERATURE, -40, 100, 25, when=("sensor", tuple(TYPES)))
    lead: Lead = choice(
        "Joined with",
        LEADS,
        Lead.COPPER,
        when=("sensor", tuple(TYPES)),
    )
    source_c: float = number("Source's terminals now", Kind.TEMPERATURE, -40, 100, 25, when=("lead", (Lead.EXTENSION,)))


def _feed(g: FeedInput) -> Answer:
    within("low_c", g.sensor, g.low_c)
    within("high_c", g.sensor, g.high_c)
    found = table(g.sensor, g.low_c, g.high_c, g.step_c, g.terminals_c, g.lead, g.source_c)
    what = {"mV": Kind.MILLIVOLTS, "Ω": Kind.RESISTANCE, "°C": Kind.TEMPERATURE}[found.unit]
    return Answer(
        found.how,
        table=NumberTable(
            (Axis("To show", Kind.TEMPERATURE), Axis("feed", what)), tuple((r.celsius, r.feed) for r in found.rows)
        ),
    )


def _of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    step = max(round((p.highest_c - p.ambient_c) / 15), 1)
    return {
        **sensor_of(known),
        "low_c": round(p.ambient_c),
        "high_c": min(round(p.highest_c + step), HOTTEST_C),
        "step_c": step,
    }


FEED = Question(
    "feed",
    "What must I feed in to show a temperature?",
    Topic.SENSOR,
    FeedInput,
    _feed,
    _of_rig,
    (
        "Put a millivolt source or a decade box in place of the sensor and walk past each alarm, up and down.",
        "Through copper the input adds its own terminals' temperature: measure it now, and again when you are done.",
    ),
    "Isolate the heater: it answers to what you feed.",
    ("sensor",),
)
