"""What the solved currents and voltages are too much for: contacts, SSRs, elements, fuses, insulation."""

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...heating.elements import ELEMENT_KINDS
from ...heating.switches import ssr_dissipation
from ...messages import quantity, span, temperature
from ...units import Kind
from ..choice import SSR_SHARE
from ..circuit.branches import switches_dc, wire_branch
from ..circuit.solution import Fault, Solution
from ..driven import BLOWING, COOLING
from ..insulation import HOT_C, INSULATIONS
from ..kinds.loads import BESIDE
from ..model import Circuit, Closed, Part
from ..names import Family, input_of, path_at
from ..switching import OFF, ON
from .case import RAILS, Case
from .power import PILOT_RATING_A, SAME, stands_on_ac
from .supply import at_once

BARE_SSR_A = 5.0
"""What an SSR carries without a heat sink (common practice)."""
UNRATED: tuple[Family, ...] = ("breaker", "fuse", "plug", "supply", "ssr")
"""Families whose current is judged by a rule of their own."""
OVER = 1.02
"""How far beyond the usable share of an SSR's rating a current is said (our choice: rounding)."""
IDLE_V = 0.5
"""Volts below which a control input is not driven at all, which is said elsewhere (our choice)."""
STANDS_ON = 0.5
"""Share of the phase voltage from which elements stand on their phases at all (our choice)."""
FEEDS = 0.9
"""Share of a heater's current from which a breaker is the one that feeds it (our choice)."""
WITHIN = 0.10
"""How far voltages may be apart, or beyond a rating, as a share (common practice, no source)."""
PLAIN_C = 90.0
"""Insulation of up to this class does not stand a hot heater's terminals (common practice, no source)."""
SOURCE = "nodal analysis of the circuit with the output on"


def _current(part: Part, amps: float, rating: float) -> Figure:
    return Figure(
        f"current through {part.name}",
        amps,
        Kind.CURRENT,
        formula="Y v = i",
        inputs=(Input("its rating", rating, Kind.CURRENT, "I_n", "part"),),
        reason="With the output on.",
        source=SOURCE,
    )


def contacts(case: Case) -> list[Finding]:
    """No contact or terminal carries more than its rating, wherever switches, selectors and the alarm stand."""
    found = []
    for part in case.wiring.parts:
        rating = _contact_rating(part)
        if part.type.family in UNRATED or rating is None or part.type.family == "controller_relay":
            continue
        amps = case.most_amps(part)
        if amps > rating * SAME:
            carries = part.type.family in RAILS
            found.append(
                Finding(
                    "wiring.contact-overload",
                    Severity.FAULT if carries else Severity.DANGER,
                    title=f"{quantity(amps, 'A', '.1f')} through {part.name}, made for {quantity(rating, 'A')}",
                    reason="Its screws and links overheat."
                    if carries
                    else f"Its contacts overheat and weld: the one failure that leaves the {case.driven.effect} on.",
                    fix="A larger one, or two side by side on different circuits."
                    if carries
                    else "A larger one, or let it only switch the coil of a contactor.",
                    subjects=(part.name,),
                    figures=(_current(part, amps, rating),),
                )
            )
    return [*found, *_alarm_contacts(case)]


def _contact_rating(part: Part) -> float | None:
    """What a part's contacts are made for, A; None where nothing says."""
    usual = {r.name: r.usual for r in part.type.ratings}
    name = next((n for n in ("contact_a", "current_a") if n in usual), None)
    return part.number(name, float(usual[name])) if name else None


