"""Every credible single failure of the parts and wires of a list, as a change to its circuit."""

from dataclasses import dataclass

from ..graph import Conduction
from ..model import Closed, ConnectionList, Part
from ..names import TerminalName, neutral_of, path_at, source_of, split
from .branches import AC_SUPPLIES, is_coil, part_sources, switches_dc
from .solution import Fault

PROBES = ("thermocouple", "pt100", "pt1000", "thermistor")
CONTROLLERS = ("controller_ssr", "controller_relay")
GUARDS = (
    *("estop", "door_switch", "flow_switch", "level_switch", "isolator"),
    *("cutout_manual", "cutout_auto", "thermal_fuse"),
)
"""Hand- and heat-operated parts that are there to stop the heat."""
TURNED = ("switch", "selector")
"""Parts that may stand either way while it heats."""
PRESSED = ("pushbutton", "estop_no")
"""Contacts that close while somebody presses."""
FRACTIONS = (0.25, 0.5)
"""Where along its length an element is taken to touch the case, besides its ends."""
READS_LOW, READS_HIGH = "reads too low", "reads too high"


@dataclass(frozen=True)
class Failure:
    """What can fail: a name to say it by, the part or wire, and what it does to the circuit. ``half``: what conducts by the
    fault does so only every other half-wave."""

    title: str
    subject: str
    fault: Fault
    half: bool = False


def failures(wiring: ConnectionList) -> tuple[Failure, ...]:
    """All of them, parts first."""
    found = [f for part in wiring.parts for f in _of_part(part, wiring.wired)]
    found += [f for probe in wiring.of_kind(*PROBES) for f in _of_sensor(wiring, probe)]
    found += [
        Failure(f"wire {w.number} comes off", w.name, Fault(opened=frozenset({w.name}))) for w in wiring.connections
    ]
    cases = wiring.of_kind("enclosure")
    for case in cases:
        called = "the case" if len(cases) == 1 else case.name
        found += [f for heater in wiring.of_kind("heater") for f in _to_case(heater, case.at("PE"), called)]
    return tuple(found)


def _of_part(part: Part, wired: frozenset[TerminalName]) -> list[Failure]:
    name, family, kind = part.name, part.type.family, part.type.kind

    def failure(words: str, fault: Fault, half: bool = False) -> Failure:
        return Failure(f"{name} {words}", name, fault, half)

    welded, gone, dead = (Fault(closed=frozenset({name})), Fault(opened=frozenset({name})), _unfed(part))
    if family == "ssr":
        half = [] if switches_dc(part) else [failure("conducts every other half-wave", welded, True)]
        return [failure("fails shorted", welded), failure("fails open", gone), *half]
    if is_coil(part) or family in ("relay_module", "relay_module_low"):
        return [failure("welds", welded), failure("does not pull in", dead)]
    if family in ("breaker", "fuse", "rcd"):
        stays = Fault(stuck=frozenset({name}), closed=frozenset({name}))
        return [failure("opens", gone), failure("does not open when it should", stays)]
    if family == "limiter":
        return [failure("does not open its contact", welded), failure("loses its supply", dead)]
    if family in CONTROLLERS:
        return [*_of_controller(part, wired), failure("loses its supply", dead)]
    if family == "logger":
        return [failure("loses its supply", dead)]
    if kind in PRESSED:
        return [failure("stays closed", Fault(joined=(_ends(part),))), failure("does not close", gone)]
    if kind == "selector":
        return _of_selector(part)
    if family in (*GUARDS, *TURNED, "plug"):
        return [failure("does not open", welded), failure("stays open", gone)]
    if family == "heater":
        return [failure("burns out", gone), *_shorted(part)]
    if family == "supply":
        return _of_supply(part)
    if family in ("regulator", "power_module"):
        return _of_rail(part)
    if family == "resistor":
        return [failure("burns out", gone)]
    return []


def _unfed(part: Part) -> Fault:
    """A part whose own coil or supply carries nothing, its contacts as at rest."""
    paths = {path_at(*way) for way in part.ways(Closed.LOAD)}
    if part.type.kind == "microcontroller":
        paths.add(path_at(part.at("RAW"), part.at("GND")))
    return Fault(opened=frozenset(paths))


