"""Protection of people and things: overcurrent protection, the independent limiter and its place, guards that guard."""

from ...findings import Finding, Proposal, Severity
from ...heating.conductors import ampacity
from ..circuit.judge import HOT, LAST_RESORTS
from ..circuit.solution import Fault
from ..model import Circuit, Closed, Part, Role
from ..names import TerminalName
from ..switching import ON, TRIPPED
from .case import Case

EXTRA_LOW_VOLTAGE_AC, EXTRA_LOW_VOLTAGE_DC = 50.0, 120.0
"""Volts up to which a supply does not hurt by touch (IEC 61140, from memory)."""
CONTROLLERS = ("controller_relay", "controller_ssr")
SELF_LIMITING = ("regulator", "power_module")
"""Sources that give no more than their own rating, whatever is ahead of them."""


def is_extra_low(case: Case) -> bool:
    """Whether the voltage of every supply is too low to hurt by touch."""
    return all(stays_low(s, case.context.supply_voltage_v) for s in case.wiring.of_kind("supply"))


def stays_low(supply: Part, usual_v: float) -> bool:
    """Whether a supply’s voltage is too low to hurt by touch; ``usual_v`` of one that does not say."""
    most = EXTRA_LOW_VOLTAGE_DC if supply.type.kind == "supply_dc" else EXTRA_LOW_VOLTAGE_AC
    return supply.number("voltage_v", usual_v) <= most


def hurting_heaters(case: Case) -> list[Part]:
    """Heaters that a supply can reach which hurts by touch."""
    usual = case.context.supply_voltage_v
    lives = [
        end
        for s in case.wiring.of_kind("supply")
        if not stays_low(s, usual)
        for end in s.acting_as(Role.LIVE, Role.DC_PLUS)
    ]
    reached = case.conduction.reach(lives, case.contacts())
    return [h for h in case.heaters() if case.touches(h, reached)]


def overcurrent(case: Case) -> list[Finding]:
    """Every way from a live pole to a load passes a breaker or fuse; an earth-leakage breaker is none. A DC supply that gives
    no more than its thinnest unprotected wire stands needs none."""
    bare = case.reach_live(
        lambda part, closed, breaks: part.type.family in ("breaker", "fuse") or part.type.kind in SELF_LIMITING
    )
    loads = [p for p in case.wiring.parts if any(end in bare for way in p.ways(Closed.LOAD) for end in way)]
    if not loads or _limits_itself(case, bare):
        return []
    names = ", ".join(p.name for p in loads)
    return [
        Finding(
            "wiring.overcurrent",
            Severity.DANGER,
            title=f"No breaker or fuse ahead of {names}",
            reason=(
                "A short there would be limited only by the supply: the wire "
                "burns first. An earth-leakage breaker does not help."
            ),
            fix="Put a breaker or fuse in the live conductor ahead of everything.",
            subjects=tuple(p.name for p in loads),
            source="IEC 60364-4-43; NEC 240",
        )
    ]


def _limits_itself(case: Case, bare: frozenset[TerminalName]) -> bool:
    """Whether the only supplies are DC supplies that every unprotected wire stands."""
    supplies = case.wiring.of_kind("supply")
    if not supplies or any(s.type.kind != "supply_dc" for s in supplies):
        return False
    thinnest = [
        ampacity(w.area_mm2, case.context.practice, case.context.cores)
        for w in case.wiring.connections
        if {w.a, w.b} <= bare and w.circuit in (Circuit.POWER, Circuit.CONTROL)
    ]
    return bool(thinnest) and sum(s.number("current_a", 1e9) for s in supplies) <= min(thinnest)


def limiter(case: Case) -> list[Finding]:
    """There should be something independent that takes the heat away, and tripping it must do so whatever the output does."""
    last = case.wiring.of_kind(*LAST_RESORTS)
    if case.heaters() and not case.wiring.of_kind("limiter") and not all(_last_resort(case, h) for h in case.heaters()):
        return [
            Finding(
                "wiring.limiter",
                Severity.DANGER,
                title=f"Nothing independent stops the {case.driven.noun}",
                reason=f"A welded relay or a shorted SSR leaves the {case.driven.effect} on, and the controller can only watch.",
                fix=f"Fit a limiter with its own sensor that drops a contactor ahead of the {case.driven.noun}.",
                subjects=tuple(p.name for p in last),
                figures=(),
                proposal=Proposal("parts.limiter", True, label="Add an independent limiter"),
                source="common practice; EN 60519-2, from memory",
            )
        ]
    limiters = case.wiring.of_kind("limiter")
    found = []
    for heater in case.heaters() if limiters else ():
        past = case.let_past(TRIPPED, heater)
        if past is None or _last_resort(case, heater):
            continue
        through, words = past
        when = f", with {words}," if words else ""
        found.append(
            Finding(
                "wiring.limiter-place",
                Severity.DANGER,
                title=f"The limiter cannot stop {heater.name}",
                reason=f"With {through} stuck closed and the limiter tripped{when} the {case.driven.noun} still has both poles."
                if through
                else f"With the limiter tripped{when} the {case.driven.noun} still has both poles.",
                fix=f"Put the limiter's contactor in the live conductor of the {case.driven.noun}, its coil through COM and OK.",
                subjects=(heater.name, *(p.name for p in limiters)),
                source="single-fault reasoning",
            )
        )
    return [*found, *_shared_sensor(case)]