def _alarm_contacts(case: Case) -> list[Finding]:
    """An alarm contact is a pilot like the output's own."""
    found = []
    for part in case.wiring.of_kind("controller_relay", "controller_ssr"):
        for way in part.ways(Closed.ALARM):
            at = path_at(*way)
            amps = max((s.paths[at].amps for _, s in case.everywhere if at in s.paths), default=0.0)
            rating = part.number("contact_a", PILOT_RATING_A)
            if amps > rating * SAME:
                found.append(
                    Finding(
                        "wiring.contact-overload",
                        Severity.DANGER,
                        title=(
                            f"{quantity(amps, 'A', '.1f')} through {part.name}'s "
                            f"alarm contact, made for {quantity(rating, 'A')}"
                        ),
                        reason="Its contacts overheat and weld: the alarm then says nothing any more.",
                        fix="Let it only switch the coil of a relay or contactor.",
                        subjects=(part.name,),
                        figures=(_current(part, amps, rating),),
                    )
                )
    return found


def source_load(case: Case) -> list[Finding]:
    """A DC supply, module or regulator gives what hangs on it, and no more than its rating."""
    found = []
    for source in case.wiring.of_kind("supply_dc", "power_module", "regulator"):
        supply = source.type.family == "supply"
        if supply and "current_a" not in source.ratings:
            continue  # nobody said what it gives
        rating = source.number("current_a") if supply else source.number("output_a", 1.0)
        amps = max((_given(case, source, s) for _, s in case.everywhere if not s.tripped), default=0.0)
        if amps > rating * SAME:
            found.append(
                Finding(
                    "wiring.rail-budget" if source.type.family != "supply" else "wiring.supply-load",
                    Severity.FAULT,
                    title=f"{source.name} would give {quantity(amps, 'A', '.3g')} of its {quantity(rating, 'A')}",
                    reason="It overheats or folds back: boards reset, contactors chatter, and outputs go where they please.",
                    fix="A larger one, or one of its own for what takes most.",
                    subjects=(source.name,),
                    figures=(_current(source, amps, rating),),
                )
            )
    return found


def _given(case: Case, source: Part, solved: Solution) -> float:
    """What flows out of a source's plus, by its wires."""
    plus = source.at("+" if source.type.family == "supply" else "OUT+")
    return abs(
        sum(
            (solved.dc.get(w.a, 0.0) - solved.dc.get(w.b, 0.0)) * (1 if w.a == plus else -1) / wire_branch(w).ohm
            for w in case.wires_at(plus)
        )
    )


def voltage_ratings(case: Case) -> list[Finding]:
    """A fuse must break, and a plug or suppressor stand, the voltage it is at."""
    found = []
    for part in case.wiring.of_kind("fuse", "plug", "snubber"):
        rating = part.number("voltage_v", 250.0)
        volts = _stands(case, part)
        if volts > rating * (1.0 + WITHIN):
            found.append(
                Finding(
                    "wiring.voltage-rating",
                    Severity.DANGER if part.type.family == "fuse" else Severity.FAULT,
                    title=f"{part.name} is at {quantity(volts, 'V', '.0f')} and made for {quantity(rating, 'V')}",
                    reason="A fuse beyond its voltage goes on burning as an arc."
                    if part.type.family == "fuse"
                    else "Its insulation breaks down sooner or later.",
                    fix=f"One for {quantity(volts, 'V', '.0f')} or more.",
                    subjects=(part.name,),
                    source="IEC 60269, IEC 60309; from memory",
                )
            )
    return found


def _stands(case: Case, part: Part) -> float:
    """Volts across an open fuse, between the poles of a plug, across a suppressor: the most it has to stand."""
    a, b = part.ends[:2]
    if part.type.family == "fuse":
        solved = case.solved(ON, Fault(opened=frozenset({part.name})))
        return solved.between(a, b) or max(solved.to_earth(a) or 0.0, solved.to_earth(b) or 0.0)
    if part.type.family == "plug":
        solved = case.solved(OFF)
        return solved.between(part.at("1"), part.at("3")) or 0.0
    return max((s.between(a, b) or 0.0 for _, s in case.everywhere), default=0.0)


