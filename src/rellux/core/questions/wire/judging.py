"""What speaks against a sized wire, its plug and its breaker."""

from ...findings import Finding, Severity, worst_first
from ...heating.conductor_tables import Practice
from ...heating.conductors import Size, Sizing, highest_breaker_of
from ...heating.plugs import COOL_SHARE, NEC_PLUG_SHARE, PLUG_TAKES_MM2
from ...heating.run_of_wire import Insulation
from ...messages import percent, quantity, temperature
from .form import CONTROL, WireInput

AT_LIMIT, AS_THICK = 0.95, 0.99
"""Share of its ampacity at which a wire is at its limit (common practice, no source); a fitted wire as thick as the least, within
the rounding of AWG (our choice)."""

NOT_YET = {"B": 3.0, "C": 5.0, "D": 10.0}
"""Times its rating at which a breaker of each curve surely does not yet open at once (IEC 60898-1)."""
NEC_NOT_YET = 5.0
"""The same for a usual North American breaker (from memory; they are set higher)."""

DROP_SHARE = 0.03
"""Voltage drop worth a word: 3 % (NEC 210.19 note; IEC 60364-5-52 annex G has 3 % and 5 %)."""


def findings(g: WireInput, found: Sizing, best: Size) -> tuple[Finding, ...]:
    """Everything to say of the chosen size, worst first."""
    return tuple(worst_first([*_wire(g, best), *_protected(g, found, best), *_inrush(g, found), *_plug(g, best)]))


def _wire(g: WireInput, best: Size) -> list[Finding]:
    findings = []
    if g.fitted_mm2 is not None and g.fitted_mm2 < AS_THICK * best.area_mm2:
        findings.append(
            Finding(
                "wire.fitted",
                Severity.DANGER,
                title=f"{quantity(g.fitted_mm2, 'mm²')} is fitted and {best.label} is the least",
                reason=f"At {temperature(g.ambient_c, '.0f')} and bundled as it is, the "
                "fitted wire may carry less than its breaker lets flow.",
                fix="Run the larger wire, or bring the route into cooler air.",
            )
        )
    if g.current_a > AT_LIMIT * best.allowed_a:
        findings.append(
            Finding(
                "wire.limit",
                Severity.ADVICE,
                title=f"{best.label} is at its very limit",
                reason=f"It carries {quantity(g.current_a, 'A', '.1f')} of {quantity(best.allowed_a, 'A', '.1f')} "
                f"for hours and runs {temperature(best.conductor_c, '.0f')} warm.",
                fix="Take the next size up: cooler, and room for a hotter day (common practice, no source).",
            )
        )
    if best.drop_v > DROP_SHARE * g.voltage_v:
        findings.append(
            Finding(
                "wire.drop",
                Severity.ADVICE,
                title=f"The wire drops {quantity(best.drop_v, 'V', '.1f')}, {percent(best.drop_v / g.voltage_v, '.1f')}",
                reason=f"The heater loses {percent(2 * best.drop_v / g.voltage_v, '.1f')} of its power to it.",
                fix="A larger size, or a shorter way.",
            )
        )
    if g.insulation in (Insulation.PTFE, Insulation.GLASS, Insulation.SILICONE):
        findings.append(
            Finding(
                "wire.terminals",
                Severity.ADVICE,
                title="Hot insulation does not make hot terminals",
                reason="The wire may run hotter than the terminal, plug or breaker it ends in.",
                fix="Check what each end stands; bring the current there down to its own rating.",
            )
        )
    return findings


def _protected(g: WireInput, found: Sizing, best: Size) -> list[Finding]:
    """Where the breaker does not guard the wire against a lasting overload."""
    behind = found.run.behind
    if behind and not behind.overload and behind.breaker_a > best.allowed_a:
        return [
            Finding(
                "wire.short-circuit-only",
                Severity.ADVICE,
                title=f"The {quantity(behind.breaker_a, 'A')} breaker guards this wire against a short circuit only",
                reason=f"It lets more than the wire's {quantity(best.allowed_a, 'A', '.1f')} flow for ever: right only while nothing "
                "on it can draw more than its load.",
                fix="No socket and no larger element on this wire, ever; say so on the sheet.",
                source="IEC 60364-4-43, 433.3",
            )
        ]
    if g.serves != CONTROL or g.behind_a is None:
        return []
    most = highest_breaker_of(found.run, best.label, best.allowed_a)
    if g.behind_a <= most:
        return []
    return [
        Finding(
            "wire.own-fuse",
            Severity.FAULT,
            title="These control wires need a fuse of their own",
            reason=f"The {quantity(g.behind_a, 'A')} breaker does not protect {best.label}, which stands {quantity(most, 'A', '.3g')}.",
            fix=f"A fuse or breaker of {quantity(found.breaker_a, 'A')} or less where they branch off.",
        )
    ]


def _plug(g: WireInput, best: Size) -> list[Finding]:
    """A plug carries only so much for hours, and takes only so thick a wire."""
    if g.plug_a is None:
        return []
    found = []
    nec = g.practice is Practice.NEC
    share = NEC_PLUG_SHARE if nec else COOL_SHARE
    if g.current_a > share * g.plug_a:
        over = g.current_a > g.plug_a
        found.append(
            Finding(
                "wire.plug-hours",
                Severity.DANGER if over else Severity.FAULT,
                title=f"A {quantity(g.plug_a, 'A')} plug for hours at {quantity(g.current_a, 'A', '.1f')}",
                reason="More than it is made for."
                if over
                else f"The code gives it {percent(share)} of its rating for hours."
                if nec
                else "Near its rating for hours its contacts overheat, age and overheat more.",
                fix="A larger plug and inlet, less power, or fixed wiring by a licensed person.",
                source="NEC 210.21, 210.23, from memory" if nec else "common practice, no source",
            )
        )
    takes = next((mm2 for rating, mm2 in PLUG_TAKES_MM2[g.practice].items() if rating >= g.plug_a), None)
    area = max(best.area_mm2, g.fitted_mm2 or 0.0)
    if takes is not None and AS_THICK * area > takes:
        found.append(
            Finding(
                "wire.plug",
                Severity.FAULT,
                title=f"{quantity(area, 'mm²', '.3g')} does not go into this plug",
                reason=f"Its terminals take {quantity(takes, 'mm²', '.3g')} at most; strands cut off to fit are hot spots.",
                fix="A larger plug, a cooler or shorter way with a thinner wire, or fixed wiring by a licensed person.",
                source="plug standards, from memory",
            )
        )
    return found


def _inrush(g: WireInput, found: Sizing) -> list[Finding]:
    """A breaker that trips when lamps or a transformer are switched on."""
    lowest = NOT_YET[g.curve] if g.practice is Practice.IEC else NEC_NOT_YET
    peak = g.inrush * g.current_a
    if g.inrush <= 1 or peak <= lowest * found.breaker_a:
        return []
    other = next(
        (c for c, times in NOT_YET.items() if g.practice is Practice.IEC and peak <= times * found.breaker_a), None
    )
    return [
        Finding(
            "wire.inrush",
            Severity.FAULT,
            title="The breaker may trip at switch-on",
            reason=f"{quantity(peak, 'A', '.0f')} for some milliseconds, and it may open from "
            f"{quantity(lowest * found.breaker_a, 'A', '.0f')}.",
            fix=f"A {other} curve, with its lower limit for the fault loop, or a soft start."
            if other
            else "A soft start, or the load switched on in parts.",
            source="IEC 60898-1; NEC breakers from memory",
        )
    ]
