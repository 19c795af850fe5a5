"""Single faults: every credible failure of every part, solved in the states that matter, and the one question asked of each:
is there still an independent way to take the heat away?"""

from dataclasses import dataclass, replace
from enum import StrEnum

from ..model import Circuit as CircuitKind
from ..model import ConnectionList, Part, split
from ..states import Conduction, Switching
from .solve import SOUND, Circuit, Fault

OFF, ON, TRIPPED = Switching(False, False), Switching(True, False), Switching(True, True)
NOTHING = 0.02
"""Share of a heater's power that counts as no heat (an SSR's leakage is far below)."""


class Verdict(StrEnum):
    """``uncovered``: heats on although the controller is off and the limiter tripped. ``latent``: unnoticed, but a
    protection is lost. ``covered``: heats on until the limiter trips. ``stops``/``weaker``: seen as missing heat. ``trips``: a
    protective device opens. ``nothing``: no difference."""

    UNCOVERED = "uncovered"
    LATENT = "latent"
    COVERED = "covered"
    STOPS = "stops"
    WEAKER = "weaker"
    TRIPS = "trips"
    NOTHING = "nothing"


ORDER = list(Verdict)


@dataclass(frozen=True)
class Failure:
    """What can fail: a name to say it by, the part or wire, and what it does to the circuit."""

    title: str
    subject: str
    fault: Fault
    stuck_on: bool = False


@dataclass(frozen=True)
class Outcome:
    """A failure judged. Heater power in W while the output is off, with the limiter tripped and the output on, and with the
    output on; ``says`` in words; ``second``: failures that, after this unnoticed one, leave nothing that stops the heat."""

    title: str
    subject: str
    verdict: Verdict
    says: str
    off_w: float
    tripped_w: float
    on_w: float
    second: tuple[str, ...] = ()


@dataclass(frozen=True)
class Analysis:
    """Every outcome, worst first, and the summary a technician can read out."""

    outcomes: tuple[Outcome, ...]
    summary: str


def failures(wiring: ConnectionList) -> tuple[Failure, ...]:
    """Every credible single failure of the parts and wires of a list."""
    found = [f for part in wiring.parts for f in _of_part(part)]
    found += [_of_sensor(wiring, p) for p in wiring.of_kind("thermocouple", "pt100", "pt1000", "thermistor")]
    found += [
        Failure(f"wire {w.number} comes off", f"wire {w.number}", Fault(opened=frozenset({f"wire {w.number}"})))
        for w in wiring.connections
    ]
    case = next((f"{p.name}.PE" for p in wiring.of_kind("enclosure")), None)
    if case:
        for heater in wiring.of_kind("heater"):
            for terminal in heater.type.terminals:
                end = f"{heater.name}.{terminal.name}"
                title = f"{heater.name} touches the case at {terminal.name}"
                found.append(Failure(title, heater.name, Fault(joined=((end, case),))))
    return tuple(found)


def _of_part(part: Part) -> list[Failure]:
    name, family = part.name, part.type.family

    def closed(words: str) -> Failure:
        return Failure(f"{name} {words}", name, Fault(closed=frozenset({name})))

    def opened(words: str) -> Failure:
        return Failure(f"{name} {words}", name, Fault(opened=frozenset({name})))

    if family == "ssr":
        return [closed("fails shorted"), opened("fails open")]
    if family in ("relay", "contactor"):
        return [closed("welds"), opened("does not pull in")]
    if family in ("breaker", "fuse"):
        return [opened("opens")]
    if family == "limiter":
        return [closed("does not open its contact"), opened("loses its supply")]
    if family in ("controller_ssr", "controller_relay"):
        return [Failure(f"{name} keeps its output on", name, SOUND, stuck_on=True), opened("loses its supply")]
    if family == "heater":
        return [opened("burns out")]
    return []


def _of_sensor(wiring: ConnectionList, probe: Part) -> Failure:
    """A probe that reads too low: its controller heats on, its limiter never trips, and both where they share it."""
    reached = Conduction(wiring).reach([f"{probe.name}.{probe.type.terminals[0].name}"])
    readers = {split(t)[0] for t in reached}
    limiters = frozenset(p.name for p in wiring.of_kind("limiter") if p.name in readers)
    stuck = any(p.name in readers for p in wiring.parts if p.name not in limiters and p.name != probe.name)
    return Failure(f"{probe.name} slips out or reads too low", probe.name, Fault(closed=limiters), stuck_on=stuck)


