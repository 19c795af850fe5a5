"""Which switch, and which control period?"""

from dataclasses import dataclass
from enum import StrEnum
from math import ceil
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...heating.contacts import Contact, Served, breaks_a, category
from ...heating.mosfet import UNFELT_HZ, UNHEARD_HZ
from ...heating.phase_angle import burst_steps
from ...heating.switches import (
    RELAY_OPERATIONS,
    SSR_DROP_V,
    heat_sink,
    relay_life,
)
from ...messages import difference, quantity
from ...process.cycles import period_for_ripple
from ...purpose.purpose import Supply
from ...units import Kind
from ..answer import Alternative, Answer, Known, Question, Topic
from ..rig_values import amps

LONGEST_S, USUAL_S, SHORTEST_CONTACT_S = 120.0, 20.0, 2.0
"""Control periods of contacts, s: longer than two minutes is on/off control, shorter than two seconds hammers (common practice)."""
SSR_USUAL_S, LEAST_STEPS = 2.0, 20.0
"""Control period of an SSR, s, and the half-cycles it needs at least: fewer give coarse steps (common practice)."""
LEAST_LOAD_A = 0.15
"""Load current below which a thyristor may not stay on, A (typical of data sheets)."""
BLOCKING_V = (600.0, 800.0, 1200.0, 1600.0)
"""Blocking voltages sold, V."""
SURGE = 1.8
"""Times the supply's peak that must be blocked: 600 V on 230 V, 1200 V on 400 V (common practice, no source)."""
FASTEST_PWM_HZ = 1000.0
"""PWM of a transistor beyond which its own switching losses tell, Hz."""
LARGEST_SSR_A = 56.0
"""70 % of an 80 A type, A."""
LAMP_INRUSH = 12.0
"""Times its current a cold lamp draws (data sheets, from memory)."""
CONTACTOR_OPERATIONS = 1e6
"""Electrical life of a contactor (typical of data sheets)."""
IN_YEARS_H = 10_000.0
"""From here on a life is said in years."""

YEAR_H = 8760.0


class Mains(StrEnum):
    """What is switched."""

    AC50 = "ac50"
    AC60 = "ac60"
    DC = "dc"


@dataclass(frozen=True)
class SwitchInput:
    """A load and how steady and how long it must be held."""

    current_a: float = number("Load current", Kind.CURRENT, 0.05, 1000, 13)
    voltage_v: float = number("at", Kind.VOLTAGE, 1, 1000, 230)
    mains: Mains = choice("Supply", {Mains.AC50: "AC, 50 Hz", Mains.AC60: "AC, 60 Hz", Mains.DC: "DC"}, Mains.AC50)
    served: Served = choice(
        "It switches",
        {
            Served.HEATER: "A heater",
            Served.COIL: "A contactor's coil or a valve",
            Served.LAMP: "Lamps",
            Served.TRANSFORMER: "A transformer or power supply",
        },
        Served.HEATER,
    )
    rise_per_min: float = number("Rises at full power, a minute", Kind.DIFFERENCE, 0.01, 1000, 8)
    ripple_c: float = number("Swing allowed by the switching", Kind.DIFFERENCE, 0.01, 100, 0.5)
    hours_a_week: float = number("Hours a week at temperature", Kind.COUNT, 0.1, 168, 20)
    years: float = number("Should last, years", Kind.COUNT, 0.1, 50, 5)


def _switch(g: SwitchInput) -> Answer:
    ripple_period = period_for_ripple(g.rise_per_min / 60, g.ripple_c)
    wanted_s = g.years * YEAR_H / 168 * g.hours_a_week * 3600
    dc = g.mains is Mains.DC
    own = [] if g.served is Served.HEATER else [(Contact.OWN, "The controller's own relay", RELAY_OPERATIONS)]
    contacts = [
        *own,
        (Contact.RELAY, "Power relay", RELAY_OPERATIONS),
        (Contact.CONTACTOR, "Contactor", CONTACTOR_OPERATIONS),
    ]
    options = [
        *(_contact(c, title, operations, g, ripple_period, wanted_s) for c, title, operations in contacts),
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
    contact: Contact, name: str, operations: float, g: SwitchInput, period: float, wanted_s: float
) -> Alternative:
    """A contact is as good as the longest period the swing allows."""
    dc, key = g.mains is Mains.DC, contact.value
    kind = category(g.served, dc=dc)
    title = f"{name} ({kind})"
    breaks = breaks_a(contact, g.served, g.voltage_v, dc=dc)
    if g.current_a > breaks:
        at = f"at {quantity(g.voltage_v, 'V')} DC" if dc else f"with this load ({kind})"
        says = (
            f"{at} it breaks {quantity(breaks, 'A', '.2g')} at most and would have {quantity(g.current_a, 'A', '.2g')}"
        )
        return Alternative(key, title, Severity.FAULT, says=says)
    longest = min(period, LONGEST_S)
    if longest < SHORTEST_CONTACT_S:
        says = f"it would have to switch every {quantity(period, 's', '.2g')}: no contact does that for long"
        return Alternative(key, title, Severity.FAULT, says=says)
    if relay_life(longest, operations).value < wanted_s:
        life = relay_life(longest, operations)
        says = f"at {quantity(longest, 's', '.0f')} it wears out after {_span(life.value)}"
        return Alternative(key, title, Severity.FAULT, says=says, figures=(life,))
    chosen = max(min(USUAL_S, longest), wanted_s / operations)
    life = relay_life(chosen, operations)
    pilot = (
        ("A suppressor across the coil: a diode on DC, an RC or varistor on AC.",)
        if g.served is Served.COIL
        else ("Its coil is a pilot load of the controller's own contact: rated AC-15 or DC-13, with a suppressor.",)
        if contact is not Contact.OWN
        else ()
    )
    return Alternative(
        key,
        title,
        None,
        says=f"control period {_round(chosen)} s, lasts {_span(life.value)} of cycling",
        reasons=pilot,
        figures=(life,),
    )


