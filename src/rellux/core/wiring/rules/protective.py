"""Protection of people and things: earth, overcurrent protection, the independent limiter and its place."""

from ...findings import Finding, Proposal, Severity
from ..circuit.solution import Fault
from ..model import Part, split
from ..switching import ON
from .case import Case
from .control import NO_HEAT

EXTRA_LOW_VOLTAGE_AC, EXTRA_LOW_VOLTAGE_DC = 50.0, 120.0


def earth(case: Case) -> list[Finding]:
    """A metal enclosure must reach the supply's earth by wire alone, unless the supply is extra-low voltage."""
    supplies = case.wiring.of_kind("supply")
    if is_extra_low(case):
        return []
    earths = [f"{s.name}.PE" for s in supplies if s.type.terminal("PE")]
    bonded = case.conduction.reach(earths)
    return [
        Finding(
            "wiring.earth",
            Severity.DANGER,
            f"{part.name} is not earthed",
            "One loose live wire would put mains on the metal, and nothing would trip.",
            f"Run an earth wire from {earths[0] if earths else 'the supply earth'} to {part.name}.PE, unbroken.",
            (part.name,),
            proposal=Proposal("wiring.connect", f"{earths[0]}>{part.name}.PE", "Add the earth wire")
            if earths
            else None,
            source="IEC 60364-4-41; NEC 250",
        )
        for part in case.wiring.of_kind("enclosure")
        if f"{part.name}.PE" not in bonded
    ]


def is_extra_low(case: Case) -> bool:
    """Whether the supply's voltage is too low to hurt by touch."""
    direct = all(s.type.kind == "supply_dc" for s in case.wiring.of_kind("supply"))
    return case.context.supply_voltage_v <= (EXTRA_LOW_VOLTAGE_DC if direct else EXTRA_LOW_VOLTAGE_AC)


def overcurrent(case: Case) -> list[Finding]:
    """Every way from the live pole to a heater must pass a breaker or fuse."""
    unprotected = case.reach_live(lambda part, closed, breaks: breaks)
    return [
        Finding(
            "wiring.overcurrent",
            Severity.DANGER,
            f"No breaker ahead of {heater.name}",
            "A short in the heater or its wire would be limited only by the supply: the wire burns first.",
            "Put a breaker or fuse in the live conductor ahead of everything.",
            (heater.name,),
            source="IEC 60364-4-43; NEC 240",
        )
        for heater in case.heaters()
        if case.touches(heater, unprotected)
    ]


def limiter(case: Case) -> list[Finding]:
    """There should be an independent limiter, and tripping it must take the heat away whatever the output does."""
    if case.heaters() and not case.wiring.of_kind("limiter"):
        return [
            Finding(
                "wiring.limiter",
                Severity.DANGER,
                "Nothing independent stops the heater",
                "A welded relay or a shorted SSR leaves the heat on, and the controller can only watch.",
                "Fit a limiter with its own sensor that drops a contactor ahead of the heater.",
                (),
                proposal=Proposal("parts.limiter", True, "Add an independent limiter"),
                source="common practice; EN 60519-2, from memory",
            )
        ]
    # The worst case: the actuator has failed closed. Every contact but the limiter's own chain conducts.
    found = []
    for heater in case.heaters():
        if _heats_with_welded_actuator(case, heater):
            found.append(
                Finding(
                    "wiring.limiter-place",
                    Severity.DANGER,
                    f"The limiter cannot stop {heater.name}",
                    "With the actuator welded and the limiter tripped, the heater still has both poles.",
                    "Put the limiter's contactor in the live conductor of the heater, its coil through COM and OK.",
                    (heater.name, *(p.name for p in case.wiring.of_kind("limiter"))),
                    source="single-fault reasoning",
                )
            )
    found.extend(_shared_sensor(case))
    return found


def _heats_with_welded_actuator(case: Case, heater: Part) -> bool:
    """Solve with the limiter tripped and every actuator that the controller commands stuck closed."""
    found = case.tripped_with_welded_actuator.loads.get(heater.name)
    full = max(case.share(heater, ON), NO_HEAT) * heater.number("power_w", 1000.0)
    return found is not None and found.watts > NO_HEAT * full


def _shared_sensor(case: Case) -> list[Finding]:
    found = []
    for probe in case.wiring.of_kind("thermocouple", "pt100", "pt1000", "thermistor"):
        first = probe.type.terminals[0].name
        joined = {split(t)[0] for t in case.conduction.reach([f"{probe.name}.{first}"])}
        users = [
            p.name
            for p in case.wiring.of_kind("limiter", "controller_relay", "controller_ssr", "converter")
            if p.name in joined
        ]
        if len(users) > 1:
            found.append(
                Finding(
                    "wiring.limiter-sensor",
                    Severity.DANGER,
                    "Limiter and controller share one sensor",
                    f"If {probe.name} slips out, both read too low together and the heat stays on.",
                    "Give the limiter a sensor of its own.",
                    (probe.name, *users),
                )
            )
    return found


def each_zone(case: Case) -> list[Finding]:
    """Several heaters with controllers of their own need as many limiters, or one that feels them all."""
    on = case.solved(ON).on
    zones = [
        p for p in case.wiring.of_kind("controller_relay", "controller_ssr") if p.name in on and _commands(case, p)
    ]
    limiters = case.wiring.of_kind("limiter")
    if len(zones) < 2 or not limiters or len(limiters) >= len(zones):
        return []
    count = f"{len(limiters)} limiter{'s' if len(limiters) > 1 else ''}"
    return [
        Finding(
            "wiring.limiter-zones",
            Severity.ADVICE,
            f"{count} for {len(zones)} controllers that heat",
            "A limiter trips by the temperature where its own sensor sits: a zone that runs away elsewhere, it does not feel.",
            "A limiter for each zone, each dropping the contactor; or a sensor where the hottest of them shows.",
            tuple(p.name for p in (*limiters, *zones)),
            source="common practice, no source",
        )
    ]


def _commands(case: Case, controller: Part) -> bool:
    """Whether some heater gets less when this controller alone loses its supply."""
    left = case.circuit.heat(ON, Fault(opened=frozenset({controller.name})), case.solved(ON).on).total_w
    return left < (1.0 - NO_HEAT) * case.circuit.heat(ON, start=case.solved(ON).on).total_w
