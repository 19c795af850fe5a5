"""What the solved currents and voltages are too much for: contacts, SSRs, elements, fuses, insulation."""

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...heating.elements import ELEMENT_KINDS
from ...units import Kind
from ..generate import SSR_SHARE
from ..insulation import INSULATIONS
from ..model import Part
from ..switching import OFF, ON
from .case import Case
from .supply import at_once

BARE_SSR_A = 5.0
"""What an SSR carries without a heat sink (common practice)."""
CONTACTS = (
    "relay",
    "contactor",
    "relay_module",
    "relay_module_low",
    "timer",
    "switch",
    "isolator",
    "limiter",
    "selector",
)
WITHIN = 0.10
HOT_C, PLAIN_C = 100.0, 90.0
"""From this working temperature a heater's terminals are too hot for insulation of up to this class (common practice)."""
SOURCE = "nodal analysis of the circuit with the output on"


def _current(part: Part, amps: float, rating: float) -> Figure:
    return Figure(
        f"current through {part.name}",
        amps,
        Kind.CURRENT,
        "Y v = i",
        (Input("its rating", rating, Kind.CURRENT, "I_n", "part"),),
        "With the output on.",
        SOURCE,
    )


def contacts(case: Case) -> list[Finding]:
    """No contact carries more than its rating."""
    found = []
    for part in case.wiring.of_kind(*CONTACTS):
        rating = part.number("contact_a" if part.type.family == "limiter" else "current_a", 1e9)
        amps = case.amps(part)
        if amps > rating * 1.001:
            found.append(
                Finding(
                    "wiring.contact-overload",
                    Severity.DANGER,
                    f"{amps:.1f} A through {part.name}, made for {rating:g} A",
                    "Its contacts overheat and weld: the one failure that leaves the heat on.",
                    "A larger one, or let it only switch the coil of a contactor.",
                    (part.name,),
                    (_current(part, amps, rating),),
                )
            )
    return found


def ssr_load(case: Case) -> list[Finding]:
    """An SSR is used at 70 % of its rating, and beyond 5 A it needs a heat sink."""
    found = []
    for ssr in case.wiring.of_kind("ssr"):
        rating, amps = ssr.number("current_a", 1e9), case.amps(ssr)
        if ssr.type.kind in ("ssr", "ssr_3p") and amps > SSR_SHARE * rating * 1.02:
            found.append(
                Finding(
                    "wiring.ssr-overload",
                    Severity.DANGER if amps > rating else Severity.FAULT,
                    f"{amps:.1f} A through {ssr.name}, a {rating:g} A type",
                    f"Use at most {SSR_SHARE * rating:.0f} A of it: warm, it stands less than is printed on it.",
                    "A larger SSR.",
                    (ssr.name,),
                    (_current(ssr, amps, rating),),
                    source="common practice, no source: 60–80 % of the rating",
                )
            )
        if ssr.ratings.get("sink") == "none" and amps > BARE_SSR_A:
            found.append(
                Finding(
                    "wiring.ssr-sink",
                    Severity.FAULT,
                    f"{ssr.name} has no heat sink",
                    f"At {amps:.1f} A it sheds about {1.2 * amps:.0f} W; bare it stands {BARE_SSR_A:g} A.",
                    "A heat sink; ask which under Parts.",
                    (ssr.name,),
                )
            )
        found += [*_input(case, ssr), *_dc_polarity(case, ssr)]
    return found


def _dc_polarity(case: Case, ssr: Part) -> list[Finding]:
    """A DC type conducts by its body diode, always, when its plus is at the minus."""
    if ssr.ratings.get("load_type") != "dc" or ssr.type.kind != "ssr":
        return []
    off = case.solved(OFF)
    across = off.dc.get(f"{ssr.name}.1", 0.0) - off.dc.get(f"{ssr.name}.2", 0.0)
    if {f"{ssr.name}.1", f"{ssr.name}.2"} & off.undefined or across > -1.0:
        return []
    return [
        Finding(
            "wiring.ssr-polarity",
            Severity.DANGER,
            f"{ssr.name}'s load side is reversed",
            "A DC type conducts through its own diode when its plus is at the minus: the heater never goes off.",
            f"Plus to {ssr.name}.1, the load to {ssr.name}.2.",
            (ssr.name,),
        )
    ]


