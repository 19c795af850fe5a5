"""What does a scaled signal say?"""

from dataclasses import dataclass
from typing import Any

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...messages import difference, quantity, temperature
from ...sensing.signals import SIGNALS, SignalVerdict, judge, reading
from ...units import ABSOLUTE_ZERO_C, Kind
from ..answer import Answer, Axis, Curves, Known, Mark, Question, Topic, curve

DISAGREE_C = 0.5
"""Two ends of a retransmission agree within this, °C (common practice, no source)."""


HOTTEST_C = 4000.0
"""Beyond this nothing is measured by a transmitter (our choice: refractories melt)."""


@dataclass(frozen=True)
class SignalInput:
    """A transmitter and what an input makes of it."""

    signal: str = choice("Signal", {k: s.name for k, s in SIGNALS.items()}, "4-20")
    low_c: float = number("At its low end", Kind.TEMPERATURE, -273, 2000, 0)
    high_c: float = number("at its high end", Kind.TEMPERATURE, -273, 2500, 400)
    at: float = number("Measured, mA or V", Kind.RATIO, -30, 30, 12)
    shown_c: float | None = number("The far end shows (if known)", Kind.TEMPERATURE, -273, 2000, None, optional=True)
    bits: str = choice("Converter", {"10": "10 bit", "12": "12 bit", "14": "14 bit", "16": "16 bit"}, "12")


VERDICT_WORDS = {
    SignalVerdict.MEASURED: "a measurement",
    SignalVerdict.SATURATED: "saturated: beyond the span, not to be trusted",
    SignalVerdict.FAULT: "a fault: broken wire, short or failed sensor",
}


def _signal(g: SignalInput) -> Answer:
    s = SIGNALS[g.signal]
    shown, verdict = reading(s, g.at, g.low_c, g.high_c), judge(s, g.at)
    if not _can_be(shown):
        beyond = "below absolute zero" if shown < ABSOLUTE_ZERO_C else "hotter than anything that is measured so"
        raise refuse(
            "at",
            f"{quantity(g.at, s.unit)} would be {beyond} on this scale",
            "a signal nearer to its span, or another scale",
        )
    per_count = (
        abs(g.high_c - g.low_c) / (s.high - s.low) * (s.high if s.live_zero else s.high - s.low) / 2 ** int(g.bits)
    )
    findings = []
    if verdict is not SignalVerdict.MEASURED:
        findings.append(
            Finding(
                "signal.band",
                Severity.FAULT,
                title=f"{quantity(g.at, s.unit)} is {VERDICT_WORDS[verdict]}",
                reason="NE 43: measurement is {3.8…20.5 mA}; 3.6 and less or 21 and more is a fault."
                if s.live_zero
                else "Beyond its ends there is no signal.",
                fix="Let the input treat it as a broken sensor.",
            )
        )
    if not s.live_zero:
        findings.append(
            Finding(
                "signal.zero",
                Severity.ADVICE,
                title="A broken wire reads as the low end",
                reason="Zero is a value of this signal, so a heater may be driven to full power by a loose screw.",
                fix="A live-zero signal (4–20 mA, 1–5 V), or an independent limiter.",
            )
        )
    if g.shown_c is not None and abs(g.shown_c - shown) > DISAGREE_C:
        off = g.shown_c - shown
        findings.append(
            Finding(
                "signal.disagree",
                Severity.FAULT,
                title=f"The two ends disagree by {difference(abs(off), '.1f')}",
                reason="Source and logger agree within {0.1…0.5 Δ°C}, or the scaling is wrong.",
                fix="Compare the span set at both ends; a constant factor is a wrong span, a constant shift a wrong zero.",
            )
        )
    wide = (s.high - s.low) / 8
    grid = [s.low - wide + i * (s.high - s.low + 2 * wide) / 60 for i in range(61)]
    broken_c = reading(s, s.low - 0.025 * (s.high - s.low), g.low_c, g.high_c)
    return Answer(
        f"{quantity(g.at, s.unit)} is {temperature(shown, '.1f')}: {VERDICT_WORDS[verdict]}.",
        (
            Figure(
                "shown",
                shown,
                Kind.TEMPERATURE,
                formula="T = T_low + (I − I_low)/(I_high − I_low) × span",
                inputs=(
                    Input("low end", g.low_c, Kind.TEMPERATURE, "T_low", "given"),
                    Input("high end", g.high_c, Kind.TEMPERATURE, "T_high", "given"),
                ),
                reason="A straight line.",
                source="IEC 60381",
            ),
            Figure(
                "a unit of signal is",
                (g.high_c - g.low_c) / (s.high - s.low),
                Kind.DIFFERENCE,
                formula="span / signal span",
                reason=f"For every {s.unit}.",
                source="scaling",
            ),
            Figure(
                "one count is",
                per_count,
                Kind.DIFFERENCE,
                formula="span / 2^bits",
                reason="The finest step this converter shows over the whole signal.",
                source="converter",
            ),
            *(_broken(broken_c, s.live_zero) if _can_be(broken_c) else ()),
        ),
        tuple(findings),
        Curves(
            Axis(f"signal, {s.unit}", Kind.RATIO),
            Axis("shown", Kind.TEMPERATURE),
            (curve("reading", grid, [reading(s, x, g.low_c, g.high_c) for x in grid]),),
            (Mark("here", g.at, shown),),
        ),
    )


def _can_be(celsius: float) -> bool:
    return ABSOLUTE_ZERO_C <= celsius <= HOTTEST_C


def _broken(celsius: float, live_zero: bool) -> tuple[Figure]:
    told = "What a broken loop would show if nobody watched for it."
    reason = told if live_zero else "No fault band without a live zero."
    return (Figure("fault below", celsius, Kind.TEMPERATURE, formula="{3.6 mA}", reason=reason, source="NAMUR NE 43"),)


def _signal_of_rig(known: Known) -> dict[str, Any]:
    return {"high_c": round(known.purpose.highest_c * 1.2, -1) or 100.0}


SIGNAL = Question(
    "signal",
    "What does this signal say?",
    Topic.SENSOR,
    SignalInput,
    _signal,
    _signal_of_rig,
    (
        "A live zero tells a broken wire from a cold reading.",
        "Check retransmission at two points: source and logger agree within {0.1…0.5 Δ°C}, or the scaling is wrong.",
    ),
    "A heater on a signal without live zero runs away when a wire comes loose.",
    ("sensor",),
)
