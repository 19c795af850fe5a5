"""Single faults: every credible failure of every part, solved in the states that matter, and the one question asked of each:
is there still an independent way to take the heat away?"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

from ..model import Circuit as CircuitKind
from ..model import ConnectionList
from ..switching import OFF, ON, TRIPPED, Switching
from .failures import Failure, failures
from .solution import Fault
from .solve import Circuit

NOTHING = 0.02
"""Share of a heater's power that counts as no heat (an SSR's leakage is far below)."""


GUARDS = ("estop", "door_switch", "flow_switch", "isolator", "cutout_manual", "cutout_auto", "thermal_fuse")
"""Hand- and heat-operated parts that are there to stop the heat."""


class Verdict(StrEnum):
    """``uncovered``: heats on although the controller is off and the limiter tripped. ``stronger``: elements get more than
    they are made for. ``warm``: heats on, but never beyond what everything stands. ``latent``: unnoticed, but a
    protection is lost. ``covered``: heats on until the limiter trips. ``stops``/``weaker``: seen as missing heat. ``trips``: a
    protective device opens. ``nothing``: no difference."""

    UNCOVERED = "uncovered"
    STRONGER = "stronger"
    LATENT = "latent"
    COVERED = "covered"
    STOPS = "stops"
    WARM = "warm"
    WEAKER = "weaker"
    TRIPS = "trips"
    NOTHING = "nothing"


ORDER = list(Verdict)


@dataclass(frozen=True)
class Reaches:
    """Where a heat in W leads, in °C at rest, and the lowest limit in °C of anything in the rig."""

    at: Callable[[float], float]
    weakest_c: float


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


def analyse(circuit: Circuit, reaches: Reaches | None = None) -> Analysis:
    """Solve every failure, then a second one on every latent failure; with a plug that fits both ways round, either way, and
    the worse of both counts. Wires are taken as ideal here."""
    found = _analyse(circuit, reaches)
    turned = _plug_turned(circuit.wiring)
    if turned is None:
        return found
    other = {o.title: o for o in _analyse(Circuit(turned, circuit.supply_v), reaches).outcomes}
    worse = tuple(_worse(o, other[o.title]) for o in found.outcomes if o.title in other)
    ordered = tuple(sorted(worse, key=lambda o: ORDER.index(o.verdict)))
    return Analysis(ordered, _summary(ordered, bool(circuit.wiring.of_kind("limiter"))))


def _plug_turned(wiring: ConnectionList) -> ConnectionList | None:
    """The list with every reversible plug the other way round; None where there is none."""
    swap: dict[str, str] = {}
    for plug in wiring.of_kind("plug"):
        if plug.ratings.get("reversible") == "yes":
            swap |= {f"{plug.name}.1": f"{plug.name}.3", f"{plug.name}.3": f"{plug.name}.1"}
    if not swap:
        return None
    return ConnectionList(
        wiring.parts, tuple(replace(w, a=swap.get(w.a, w.a), b=swap.get(w.b, w.b)) for w in wiring.connections)
    )


def _worse(one: Outcome, other: Outcome) -> Outcome:
    if ORDER.index(other.verdict) >= ORDER.index(one.verdict):
        return one
    return replace(other, says=f"With the plug the other way round: {other.says[0].lower()}{other.says[1:]}")


def _analyse(circuit: Circuit, reaches: Reaches | None) -> Analysis:
    circuit = Circuit(circuit.wiring, circuit.supply_v, ideal_wires=True)
    wiring = circuit.wiring
    ask = _Asked(circuit, reaches)
    if ask.nominal <= 0.0:
        return Analysis((), "Nothing in this circuit heats.")
    every = failures(wiring)
    earths = {f"wire {w.number}" for w in wiring.connections if w.circuit is CircuitKind.EARTH}
    outcomes = [_judge(ask, f) for f in every]
    harmful = [f for f, o in zip(every, outcomes, strict=True) if o.verdict is Verdict.COVERED]
    judged = [
        _with_second(ask, f, o, harmful) if o.verdict is Verdict.LATENT else o
        for f, o in zip(every, outcomes, strict=True)
    ]
    judged = [_earth_lost(circuit, o) if o.subject in earths else o for o in judged]
    ordered = tuple(sorted(judged, key=lambda o: ORDER.index(o.verdict)))
    return Analysis(ordered, _summary(ordered, ask.limited))


class _Asked:
    """A circuit with what every failure is compared with: its sound heat, and where each position comes to rest."""

    def __init__(self, circuit: Circuit, reaches: Reaches | None) -> None:
        self.circuit, self.reaches = circuit, reaches
        self.started = {state: circuit.running(state) for state in (OFF, ON)}
        self.started[TRIPPED] = self.started[ON]  # it trips while it is running, with the failure there already
        self.sound = {state: circuit.heat(state, start=on) for state, on in self.started.items()}
        self.nominal = self.sound[ON][0]
        self.limited = bool(circuit.wiring.of_kind("limiter"))
        guards = [replace(ON, operated=frozenset({p.name})) for p in circuit.wiring.of_kind(*GUARDS)]
        self.guards = [g for g in guards if circuit.heat(g, start=self.started[ON])[0] <= NOTHING * self.nominal]
        self.waits = self.nominal > 0 and circuit.heat(ON)[0] <= NOTHING * self.nominal  # for a start button
        for guard in self.guards:
            self.started[guard] = self.started[ON]
            self.sound[guard] = (0.0, {})

    def defeated(self, f: Failure) -> str:
        """What no longer keeps the heat away after this failure, in words, if there is something."""
        for guard in self.guards:
            if self.heat(guard, f)[0] > NOTHING * self.nominal:
                return f"{next(iter(guard.operated))} no longer stops the heat"
        if self.waits and self.circuit.heat(ON, f.fault)[0] > NOTHING * self.nominal:
            return "after a power cut the heat comes back by itself"
        return ""

    def heat(self, switching: Switching, f: Failure) -> tuple[float, dict[str, float]]:
        """Heat after this failure; a wire to nothing that heats or decides changes none."""
        fault = f.fault
        only_wires = fault == Fault(opened=fault.opened) and all(n.startswith("wire ") for n in fault.opened)
        if only_wires and self.circuit.harmless(fault.opened):
            return self.sound[switching]
        return self.circuit.heat(switching, fault, self.started[switching])

    def stays_below(self, watts: float) -> float | None:
        """The temperature this heat leads to, where that is below everything's limit; None where it is not, or unknown."""
        if self.reaches is None or watts <= 0:
            return None
        celsius = self.reaches.at(watts)
        return celsius if celsius < self.reaches.weakest_c else None