def _of_controller(part: Part, wired: frozenset[TerminalName]) -> list[Failure]:
    """Its output either way, and its alarm contact where something hangs on it: stuck, or the option board not fitted."""
    name, one = part.name, frozenset({part.name})
    found = [
        Failure(f"{name} keeps its output on", name, Fault(calling=one)),
        Failure(f"{name} keeps its output off", name, Fault(quiet=one)),
    ]
    if any(p.closed is Closed.OUTPUT for p in part.type.paths):
        found.append(Failure(f"{name}'s relay welds", name, Fault(closed=one)))
    if (pin := part.at(part.cooling_pin)) in wired:
        found.append(Failure(f"{name} keeps its cooler on", name, Fault(joined=((pin, part.at("5V")),))))
        never = frozenset({source_of(name, "cooler")})
        found.append(Failure(f"{name} never calls its cooler", name, Fault(opened=never, gone=never)))
    for a, b in part.ways(Closed.ALARM):
        if {a, b} & wired:
            found.append(Failure(f"{name}'s alarm contact stays closed", name, Fault(joined=((a, b),))))
            words = f"{name}'s alarm contact never closes (or its option board is not fitted)"
            found.append(Failure(words, name, Fault(opened=frozenset({path_at(a, b)}))))
    return found


def _of_selector(part: Part) -> list[Failure]:
    found = []
    for a, b in (part.across(p) for p in part.type.paths):
        words = f"{split(a)[1]}–{split(b)[1]}"
        found += [
            Failure(f"{part.name} stays closed at {words}", part.name, Fault(joined=((a, b),))),
            Failure(f"{part.name} stays open at {words}", part.name, Fault(opened=frozenset({path_at(a, b)}))),
        ]
    return found


def _of_rail(part: Part) -> list[Failure]:
    """A rail that is gone; of a regulator also one that lets its whole input through."""
    found = [Failure(f"{part.name} gives nothing", part.name, Fault(gone=frozenset({part.name})))]
    if part.type.kind == "regulator":
        through = ((part.at("VIN+"), part.at("OUT+")),)
        fault = Fault(joined=through, gone=frozenset({part.name}))
        found.append(Failure(f"{part.name} lets its input through", part.name, fault))
    return found


def _shorted(heater: Part) -> list[Failure]:
    return [Failure(f"{heater.name} is shorted", heater.name, Fault(joined=(_ends(heater),)))]


def _ends(part: Part) -> tuple[TerminalName, TerminalName]:
    """The first two terminals of a part."""
    first, second = part.ends[:2]
    return first, second


def _of_supply(supply: Part) -> list[Failure]:
    """A lost phase where there are several, and a lost neutral: over-voltage where it was shared."""
    found = []
    lives = part_sources(supply)
    if len(lives) > 1:
        found += [
            Failure(f"{s.name} is lost", supply.name, Fault(opened=frozenset({s.name}), gone=frozenset({s.name})))
            for s in lives
        ]
    if supply.type.kind in AC_SUPPLIES and supply.type.terminal("N"):
        name = neutral_of(supply.name)
        found.append(Failure(f"{name} is lost", supply.name, Fault(opened=frozenset({name}))))
    return found


def _of_sensor(wiring: ConnectionList, probe: Part) -> list[Failure]:
    """What a probe can tell that is not so. Too low: its controller heats on and its limiter never trips, both where they
    share it. Too high: neither heats. Which of them an open or shorted sensor shows depends on its kind, and where it is open
    on what the instrument is set to."""
    readers = {split(t)[0] for t in Conduction(wiring).reach(probe.ends[:1])}
    limiters = frozenset(p.name for p in wiring.of_kind("limiter") if p.name in readers)
    if any(p.name in readers for p in wiring.of_kind("converter")):
        readers |= {p.name for p in wiring.of_kind("microcontroller")}
    controllers = frozenset(p.name for p in wiring.of_kind(*CONTROLLERS) if p.name in readers)
    low, high = Fault(calling=controllers, blind=limiters), Fault(quiet=controllers, tripped=limiters)

    def failure(words: str, fault: Fault) -> Failure:
        return Failure(f"{probe.name} {words}", probe.name, fault)

    found = [failure(f"slips out or {READS_LOW}", low), failure(READS_HIGH, high)]
    if probe.type.family == "thermocouple":
        found += [failure(f"is shorted along its cable: {READS_LOW}", low), failure(f"is reversed: {READS_LOW}", low)]
    elif probe.type.family == "thermistor":
        found += [failure(f"is shorted: {READS_HIGH}", high)]
    else:
        found += [failure(f"is shorted: {READS_LOW}", low)]
    return [
        *found,
        failure(f"is open, and the instrument {READS_LOW}", low),
        failure(f"is open, and the instrument {READS_HIGH}", high),
    ]


def _to_case(heater: Part, case: TerminalName, called: str) -> list[Failure]:
    found = []
    for end in heater.ends:
        title = f"{heater.name} touches {called} at {split(end)[1]}"
        found.append(Failure(title, heater.name, Fault(joined=((end, case),))))
    for fraction in FRACTIONS:
        title = f"{heater.name} touches {called} {fraction:.0%} along"
        found.append(Failure(title, heater.name, Fault(tapped=((heater.name, fraction, case),))))
    return found
