"""Which switch, and which control period?"""

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...heating.phase_angle import burst_steps
from ...heating.switches import (
    SSR_DROP_V,
    heat_sink,
    relay_life,
)
from ...messages import difference, quantity
from ...process.cycles import period_for_ripple
from ...purpose.purpose import Supply
from ...units import Kind
from ..answer import Alternative, Answer, Known, Question, Topic
from ..form import choice, number
from ..rig_values import amps

DC_CONTACT_A = 5.0
"""More DC than this an AC contact does not break, A (common practice, no source)."""
LARGEST_SSR_A = 56.0
"""70 % of an 80 A type, A."""
IN_YEARS_H = 10_000.0
"""From here on a life is said in years."""
SLOW_S = 0.1
"""Loads slower than this are happy with 10 Hz."""

YEAR_H = 8760.0


class Mains(StrEnum):
    """What is switched."""

    AC50 = "ac50"
    AC60 = "ac60"
    DC = "dc"


@dataclass(frozen=True)
class SwitchInput:
    """A load and how steady and how long it must be held."""

    current_a: float = number("Load current", Kind.CURRENT, 0.05, 200, 13)
    mains: Mains = choice("Supply", {Mains.AC50: "AC, 50 Hz", Mains.AC60: "AC, 60 Hz", Mains.DC: "DC"}, Mains.AC50)
    rise_per_min: float = number("Rises at full power, a minute", Kind.DIFFERENCE, 0.01, 1000, 8)
    ripple_c: float = number("Swing allowed by the switching", Kind.DIFFERENCE, 0.01, 100, 0.5)
    hours_a_week: float = number("Hours a week at temperature", Kind.COUNT, 0.1, 168, 20)
    years: float = number("Should last, years", Kind.COUNT, 0.1, 50, 5)


def _switch(g: SwitchInput) -> Answer:
    ripple_period = period_for_ripple(g.rise_per_min / 60, g.ripple_c)
    wanted_s = g.years * YEAR_H / 168 * g.hours_a_week * 3600
    dc = g.mains is Mains.DC
    options = [
        _contact("relay", "Power relay", 16.0, 1e5, g, ripple_period, wanted_s),
        _contact("contactor", "Contactor (AC-1)", 63.0, 1e6, g, ripple_period, wanted_s),
        _ssr(g, ripple_period, dc),
        _transistor(g, ripple_period, dc),
    ]
    best = next((o for o in options if o.verdict is None), None)
    order = sorted(options, key=lambda o: 0 if o.verdict is None else 1)
    shown = tuple(
        Alternative(o.key, o.title, o.verdict, says=o.says, reasons=o.reasons, figures=o.figures, chosen=o is best)
        for o in order
    )
    return Answer(
        f"{best.title}: {best.says}." if best else "No usual switch does all of this.",
        (
            Figure(
                "longest period for this swing",
                ripple_period,
                Kind.TIME,
                formula="4 ΔT / rate",
                inputs=(
                    Input("swing allowed", g.ripple_c, Kind.DIFFERENCE, "ΔT", "given"),
                    Input("rise at full power", g.rise_per_min, Kind.RATE, "rate", "given"),
                ),
                reason="At half power the load climbs half as fast for half the period. Its own lag makes it less.",
                source="geometry of a sawtooth",
            ),
            Figure(
                "cycling in its life",
                wanted_s,
                Kind.TIME,
                reason="Hours at temperature over the years you want.",
                source="given",
            ),
        ),
        ()
        if best
        else (
            Finding(
                "switch.none",
                Severity.FAULT,
                title="Nothing fits all you ask",
                reason="A contact fast enough for the swing wears out; see each for its reason.",
                fix="Allow more swing, or an SSR with a heat sink.",
            ),
        ),
        alternatives=shown,
    )


def _contact(
    key: str, title: str, most_a: float, operations: float, g: SwitchInput, period: float, wanted_s: float
) -> Alternative:
    """A contact is as good as the longest period the swing allows."""
    if g.mains is Mains.DC and g.current_a > DC_CONTACT_A:
        return Alternative(
            key, title, Severity.FAULT, says="its AC rating does not hold on DC: the arc does not go out"
        )
    if g.current_a > most_a:
        return Alternative(
            key,
            title,
            Severity.FAULT,
            says=f"stands {quantity(most_a, 'A')} and would carry {quantity(g.current_a, 'A', '.1f')}",
        )
    life = relay_life(max(period, 0.5), operations)
    figures = (life,)
    if life.value < wanted_s:
        return Alternative(
            key,
            title,
            Severity.FAULT,
            says=f"at {quantity(period, 's', '.0f')} it wears out after {_span(life.value)}",
            figures=figures,
        )
    return Alternative(
        key,
        title,
        None,
        says=f"control period {_round(period)} s, lasts {_span(life.value)} of cycling",
        figures=figures,
    )


def _ssr(g: SwitchInput, period: float, dc: bool) -> Alternative:
    heat = g.current_a * SSR_DROP_V
    if dc:
        return Alternative("ssr", "Zero-cross SSR", Severity.DANGER, says="on DC it never turns off")
    half = 0.01 if g.mains is Mains.AC50 else 1 / 120
    chosen = min(max(100 * half, min(period, 2.0)), max(period, 20 * half))
    steps = burst_steps(chosen, 0.5 / half)
    if g.current_a > LARGEST_SSR_A:
        return Alternative(
            "ssr",
            "Zero-cross SSR",
            Severity.FAULT,
            says=f"{quantity(g.current_a, 'A', '.0f')} is beyond 70 % of an 80 A type",
        )
    sink = heat_sink(heat, 40.0)
    return Alternative(
        "ssr",
        "Zero-cross SSR",
        None,
        says=f"control period {_round(chosen)} s ({steps:.0f} steps), heat sink {quantity(sink.value, 'K/W', '.1f')} or better",
        reasons=("It fails shorted: an independent cut-out belongs with it.",),
        figures=(sink,),
    )


def _transistor(g: SwitchInput, period: float, dc: bool) -> Alternative:
    if not dc:
        return Alternative("mosfet", "MOSFET", Severity.FAULT, says="switches DC only")
    frequency = 10.0 if period > SLOW_S else min(1 / period, 25.0)
    return Alternative(
        "mosfet",
        "MOSFET",
        None,
        says=f"PWM at {quantity(frequency, 'Hz', '.0f')}",
        reasons=("A heated plate is happy at 10–25 Hz; audio-range PWM sings.",),
    )


def _round(seconds: float) -> str:
    return f"{seconds:.0f}" if seconds >= 3 else f"{seconds:.1f}"


def _span(seconds: float) -> str:
    hours = seconds / 3600
    return quantity(hours, "h", ".0f") if hours < IN_YEARS_H else quantity(hours / YEAR_H, "years", ".0f")


def _switch_of_rig(known: Known) -> dict[str, Any]:
    return {"current_a": amps(known), "mains": Mains.DC if known.purpose.supply is Supply.DC else Mains.AC50}


SWITCH = Question(
    "switch",
    "Which switch, and which control period?",
    Topic.SWITCH,
    SwitchInput,
    _switch,
    _switch_of_rig,
    (
        "One on and off is one operation: 1e5 at full load for a relay, about ten times that for a contactor.",
        f"A swing of {difference(0.5, '.1f')} by the switching is well below what most sensors show.",
        "A controller's own relay is a 2–5 A pilot: it drives a contactor, never the heater.",
    ),
    "A contactor removes power for the safety chain; it is not isolation for work. That is a lockable switch or the plug.",
    ("actuator", "limit"),
)
