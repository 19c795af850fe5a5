"""Do two sensors agree as they should?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...messages import difference, temperature
from ...sensing.budget import ReadingChain
from ...sensing.sensors import is_thermocouple, standard_range, usual_class
from ...sensing.suspects import explain_freely, own_error
from ...sensing.two_sensors import Agreement, Allowed, Pairing, allowed_difference
from ...units import Kind
from ..answer import Alternative, Answer, Bar, Known, Question, Topic
from .how_wrong import CLASSES, USUAL
from .sensor_words import STANDARD, sensor_of, within

MOST_CAUSES = 4
"""Explanations shown of each sensor (our choice)."""


@dataclass(frozen=True)
class TwoInput:
    """Two sensors at one place, or nearly, and what both showed."""

    first: str = choice("First sensor", STANDARD, "K")
    first_class: str = choice("its class", CLASSES, USUAL)
    second: str = choice("Second sensor", STANDARD, "K")
    second_class: str = choice("its class", CLASSES, USUAL)
    celsius: float = number("At", Kind.TEMPERATURE, -270, 1820, 500)
    input_c: float = number("Each input, fixed", Kind.DIFFERENCE, 0, 50, 0.5)
    input_percent: float = number("Each input, of reading", Kind.PERCENT, 0, 10, 0.1)
    cold_junction_c: float = number("Each cold junction", Kind.DIFFERENCE, 0, 20, 1)
    gradient_c: float = number("Their places differ by, at most", Kind.DIFFERENCE, 0, 200, 2)
    drift_c: float = number(
        "Each has drifted by, at most",
        Kind.DIFFERENCE,
        0,
        100,
        0,
        hint="new 0; type K some degrees in 1000 h above {800 °C}, from memory",
    )
    shown_first_c: float | None = number("The first shows", Kind.TEMPERATURE, -273, 2000, None, optional=True)
    shown_second_c: float | None = number("the second shows", Kind.TEMPERATURE, -273, 2000, None, optional=True)

    def chain(self, sensor: str, tolerance_class: str) -> ReadingChain:
        """One of the two, up to its digit."""
        return ReadingChain(
            sensor,
            usual_class(sensor) if tolerance_class == USUAL else tolerance_class,
            self.celsius,
            None,
            self.input_c,
            self.input_percent,
            self.cold_junction_c if is_thermocouple(sensor) else 0.0,
        )


def _two(g: TwoInput) -> Answer:
    within("celsius", g.first, g.celsius)
    within("celsius", g.second, g.celsius)
    chains = g.chain(g.first, g.first_class), g.chain(g.second, g.second_class)
    found = allowed_difference(Pairing(*chains, g.gradient_c, g.drift_c))
    figures = (found.usual, found.most)
    if g.shown_first_c is None or g.shown_second_c is None:
        return Answer(
            f"They should differ by no more than {difference(found.usual.value, '.2g')}; "
            f"beyond {difference(found.most.value, '.2g')} one of them is wrong.",
            figures,
            bars=_bars(found, found.most.value),
        )
    apart = g.shown_first_c - g.shown_second_c
    verdict = found.judge(apart)
    full = max(abs(apart), found.most.value)
    return Answer(
        _SAYS[verdict].format(difference(abs(apart), ".2g"), difference(found.most.value, ".2g")),
        figures,
        _findings(verdict, g, found),
        bars=(
            Bar("they differ by", _measured(apart), full, found.most.value, "", _SEVERITY[verdict]),
            *_bars(found, full),
        ),
        alternatives=_causes(g) if verdict is Agreement.APART else (),
    )


def _bars(found: Allowed, full: float) -> tuple[Bar, ...]:
    return Bar("sound pairs, 19 in 20", found.usual, full), Bar("possible at all", found.most, full)


_SAYS = {
    Agreement.ALIKE: "They agree: {} apart, and sound pairs may be.",
    Agreement.STRAINED: "{} apart: possible only if nearly everything errs the same way (at most {}).",
    Agreement.APART: "{} apart, and {} is the most that both being right allows: one is wrong, or a connection is.",
}
_SEVERITY = {Agreement.ALIKE: None, Agreement.STRAINED: Severity.ADVICE, Agreement.APART: Severity.DANGER}


def _measured(apart: float) -> Figure:
    return Figure(
        "they differ by",
        abs(apart),
        Kind.DIFFERENCE,
        formula="|T₁ − T₂|",
        inputs=(Input("difference", apart, Kind.DIFFERENCE, "T₁ − T₂", "read"),),
        reason="As both displays showed it at the same moment.",
    )


def _findings(verdict: Agreement, g: TwoInput, found: Allowed) -> tuple[Finding, ...]:
    if verdict is Agreement.ALIKE:
        return ()
    if verdict is Agreement.STRAINED:
        return (
            Finding(
                "two.strained",
                Severity.ADVICE,
                title="They differ more than sound pairs usually do",
                reason=f"19 of 20 sound pairs stay within {difference(found.usual.value, '.2g')}.",
                fix="Swap the two inputs: a difference that goes with the sensor is the sensor's, one that stays is the input's.",
            ),
        )
    lower, higher = sorted((g.shown_first_c or 0.0, g.shown_second_c or 0.0))
    return (
        Finding(
            "two.apart",
            Severity.DANGER,
            title="One of the two is wrong, and you do not know which",
            reason=f"If the one at {temperature(higher, '.0f')} is right, a loop on the other heats past what it shows by "
            f"{difference(higher - lower, '.0f')}.",
            fix="Believe the higher one until a third, or ice and boiling water, has settled it. Do not take the mean.",
        ),
    )


def _causes(g: TwoInput) -> tuple[Alternative, ...]:
    """What a mistake at either of them would have to be, taking the other as right."""
    shown = []
    seen = (
        (g.first, g.shown_first_c, g.shown_second_c, "first"),
        (g.second, g.shown_second_c, g.shown_first_c, "second"),
    )
    for sensor, own, other, which in seen:
        low, high = standard_range(sensor)
        if own is None or other is None or not low <= other <= high:
            continue
        allowed = own_error(sensor, other)
        for e in explain_freely(sensor, ((own, other),), allowed)[:MOST_CAUSES]:
            if e.key != "right":
                shown.append(Alternative(f"{which}-{e.key}", f"The {which}: {e.title}", None, says=e.reason))
    return tuple(shown)


def _of_rig(known: Known) -> dict[str, Any]:
    mine = sensor_of(known).get("sensor")
    return {**({"first": mine, "second": mine} if mine else {}), "celsius": known.purpose.working_c}


TWO = Question(
    "two_sensors",
    "Do two sensors agree as they should?",
    Topic.SENSOR,
    TwoInput,
    _two,
    _of_rig,
    (
        "Two elements in one sheath fail together when the sheath is knocked out of place: they agree, and both are wrong.",
        "Compare at working temperature, steady, with both tips within a few millimetres: a gradient looks like an error.",
    ),
    "A limiter whose sensor reads low trips late. Until the difference is explained, leave nothing heating unattended.",
    ("sensor",),
)
