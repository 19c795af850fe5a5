"""Which wire of a thermocouple cable is positive?"""

from dataclasses import dataclass

from ...findings import Finding, Severity
from ...form import choice
from ...sensing.colours import COLOURS, which_is_positive
from ..answer import Alternative, Answer, Cable, Question, Topic

SEEN = {c: c for c in COLOURS}


@dataclass(frozen=True)
class ColoursInput:
    """The two colours seen, in any order, and the sheath where there is one."""

    first: str = choice("One leg is", SEEN, "red")
    second: str = choice("the other", SEEN, "yellow")
    sheath: str = choice("Sheath", {"": "none, or not seen", **SEEN}, "")


def _colours(g: ColoursInput) -> Answer:
    found = which_is_positive(g.first, g.second, g.sheath)
    open_question = Finding(
        "colours.open",
        Severity.FAULT,
        title="Colour alone does not settle the polarity",
        reason="Standards that fit name different legs as positive.",
        fix="Make the test below before connecting.",
    )
    if not found.fits:
        headline = "No standard here uses these two colours."
    elif found.certain_positive:
        headline = f"{found.certain_positive.capitalize()} is positive in every standard that fits."
    else:
        headline = "The standards disagree: test before you connect."
    return Answer(
        headline,
        findings=(open_question,) if found.fits and not found.certain_positive else (),
        alternatives=tuple(Alternative(t.name, t.name, None, says=t.how, reasons=t.outcomes) for t in found.tests),
        cables=tuple(
            Cable(
                f"Type {f.type}",
                f.standard + (f", but its sheath would be {f.sheath}" if f.sheath_agrees is False else ""),
                f.positive,
                f.negative,
                f.sheath,
                f.sheath_agrees is False,
            )
            for f in found.fits
        ),
    )


COLOUR = Question(
    "colours",
    "Which wire is positive?",
    Topic.SENSOR,
    ColoursInput,
    _colours,
    None,
    (
        "The standards contradict each other: red is negative in one and positive in another. The tables are from memory of"
        " the standards: check them against the print on the cable.",
        "German “J” and “T” of the old standard are types L and U with tables of their own; never set an input to J or T.",
        "On plugs the wider pin is negative. An IEC blue sheath can mean intrinsically safe.",
    ),
    "Isolate the heater while you handle sensor wires: a wrong reading is a heater at full power.",
    ("sensor",),
)