def _input(case: Case, ssr: Part) -> list[Finding]:
    solved = case.solved(ON).loads.get(f"{ssr.name} input")
    if solved is None or "input_least_v" not in {r.name for r in ssr.type.ratings} or solved.volts < 0.5:
        return []
    usual = {r.name: float(r.usual) for r in ssr.type.ratings if r.kind is not None}
    least, most = (ssr.number(n, usual[n]) for n in ("input_least_v", "input_most_v"))
    if least <= solved.volts <= most:
        return []
    return [
        Finding(
            "wiring.ssr-input",
            Severity.FAULT if solved.volts < least else Severity.DANGER,
            f"{ssr.name}'s input gets {solved.volts:.1f} V",
            f"It needs {least:g}…{most:g} V: {'it may not turn on' if solved.volts < least else 'it burns'}.",
            "A drive of the right voltage, or an SSR for this one.",
            (ssr.name,),
        )
    ]


def star_balance(case: Case) -> list[Finding]:
    """Heaters of their own that share a star point must be alike, or the point must have its neutral."""
    on = case.solved(ON)
    singles = [h for h in case.heaters() if h.type.kind == "heater" and h.name in on.loads]
    return _leaning(case, singles) if case.wiring.of_kind("supply_3ph") else []


def _leaning(case: Case, heaters: list[Part]) -> list[Finding]:
    """Heaters that share a star point without neutral and are not alike."""
    if len(heaters) < 3:
        return []
    on = case.solved(ON)
    volts = [on.loads[h.name].volts for h in heaters]
    to_phase = case.context.supply_voltage_v / 3**0.5
    far = max(volts) - min(volts)
    if far < WITHIN * to_phase or max(volts) < 0.5 * to_phase:
        return []
    return [
        Finding(
            "wiring.star-unbalanced",
            Severity.FAULT,
            "The star without neutral is not balanced",
            f"Its elements get between {min(volts):.0f} and {max(volts):.0f} V, because they are not alike.",
            "Equal elements in every phase, or a neutral to the star point.",
            tuple(h.name for h in heaters),
        )
    ]


def inrush(case: Case) -> list[Finding]:
    """Lamps and PTC elements draw many times their current when cold: breakers open, contacts weld."""
    found = []
    for heater in case.heaters():
        kind = ELEMENT_KINDS.get(str(heater.ratings.get("element", "wire")))
        solved = case.solved(ON).loads.get(heater.name)
        if kind is None or solved is None or kind.inrush[1] < 2:
            continue
        peak = solved.amps * kind.inrush[1]
        for guard in case.wiring.of_kind("breaker", "fuse"):
            if case.amps(guard) < 0.9 * solved.amps or peak <= guard.number("current_a") * at_once(guard):
                continue
            found.append(
                Finding(
                    "wiring.inrush",
                    Severity.FAULT,
                    f"Cold, {heater.name} draws up to {peak:.0f} A: {guard.name} opens",
                    f"{kind.name} takes {kind.inrush[1]:g} times its current for about {kind.settles_s:g} s.",
                    "A slower breaker curve, a soft start, or elements switched one after another.",
                    (heater.name, guard.name),
                    source="data sheets, from memory",
                )
            )
    return found


def insulation(case: Case) -> list[Finding]:
    """Wires on hot terminals need insulation that stands it."""
    if case.context.working_c < HOT_C:
        return []
    heaters = {h.name for h in case.heaters()}
    return [
        Finding(
            "wiring.insulation",
            Severity.FAULT,
            f"Wire {w.number} is {INSULATIONS[w.insulation][0]} on a hot terminal",
            f"The heater works at {case.context.working_c:g} °C; its terminals are far above what this covering stands.",
            "Silicone, PTFE or glass up to the first cool terminal; nickel or stainless inside, no solder.",
            (f"wire {w.number}",),
            source="common practice, no source",
        )
        for w in case.wiring.connections
        if w.insulation
        and INSULATIONS[w.insulation][1] <= PLAIN_C
        and {w.a.partition(".")[0], w.b.partition(".")[0]} & heaters
    ]
