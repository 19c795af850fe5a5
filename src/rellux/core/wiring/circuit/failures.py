"""Every credible single failure of the parts and wires of a list, as a change to its circuit."""

from dataclasses import dataclass

from ..graph import Conduction
from ..model import ConnectionList, Part, split
from .branches import AC_SUPPLIES, part_sources
from .solution import Fault

PROBES = ("thermocouple", "pt100", "pt1000", "thermistor")
HAND = (
    "switch",
    "isolator",
    "estop",
    "door_switch",
    "flow_switch",
    "cutout_manual",
    "cutout_auto",
    "thermal_fuse",
    "selector",
)
PRESSED = ("pushbutton", "estop_no")
"""Contacts that close while somebody presses."""
FRACTIONS = (0.25, 0.5)
"""Where along its length an element is taken to touch the case, besides its ends."""


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
    found = [f for part in wiring.parts for f in _of_part(part)]
    found += [f for probe in wiring.of_kind(*PROBES) for f in _of_sensor(wiring, probe)]
    found += [
        Failure(f"wire {w.number} comes off", f"wire {w.number}", Fault(opened=frozenset({f"wire {w.number}"})))
        for w in wiring.connections
    ]
    case = next((f"{p.name}.PE" for p in wiring.of_kind("enclosure")), None)
    if case:
        found += [f for heater in wiring.of_kind("heater") for f in _to_case(heater, case)]
    return tuple(found)


def _of_part(part: Part) -> list[Failure]:
    name, family, kind = part.name, part.type.family, part.type.kind

    def closed(words: str, half: bool = False) -> Failure:
        return Failure(f"{name} {words}", name, Fault(closed=frozenset({name})), half=half)

    def opened(words: str) -> Failure:
        return Failure(f"{name} {words}", name, Fault(opened=frozenset({name})))

    if family == "ssr":
        half = [] if part.ratings.get("load_type") == "dc" else [closed("conducts every other half-wave", half=True)]
        return [closed("fails shorted"), opened("fails open"), *half]
    if family in ("relay", "contactor", "relay_module") or kind in ("relay_module_low", "timer"):
        return [closed("welds"), opened("does not pull in")]
    if family in ("breaker", "fuse", "rcd"):
        return [opened("opens")]
    if family == "limiter":
        return [closed("does not open its contact"), opened("loses its supply")]
    if family in ("controller_ssr", "controller_relay"):
        return [
            Failure(f"{name} keeps its output on", name, Fault(calling=frozenset({name}))),
            opened("loses its supply"),
        ]
    if kind in HAND:
        return [closed("does not open"), opened("stays open")]
    if kind in PRESSED:
        return [Failure(f"{name} stays closed", name, Fault(joined=(_ends(part),))), opened("does not close")]
    if family == "heater":
        return [opened("burns out"), *_shorted(part)]
    if family == "supply":
        return _of_supply(part)
    return []


def _shorted(heater: Part) -> list[Failure]:
    return [Failure(f"{heater.name} is shorted", heater.name, Fault(joined=(_ends(heater),)))]


def _ends(part: Part) -> tuple[str, str]:
    """The first two terminals of a part."""
    first, second = part.type.terminals[:2]
    return f"{part.name}.{first.name}", f"{part.name}.{second.name}"


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
        name = f"{supply.name} neutral"
        found.append(Failure(f"{name} is lost", supply.name, Fault(opened=frozenset({name}))))
    return found


def _of_sensor(wiring: ConnectionList, probe: Part) -> list[Failure]:
    """A probe that reads too low: its controller heats on, its limiter never trips, and both where they share it."""
    reached = Conduction(wiring).reach([f"{probe.name}.{probe.type.terminals[0].name}"])
    readers = {split(t)[0] for t in reached}
    limiters = frozenset(p.name for p in wiring.of_kind("limiter") if p.name in readers)
    if any(p.name in readers for p in wiring.of_kind("converter")):
        readers |= {p.name for p in wiring.of_kind("microcontroller")}
    calling = frozenset(p.name for p in wiring.of_kind("controller_ssr", "controller_relay") if p.name in readers)

    def low(words: str) -> Failure:
        return Failure(f"{probe.name} {words}", probe.name, Fault(closed=limiters, calling=calling))

    found = [low("slips out or reads too low")]
    if probe.type.family == "thermocouple":
        found.append(low("is shorted along its cable"))
    return found


def _to_case(heater: Part, case: str) -> list[Failure]:
    found = []
    for terminal in heater.type.terminals:
        end = f"{heater.name}.{terminal.name}"
        title = f"{heater.name} touches the case at {terminal.name}"
        found.append(Failure(title, heater.name, Fault(joined=((end, case),))))
    for fraction in FRACTIONS:
        title = f"{heater.name} touches the case {fraction:.0%} along"
        found.append(Failure(title, heater.name, Fault(tapped=((heater.name, fraction, case),))))
    return found