def _judge(ask: _Asked, f: Failure) -> Outcome:
    nominal = ask.nominal
    on, opened = ask.heat(ON, f)
    off = on if f.stuck_on else ask.heat(OFF, f)[0]
    tripped = ask.heat(TRIPPED, f)[0] if ask.limited else off
    if f.half:
        off, tripped = off / 2.0, tripped / 2.0
    heats_off, heats_tripped = off > NOTHING * nominal, tripped > NOTHING * nominal
    harmless = ask.stays_below(max(off, tripped)) if heats_off and heats_tripped else None
    if harmless is not None:
        verdict, words = Verdict.WARM, f"It heats on, to about {harmless:.0f} °C, which everything in it stands."
    elif heats_off and heats_tripped:
        cover = (
            "Take apart what it shares with the limiter: sensor, supply, contactor."
            if ask.limited
            else "An independent limiter with its own sensor and contactor covers it."
        )
        verdict, words = Verdict.UNCOVERED, f"It heats on, and nothing takes the heat away. {cover}"
    elif heats_off:
        verdict, words = Verdict.COVERED, "It heats on until the limiter trips."
    elif heats_tripped and ask.limited:
        verdict, words = Verdict.LATENT, "Nobody notices, and the limiter no longer stops the heat."
    elif lost := ask.defeated(f):
        verdict, words = Verdict.LATENT, f"Nobody notices, and {lost}."
    elif opened:
        device, amps = next(iter(opened.items()))
        verdict, words = Verdict.TRIPS, f"{device} opens at {amps:.3g} A."
    elif on < NOTHING * nominal:
        verdict, words = Verdict.STOPS, "It no longer heats."
    elif on < 0.97 * nominal:
        verdict, words = Verdict.WEAKER, f"It heats with {on / nominal:.0%} of its power."
    elif on > 1.05 * nominal:
        verdict, words = Verdict.STRONGER, f"It heats with {on / nominal:.0%} of its power: elements are overloaded."
    else:
        verdict, words = Verdict.NOTHING, "Nothing changes that heat would show."
    return Outcome(f.title, f.subject, verdict, words, off, tripped, on)


def _with_second(ask: _Asked, first: Failure, outcome: Outcome, harmful: list[Failure]) -> Outcome:
    """Which failure after this unnoticed one leaves nothing that stops the heat."""
    left = [
        second.title
        for second in harmful
        if ask.circuit.heat(TRIPPED, first.fault | second.fault, ask.started[TRIPPED])[0] > NOTHING * ask.nominal
    ]
    says = outcome.says + (f" Then {left[0]}: nothing is left." if left else "")
    return replace(outcome, says=says, second=tuple(left))


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