def ssr_load(case: Case) -> list[Finding]:
    """An SSR is used at 70 % of its rating, and beyond 5 A it needs a heat sink."""
    found = []
    for ssr in case.wiring.of_kind("ssr"):
        rating, amps = ssr.number("current_a", _usual_amps(ssr)), case.most_amps(ssr)
        if ssr.type.kind in ("ssr", "ssr_3p") and amps > SSR_SHARE * rating * OVER:
            found.append(
                Finding(
                    "wiring.ssr-overload",
                    Severity.DANGER if amps > rating else Severity.FAULT,
                    title=f"{quantity(amps, 'A', '.1f')} through {ssr.name}, a {quantity(rating, 'A')} type",
                    reason=(
                        f"Use at most {quantity(SSR_SHARE * rating, 'A', '.0f')} of "
                        "it: warm, it stands less than is printed on it."
                    ),
                    fix="A larger SSR.",
                    subjects=(ssr.name,),
                    figures=(_current(ssr, amps, rating),),
                    source="common practice, no source: 60–80 % of the rating",
                )
            )
        elif ssr.type.kind not in ("ssr", "ssr_3p") and amps > rating * SAME:
            found.append(
                Finding(
                    "wiring.ssr-overload",
                    Severity.DANGER,
                    title=f"{quantity(amps, 'A', '.1f')} through {ssr.name}, made for {quantity(rating, 'A')}",
                    reason=f"It overheats and fails, shorted as a rule: the {case.driven.effect} then stays on.",
                    fix="A larger one.",
                    subjects=(ssr.name,),
                    figures=(_current(ssr, amps, rating),),
                )
            )
        if ssr.ratings.get("sink") == "none" and amps > BARE_SSR_A:
            found.append(
                Finding(
                    "wiring.ssr-sink",
                    Severity.FAULT,
                    title=f"{ssr.name} has no heat sink",
                    reason=f"At {quantity(amps, 'A', '.1f')} it sheds about {quantity(ssr_dissipation(amps).value, 'W', '.0f')}; "
                    f"bare it stands {quantity(BARE_SSR_A, 'A')}.",
                    fix="A heat sink; ask which under Parts.",
                    subjects=(ssr.name,),
                )
            )
        found += [*_input(case, ssr), *_dc_polarity(case, ssr)]
    return found


def _usual_amps(ssr: Part) -> float:
    """What a generic one is made for, A."""
    return next(float(r.usual) for r in ssr.type.ratings if r.name == "current_a")


def _dc_polarity(case: Case, ssr: Part) -> list[Finding]:
    """A DC type conducts by its own diode, always, when its plus is at the minus."""
    if ssr.name not in case.circuit.uncontrolled or not switches_dc(ssr) or stands_on_ac(case, ssr):
        return []
    plus, minus = ("VIN+", "VIN-") if ssr.type.kind == "mosfet" else ("1", "2")
    return [
        Finding(
            "wiring.ssr-polarity",
            Severity.DANGER,
            title=f"{ssr.name}'s load side is reversed",
            reason=f"A DC type conducts through its own diode when its plus is at the minus: the {case.driven.noun} never goes off.",
            fix=f"Plus to {ssr.name}.{plus}, minus to {ssr.name}.{minus}.",
            subjects=(ssr.name,),
        )
    ]