def _ssr(g: SwitchInput, period: float, dc: bool) -> Alternative:
    heat = g.current_a * SSR_DROP_V
    if dc:
        return Alternative("ssr", "Zero-cross SSR", Severity.DANGER, says="on DC it never turns off")
    half = 0.01 if g.mains is Mains.AC50 else 1 / 120
    if g.current_a < LEAST_LOAD_A:
        says = f"below {quantity(LEAST_LOAD_A, 'A')} it may not stay on"
        return Alternative("ssr", "Zero-cross SSR", Severity.FAULT, says=says)
    if period < LEAST_STEPS * half:
        swing = g.ripple_c * LEAST_STEPS * half / period
        says = (
            f"{LEAST_STEPS:.0f} half-cycles take {quantity(LEAST_STEPS * half, 's', '.2g')}, and the load swings "
            f"{difference(swing, '.2g')} meanwhile"
        )
        return Alternative("ssr", "Zero-cross SSR", Severity.FAULT, says=says)
    if g.served is Served.TRANSFORMER:
        says = "switching on at the zero crossing saturates a transformer: many times its current, each time"
        return Alternative("ssr", "Zero-cross SSR", Severity.FAULT, says=says)
    if g.served is Served.LAMP and g.current_a > LARGEST_SSR_A / LAMP_INRUSH:
        says = f"lamps draw up to {LAMP_INRUSH:g} times as much cold: {quantity(g.current_a * LAMP_INRUSH, 'A', '.0f')}"
        return Alternative("ssr", "Zero-cross SSR", Severity.FAULT, says=says)
    blocking = next((v for v in BLOCKING_V if v >= 2**0.5 * g.voltage_v * SURGE), None)
    if blocking is None:
        says = f"none blocks {quantity(g.voltage_v, 'V')} with its surges"
        return Alternative("ssr", "Zero-cross SSR", Severity.FAULT, says=says)
    chosen = min(period, SSR_USUAL_S)
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
        reasons=(
            "It fails shorted: an independent cut-out belongs with it.",
            f"Blocking voltage {quantity(blocking, 'V')}; its input must fall below {{1 V}} to turn it off.",
        ),
        figures=(sink,),
    )


def _transistor(g: SwitchInput, period: float, dc: bool) -> Alternative:
    if not dc:
        return Alternative("mosfet", "MOSFET", Severity.FAULT, says="switches DC only")
    frequency = max(UNFELT_HZ, 1.0 / period)
    if frequency > FASTEST_PWM_HZ:
        says = f"the swing allowed asks for more than {quantity(FASTEST_PWM_HZ, 'Hz', '.0f')}: it would heat itself"
        return Alternative("mosfet", "MOSFET", Severity.FAULT, says=says)
    return Alternative(
        "mosfet",
        "MOSFET",
        None,
        says=f"PWM at {quantity(ceil(frequency), 'Hz', '.0f')}",
        reasons=(
            (
                f"Your swing asks for {quantity(1.0 / period, 'Hz', '.2g')} or more; up to {quantity(UNHEARD_HZ, 'Hz', '.0f')} "
                "nothing sings.",
            )
            if frequency <= UNHEARD_HZ
            else ("Faster than a plate needs, because of the swing you allow: it can be heard.",)
        ),
    )


def _round(seconds: float) -> str:
    """Rounded down: a period said must not be longer than the swing allows."""
    return f"{int(seconds + 1e-9)}" if seconds >= 3 else f"{int(seconds * 10 + 1e-9) / 10:.1f}"


def _span(seconds: float) -> str:
    hours = seconds / 3600
    return quantity(hours, "h", ".0f") if hours < IN_YEARS_H else quantity(hours / YEAR_H, "years", ".0f")


BETWEEN_HZ = 55.0
"""Mains above are taken for 60 Hz, below for 50."""


def _switch_of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    mains = Mains.DC if p.supply is Supply.DC else Mains.AC60 if p.frequency_hz > BETWEEN_HZ else Mains.AC50
    return {"current_a": amps(known), "voltage_v": p.supply_voltage_v, "mains": mains}


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