def analyse(circuit: Circuit) -> Analysis:
    """Solve every failure, then a second one on every latent failure. Wires are taken as ideal here."""
    circuit = Circuit(circuit.wiring, circuit.supply_v, ideal_wires=True)
    wiring = circuit.wiring
    nominal, _ = circuit.heat(ON)
    started = {state: circuit.settled(state) for state in (OFF, ON, TRIPPED)}
    limited = bool(wiring.of_kind("limiter"))
    every = failures(wiring)
    earths = {f"wire {w.number}" for w in wiring.connections if w.circuit is CircuitKind.EARTH}
    outcomes = [_judge(circuit, f, nominal, limited, started) for f in every]
    harmful = [f for f, o in zip(every, outcomes, strict=True) if o.verdict is Verdict.COVERED]
    judged = [
        _with_second(circuit, f, o, harmful, nominal) if o.verdict is Verdict.LATENT else o
        for f, o in zip(every, outcomes, strict=True)
    ]
    judged = [_earth_lost(circuit, o) if o.subject in earths else o for o in judged]
    ordered = tuple(sorted(judged, key=lambda o: ORDER.index(o.verdict)))
    return Analysis(ordered, _summary(ordered, limited))


def _judge(
    circuit: Circuit, f: Failure, nominal: float, limited: bool, started: dict[Switching, frozenset[str]]
) -> Outcome:
    resting = ON if f.stuck_on else OFF
    off, _ = circuit.heat(resting, f.fault, started[resting])
    on, opened = circuit.heat(ON, f.fault, started[ON])
    tripped = circuit.heat(TRIPPED, f.fault, started[TRIPPED])[0] if limited else off
    heats_off, heats_tripped = off > NOTHING * nominal, tripped > NOTHING * nominal
    if heats_off and heats_tripped:
        words = "It heats on, and nothing takes the heat away."
        verdict = Verdict.UNCOVERED
    elif heats_off:
        verdict, words = Verdict.COVERED, "It heats on until the limiter trips."
    elif heats_tripped and limited:
        verdict, words = Verdict.LATENT, "Nobody notices, and the limiter no longer stops the heat."
    elif opened:
        device, amps = next(iter(opened.items()))
        verdict, words = Verdict.TRIPS, f"{device} opens at {amps:.0f} A."
    elif on < NOTHING * nominal:
        verdict, words = Verdict.STOPS, "It no longer heats."
    elif on < 0.97 * nominal:
        verdict, words = Verdict.WEAKER, f"It heats with {on / nominal:.0%} of its power."
    else:
        verdict, words = Verdict.NOTHING, "Nothing changes that heat would show."
    return Outcome(f.title, f.subject, verdict, words, off, tripped, on)


def _with_second(circuit: Circuit, first: Failure, outcome: Outcome, harmful: list[Failure], nominal: float) -> Outcome:
    """Which failure after this unnoticed one leaves nothing that stops the heat."""
    left = []
    for second in harmful:
        both = Fault(
            first.fault.opened | second.fault.opened,
            first.fault.closed | second.fault.closed,
            first.fault.gone | second.fault.gone,
            (*first.fault.joined, *second.fault.joined),
        )
        if circuit.heat(TRIPPED, both)[0] > NOTHING * nominal:
            left.append(second.title)
    says = outcome.says + (f" Then {left[0]}: nothing is left." if left else "")
    return Outcome(
        outcome.title,
        outcome.subject,
        outcome.verdict,
        says,
        outcome.off_w,
        outcome.tripped_w,
        outcome.on_w,
        tuple(left),
    )


def _earth_lost(circuit: Circuit, outcome: Outcome) -> Outcome:
    """A lost earth shows nothing, until a live conductor touches the case: does anything still open then?"""
    case = next((f"{p.name}.PE" for p in circuit.wiring.of_kind("enclosure")), None)
    heater = next(iter(circuit.wiring.of_kind("heater")), None)
    if case is None or heater is None:
        return outcome
    touching = (f"{heater.name}.{heater.type.terminals[0].name}", case)
    _, opened = circuit.heat(ON, Fault(opened=frozenset({outcome.subject}), joined=(touching,)))
    if opened:
        return outcome
    second = f"{heater.name} touches the case at {heater.type.terminals[0].name}"
    says = f"Nobody notices, and the case is no longer earthed. Then {second}: it is live, and nothing opens."
    return replace(outcome, verdict=Verdict.LATENT, says=says, second=(second,))


def _summary(outcomes: tuple[Outcome, ...], limited: bool) -> str:
    uncovered = [o for o in outcomes if o.verdict is Verdict.UNCOVERED]
    latent = [o for o in outcomes if o.verdict is Verdict.LATENT]
    covered = sum(o.verdict is Verdict.COVERED for o in outcomes)
    if uncovered:
        cover = (
            "Repair what lets them past the limiter."
            if limited
            else "An independent limiter with its own sensor and contactor would cover them."
        )
        return (
            f"{len(uncovered)} of {len(outcomes)} single failures leave the heat on with nothing that stops it. {cover}"
        )
    words = f"No single failure of {len(outcomes)} leaves the heat on: {covered} are stopped by the limiter."
    if latent:
        words += f" {len(latent)} would go unnoticed: trip the limiter on purpose and check the earth at set intervals."
    return words