def _input(case: Case, ssr: Part) -> list[Finding]:
    solved = case.solved(ON).loads.get(input_of(ssr.name))
    if solved is None or "input_least_v" not in {r.name for r in ssr.type.ratings} or solved.volts < IDLE_V:
        return []
    usual = {r.name: float(r.usual) for r in ssr.type.ratings if r.kind is not None}
    least, most = (ssr.number(n, usual[n]) for n in ("input_least_v", "input_most_v"))
    if least <= solved.volts <= most:
        return []
    return [
        Finding(
            "wiring.ssr-input",
            Severity.FAULT if solved.volts < least else Severity.DANGER,
            title=f"{ssr.name}'s input gets {quantity(solved.volts, 'V', '.1f')}",
            reason=f"It needs {span(least, most, 'V')}: {'it may not turn on' if solved.volts < least else 'it burns'}.",
            fix="A drive of the right voltage, or an SSR for this one.",
            subjects=(ssr.name,),
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
    if far < WITHIN * to_phase or max(volts) < STANDS_ON * to_phase:
        return []
    return [
        Finding(
            "wiring.star-unbalanced",
            Severity.FAULT,
            title="The star without neutral is not balanced",
            reason=f"Its elements get {span(min(volts), max(volts), 'V', '.0f')}, because they are not alike.",
            fix="Equal elements in every phase, or a neutral to the star point.",
            subjects=tuple(h.name for h in heaters),
        )
    ]


STARTS_S = 0.5
"""A small motor is up to speed after so long, s (typical, from memory)."""


def at_start(load: Part) -> tuple[str, float, float]:
    """What it is, how many times its current it takes when it comes on, and for how long, s."""
    if load.type.kind in (*COOLING, BESIDE):
        return "A compressor", load.number("start_times", 5.0), STARTS_S
    if load.type.kind in BLOWING:
        return "A fan", load.number("start_times", 3.0), STARTS_S
    kind = ELEMENT_KINDS.get(str(load.ratings.get("element", "wire")))
    return ("", 1.0, 0.0) if kind is None else (kind.name, kind.inrush[1], kind.settles_s)


def inrush(case: Case) -> list[Finding]:
    """Lamps and PTC elements draw many times their current when cold, motors when they start: breakers open, contacts weld."""
    found = []
    for heater in (*case.heaters(), *case.wiring.of_kind(BESIDE)):
        alone = [s.loads[heater.name] for _, s in case.everywhere if heater.name in s.loads and not heater.heats]
        solved = (
            case.solved(ON).loads.get(heater.name) if heater.heats else max(alone, key=lambda s: s.amps, default=None)
        )
        what, times, seconds = at_start(heater)
        if solved is None or times < 2:
            continue
        peak = solved.amps * times
        for guard in case.wiring.of_kind("breaker", "fuse"):
            if case.most_amps(guard) < FEEDS * solved.amps or peak <= guard.number("current_a") * at_once(guard):
                continue
            found.append(
                Finding(
                    "wiring.inrush",
                    Severity.FAULT,
                    title=f"At first {heater.name} draws up to {quantity(peak, 'A', '.0f')}: {guard.name} opens",
                    reason=f"{what} takes {times:g} times its current for about {quantity(seconds, 's')}.",
                    fix="A slower breaker curve, a soft start, or elements switched one after another.",
                    subjects=(heater.name, guard.name),
                    source="data sheets, from memory",
                )
            )
    return found


def insulation(case: Case) -> list[Finding]:
    """Wires on hot terminals need insulation that stands it."""
    if case.context.working_c < HOT_C:
        return []
    heaters = {h.name for h in case.heaters()}
    unsaid = [
        w for w in case.wiring.connections if not w.insulation and w.circuit is Circuit.POWER and w.parts & heaters
    ]
    asked = [
        Finding(
            "wiring.insulation-unsaid",
            Severity.ADVICE,
            title=f"What covers the wires at {' and '.join(sorted(heaters))}?",
            reason=f"The heater works at {temperature(case.context.working_c)}, and plain covering softens on its terminals.",
            fix="Say what covers them: silicone, PTFE or glass up to the first cool terminal.",
            subjects=tuple(w.name for w in unsaid),
            source="common practice, no source",
        )
    ]
    return (asked if unsaid else []) + [
        Finding(
            "wiring.insulation",
            Severity.FAULT,
            title=f"Wire {w.number} is {INSULATIONS[w.insulation][0]} on a hot terminal",
            reason=(
                f"The heater works at {temperature(case.context.working_c)}; "
                "its terminals are far above what this covering stands."
            ),
            fix="Silicone, PTFE or glass up to the first cool terminal; nickel or stainless inside, no solder.",
            subjects=(w.name,),
            source="common practice, no source",
        )
        for w in case.wiring.connections
        if w.insulation and INSULATIONS[w.insulation][1] <= PLAIN_C and w.parts & heaters
    ]
