"""What would a wrong connection show, and which one explains what was seen?"""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ...explain import Figure
from ...findings import Finding, Severity
from ...form import choice, number, rows
from ...messages import difference
from ...sensing.mistakes import Circumstances, Mistake, mistakes
from ...sensing.sensors import is_thermocouple, usual_span
from ...sensing.suspects import Explanation, explain_pairs, own_error
from ...sensing.thermocouples import TYPES
from ...units import Kind
from ..answer import Alternative, Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from .sensor_words import STANDARD, sensor_of, within

POINTS = 121
THERMOCOUPLES = tuple(TYPES)
PLATINUM = ("Pt100", "Pt1000")


@dataclass(frozen=True)
class ShownAndTrue:
    """What the display showed, and what was true at the same moment."""

    display_c: float = number("Display showed", Kind.TEMPERATURE, -273, 4000, 0)
    true_c: float = number("when it was", Kind.TEMPERATURE, -270, 1820, 100)


@dataclass(frozen=True)
class MistakeInput:
    """A sensor, where its head and the instrument's terminals are, and pairs seen, if any."""

    sensor: str = choice("Sensor", STANDARD, "K")
    head_c: float = number("Probe's head", Kind.TEMPERATURE, -40, 200, 60, when=("sensor", THERMOCOUPLES))
    terminals_c: float = number("Terminals", Kind.TEMPERATURE, -40, 200, 25, when=("sensor", THERMOCOUPLES))
    junction_error_c: float = number(
        "Terminals warmer than the input takes them for by",
        Kind.DIFFERENCE,
        -100,
        100,
        10,
        when=("sensor", THERMOCOUPLES),
    )
    lead_ohm: float = number("Both leads together", Kind.RESISTANCE, 0, 500, 1, when=("sensor", PLATINUM))
    lead_difference_ohm: float = number(
        "Of three leads one has more by", Kind.RESISTANCE, -500, 500, 0.1, when=("sensor", PLATINUM)
    )
    high_c: float | None = number("Draw up to (empty: usual)", Kind.TEMPERATURE, -200, 1820, None, optional=True)
    pairs: tuple[ShownAndTrue, ...] = rows(
        "Seen at the bench: likeliest mistakes then come first", ShownAndTrue, (), 0, 8
    )


def _mistake(g: MistakeInput) -> Answer:
    low, usual_high = usual_span(g.sensor)
    high = usual_high if g.high_c is None else g.high_c
    within("high_c", g.sensor, high)
    low = min(low, high - 50.0)
    within("high_c", g.sensor, low)
    for i, pair in enumerate(g.pairs):
        within(f"pairs[{i}].true_c", g.sensor, pair.true_c)
    at = Circumstances(g.head_c, g.terminals_c, g.junction_error_c, g.lead_ohm, g.lead_difference_ohm)
    known = mistakes(g.sensor, at)
    own = own_error(g.sensor, max((p.true_c for p in g.pairs), default=high))
    ranked = explain_pairs(g.sensor, at, tuple((p.display_c, p.true_c) for p in g.pairs), own) if g.pairs else ()
    best = ranked[0].key if ranked else "reversed" if is_thermocouple(g.sensor) else "two_wire"
    true = np.linspace(low, high, POINTS)
    span = high - low
    return Answer(
        _headline(ranked),
        (
            Figure(
                "a mistake fits within",
                own,
                Kind.DIFFERENCE,
                formula="class tolerance + {1 Δ°C}",
                reason="What a new sensor and an ordinary instrument may be off by themselves.",
                source="IEC 60584-1, IEC 60751; {1 Δ°C} for the instrument is common practice",
            ),
        ),
        _finding(ranked),
        Curves(
            Axis("true", Kind.TEMPERATURE),
            Axis("displayed", Kind.TEMPERATURE, low=low - 0.25 * span, high=high + 0.35 * span),
            tuple(
                curve(
                    m.title,
                    true,
                    np.asarray(m.display(true).celsius),
                    "other" if m.key == "right" else "main" if m.key == best else "faint",
                    m.key,
                )
                for m in known
                if np.isfinite(m.display(true).celsius).any()
            ),
            tuple(Mark("seen", p.true_c, p.display_c) for p in g.pairs),
        ),
        alternatives=_suspects(known, ranked, best),
    )


def _headline(ranked: tuple[Explanation, ...]) -> str:
    if not ranked:
        return "Enter what the display showed and what was true: the likeliest mistake comes first."
    best = ranked[0]
    if not best.fits:
        return "None of these alone explains it."
    return "Sensor and instrument explain this by themselves." if best.key == "right" else f"{best.title} explains it."


def _finding(ranked: tuple[Explanation, ...]) -> tuple[Finding, ...]:
    if not ranked or not ranked[0].fits or ranked[0].key == "right":
        return ()
    rivals = [e.title for e in ranked[1:] if e.fits]
    return (
        Finding(
            "mistake.fits",
            Severity.FAULT,
            title=f"The readings look like: {ranked[0].title}",
            reason=ranked[0].reason + (f" So would: {', '.join(rivals)}." if rivals else ""),
            fix="Make the test named beside it, with the heater isolated, before changing a wire.",
        ),
    )


def _suspects(known: tuple[Mistake, ...], ranked: tuple[Explanation, ...], best: str) -> tuple[Alternative, ...]:
    by_key = {m.key: m for m in known}
    order = [e.key for e in ranked] or [m.key for m in known]
    said = {e.key: e for e in ranked}
    found = []
    for key in order:
        m, seen = by_key[key], said.get(key)
        verdict = None if seen is None or seen.fits else Severity.FAULT
        off = "" if seen is None else f"{difference(seen.residual_c, '.1f')} off. "
        found.append(
            Alternative(
                key,
                m.title,
                verdict,
                says=f"{off}{m.says}",
                reasons=(m.test,) if m.test else (),
                chosen=key == best,
            )
        )
    return tuple(found)


def _of_rig(known: Known) -> dict[str, Any]:
    return sensor_of(known)


MISTAKE = Question(
    "mistake",
    "What would a wrong connection show?",
    Topic.SENSOR,
    MistakeInput,
    _mistake,
    _of_rig,
    (
        "Every curve follows from the reference functions (NIST Monograph 175, IEC 60751) and the circuit the mistake makes.",
        "The head test tells the sneaky ones apart: warm the probe's head, not its tip. Right: nothing happens."
        " Copper: about −1 for each degree. Crossed twice: about −2.",
    ),
    "Isolate the heater while you handle sensor wires: a wrong reading is a heater at full power.",
    ("sensor",),
)