def _last_resort(case: Case, heater: Part) -> bool:
    """Whether a thermal fuse or a cut-out with manual reset takes this heater's power away, whatever the controller does."""
    least = HOT * heater.number("power_w", 1000.0)
    for guard in case.wiring.of_kind(*LAST_RESORTS):
        position = case.moved(ON, guard.name)
        heated = case.circuit.heat(ON, start=case.circuit.running(ON)).watts[heater.name] > least
        if heated and case.let_past(position, heater) is None:
            return True
    return False


def _shared_sensor(case: Case) -> list[Finding]:
    found = []
    for probe in case.wiring.of_kind("thermocouple", "pt100", "pt1000", "thermistor"):
        joined = case.parts_at(probe.ends[0])
        users = [p for p in case.wiring.of_kind("limiter", *CONTROLLERS, "converter") if p.name in joined]
        if len(users) < 2:
            continue
        limited = any(p.type.family == "limiter" for p in users)
        found.append(
            Finding(
                "wiring.limiter-sensor" if limited else "wiring.shared-sensor",
                Severity.DANGER if limited else Severity.FAULT,
                title="Limiter and controller share one sensor"
                if limited
                else f"{' and '.join(p.name for p in users)} share one sensor",
                reason=f"If {probe.name} slips out, both read wrong together and the {case.driven.effect} stays on."
                if limited
                else f"Both inputs feed a current into {probe.name} and disturb each other; if it fails, both are wrong.",
                fix="Give the limiter a sensor of its own." if limited else "A sensor for each, or a double one.",
                subjects=(probe.name, *(p.name for p in users)),
                source="" if limited else "common practice, no source",
            )
        )
    return found


def each_zone(case: Case) -> list[Finding]:
    """Several heaters with controllers of their own need as many limiters, or one that feels them all."""
    on = case.solved(ON).on
    zones = [p for p in case.wiring.of_kind(*CONTROLLERS) if p.name in on and _commands(case, p)]
    limiters = case.wiring.of_kind("limiter")
    if len(zones) < 2 or not limiters or len(limiters) >= len(zones):
        return []
    count = f"{len(limiters)} limiter{'s' if len(limiters) > 1 else ''}"
    return [
        Finding(
            "wiring.limiter-zones",
            Severity.ADVICE,
            title=f"{count} for {len(zones)} controllers that {case.driven.do}",
            reason=(
                "A limiter trips by the temperature where its own sensor sits: "
                "a zone that runs away elsewhere, it does not feel."
            ),
            fix="A limiter for each zone, each dropping the contactor; or a sensor where the hottest of them shows.",
            subjects=tuple(p.name for p in (*limiters, *zones)),
            source="common practice, no source",
        )
    ]


def _commands(case: Case, controller: Part) -> bool:
    """Whether some heater gets less when this controller never calls."""
    start = case.solved(ON).on
    left = case.circuit.heat(ON, Fault(quiet=frozenset({controller.name})), start).total_w
    return left < (1.0 - HOT) * case.circuit.heat(ON, start=start).total_w


GUARDED_BY = {
    "estop": ("An emergency stop", Severity.DANGER),
    "flow_switch": ("A flow switch", Severity.DANGER),
    "level_switch": ("A level switch", Severity.DANGER),
    "thermal_fuse": ("A thermal fuse", Severity.DANGER),
    "cutout_manual": ("A cut-out", Severity.DANGER),
    "cutout_auto": ("A cut-out", Severity.DANGER),
    "door_switch": ("A door switch", Severity.FAULT),
    "isolator": ("A switch-disconnector", Severity.DANGER),
}
"""Guards in words, and how bad it is when one stops nothing."""


def guards(case: Case) -> list[Finding]:
    """A guard must take the heat away, and not only through what the controller switches as well."""
    found = []
    for idle in case.idle_guards:
        part, heaters = case.wiring.part(idle.guard), " and ".join(idle.heaters)
        words, severity = GUARDED_BY[part.type.kind]
        when = f" with {idle.words}" if idle.words else ""
        found.append(
            Finding(
                "wiring.guard",
                severity if not idle.through or severity is not Severity.DANGER else Severity.FAULT,
                title=f"{part.name} does not stop {heaters}{when}"
                if not idle.through
                else f"{part.name} stops {heaters} only through {idle.through}{when}",
                reason=f"{words} that is bridged, or sits where it takes no power away, guards nothing."
                if not idle.through
                else f"The controller switches {idle.through} too, hundreds of times a day: stuck closed, {words.lower()} that "
                "opens takes nothing away.",
                fix=f"Put its contact in series with the coil of a contactor ahead of the {case.driven.noun}, behind the limiter's.",
                subjects=(part.name, *idle.heaters, *filter(None, (idle.through,))),
                source="IEC 60204-1, from memory; single-fault reasoning",
            )
        )
    return found
