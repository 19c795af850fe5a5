"""Single faults: every credible failure of every part, solved in the states that matter, and the one question asked of each:
is there still an independent way to take the heat away?"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import combinations, product

from ..model import Circuit as CircuitKind
from ..model import ConnectionList, Part
from ..switching import OFF, ON, TRIPPED, Switching
from .failures import Failure, failures
from .positions import verb
from .solution import SOUND, Fault, Heat
from .solve import Circuit

WEAK, STRONG = 0.97, 1.05
"""Shares of its power below and above which a heater is said to give less or more."""
NOTHING = 0.02
"""Share of a heater's power that counts as no heat (an SSR's leakage is far below)."""


GUARDS = ("estop", "door_switch", "flow_switch", "isolator", "cutout_manual", "cutout_auto", "thermal_fuse")
"""Hand- and heat-operated parts that are there to stop the heat."""
TURNED = ("switch", "selector")
MOST_TURNED = 4
"""So many switches and selectors are tried in every combination, the rest as they are."""


class Verdict(StrEnum):
    """``uncovered``: heats on although the controller is off and the limiter tripped. ``stronger``: elements get more than
    they are made for, or some heat that should not. ``warm``: heats on, but never beyond what everything stands. ``latent``:
    unnoticed, but a protection is lost. ``covered``: heats on until the limiter trips. ``stops``/``weaker``: seen as missing
    heat. ``trips``: a protective device opens. ``nothing``: no difference."""

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
    """Solve every failure in every way the circuit can run, then a second one on every latent failure; with a plug that fits
    both ways round, either way. The worst of all counts."""
    wiring = circuit.wiring
    outcomes = _every_way(circuit, reaches)
    turned = _plug_turned(wiring)
    if turned is not None:
        other = {o.title: o for o in _every_way(Circuit(turned, circuit.supply_v), reaches)}
        outcomes = [_worse(o, other[o.title], PLUG_TURNED) if o.title in other else o for o in outcomes]
    if not outcomes:
        return Analysis((), "Nothing in this circuit heats.")
    ordered = tuple(sorted(outcomes, key=lambda o: ORDER.index(o.verdict)))
    return Analysis(ordered, _summary(ordered, bool(wiring.of_kind("limiter"))))


PLUG_TURNED = "the plug the other way round"


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


def _worse(one: Outcome, other: Outcome, when: str) -> Outcome:
    """The worse of two outcomes of one failure; the other's words say ``when`` it is so."""
    if ORDER.index(other.verdict) >= ORDER.index(one.verdict):
        return one
    return replace(other, says=f"With {when}: {other.says}")


def _every_way(circuit: Circuit, reaches: Reaches | None) -> list[Outcome]:
    """Every failure judged in the worst of the ways the circuit can run."""
    every = failures(circuit.wiring)
    found: list[Outcome] = []
    for way in ways(circuit):
        outcomes = _one_way(_Asked(circuit, reaches, way), every)
        when = " and ".join(f"{name} {verb(circuit.wiring.part(name))}" for name in sorted(way))
        found = [_worse(o, x, when) for o, x in zip(found, outcomes, strict=True)] if found else outcomes
    return found


def ways(circuit: Circuit) -> list[frozenset[str]]:
    """Which switches and selectors may stand in their other position while it heats, one of each kind of way: those that
    bring on the same loads count once. The first is with none of them moved, where that heats."""
    wiring = circuit.wiring
    turned = [p.name for p in wiring.of_kind(*TURNED)][:MOST_TURNED]
    found: dict[frozenset[str], frozenset[str]] = {}
    for count in range(len(turned) + 1):
        for way in map(frozenset, combinations(turned, count)):
            switching = replace(ON, operated=way)
            on = circuit.running(switching)
            if any(circuit.heat(switching, start=on).watts[h.name] > _least_w(h) for h in wiring.of_kind("heater")):
                found.setdefault(frozenset(n for n in on if n not in way), way)
    return list(found.values())


def _least_w(heater: Part) -> float:
    """Power in W up to which a heater counts as off: what leaks through an SSR is far below."""
    return NOTHING * heater.number("power_w", 1000.0)


def _one_way(ask: "_Asked", every: tuple[Failure, ...]) -> list[Outcome]:
    wiring = ask.circuit.wiring
    earths = {f"wire {w.number}" for w in wiring.connections if w.circuit is CircuitKind.EARTH}
    outcomes = [_judge(ask, f) for f in every]
    harmful = [f for f, o in zip(every, outcomes, strict=True) if o.verdict is Verdict.COVERED]
    judged = [
        _with_second(ask, f, o, harmful) if o.verdict is Verdict.LATENT else o
        for f, o in zip(every, outcomes, strict=True)
    ]
    return [_earth_lost(ask, o) if o.subject in earths else o for o in judged]


class _Asked:
    """A circuit in one way of running, with what every failure is compared with: its sound heat, and where each position
    comes to rest. ``way``: switches in their other position."""

    def __init__(self, circuit: Circuit, reaches: Reaches | None, way: frozenset[str]) -> None:
        self.circuit, self.reaches = circuit, reaches
        self.off, self.on, self.tripped, self.tripped_off = (
            replace(s, operated=way) for s in (OFF, ON, TRIPPED, replace(TRIPPED, output_on=False))
        )
        running = circuit.running(self.on)
        self.started = {
            self.off: circuit.running(self.off),
            self.on: running,
            self.tripped: running,  # it trips while it is running, with the failure there already
            self.tripped_off: running,
        }
        self.least_w = {h.name: _least_w(h) for h in circuit.wiring.of_kind("heater")}
        sound = circuit.heat(self.on, start=running).watts
        self.each = {name: watts for name, watts in sound.items() if watts > self.least_w[name]}
        self.nominal = sum(self.each.values())
        self.idle_w = circuit.heat(self.off, start=self.started[self.off]).total_w
        self.limited = bool(circuit.wiring.of_kind("limiter"))
        self.stops = self.limited and circuit.heat(self.tripped, start=running).total_w <= NOTHING * self.nominal
        moved = [replace(self.on, operated=way ^ {p.name}) for p in circuit.wiring.of_kind(*GUARDS)]
        self.guards = [g for g in moved if circuit.heat(g, start=running).total_w <= NOTHING * self.nominal]
        self.started |= dict.fromkeys(self.guards, running)
        self.waits = circuit.heat(self.on).total_w <= NOTHING * self.nominal  # for a start button

    def defeated(self, f: Failure) -> str:
        """What no longer keeps the heat away after this failure, in words, if there is something."""
        for guard in self.guards:
            if self.heat(guard, f.fault).total_w > NOTHING * self.nominal:
                return f"{next(iter(guard.operated ^ self.on.operated))} no longer stops the heat"
        if self.waits and self.circuit.heat(self.on, f.fault).total_w > NOTHING * self.nominal:
            return "after a power cut the heat comes back by itself"
        return ""

    def heat(self, switching: Switching, fault: Fault, already: Fault = SOUND) -> Heat:
        """Heat after this failure, perhaps one after another."""
        return self.circuit.heat(switching, fault, self.started[switching], already)

    def shares(self, heated: Heat) -> dict[str, float]:
        """What each heater gives of what it gives in a sound circuit."""
        return {name: heated.watts[name] / watts for name, watts in self.each.items()}

    def uncalled(self, heated: Heat) -> list[str]:
        """Heaters that heat now and do not in this way of running."""
        return [n for n, watts in heated.watts.items() if n not in self.each and watts > self.least_w[n]]

    def stays_below(self, watts: float) -> float | None:
        """The temperature this heat leads to, where that is below everything's limit; None where it is not, or unknown."""
        if self.reaches is None or watts <= 0:
            return None
        celsius = self.reaches.at(watts)
        return celsius if celsius < self.reaches.weakest_c else None


def _judge(ask: _Asked, f: Failure) -> Outcome:
    nominal = ask.nominal
    heated = ask.heat(ask.on, f.fault)
    on, shares, uncalled = heated.total_w, ask.shares(heated), ask.uncalled(heated)
    off = ask.heat(ask.off, f.fault).total_w
    tripped = ask.heat(ask.tripped, f.fault).total_w if ask.limited else off
    if f.half:
        off, tripped = off / 2.0, tripped / 2.0
    least = NOTHING * nominal  # above what a circuit gives that heats uncommanded as it is
    heats_off = off > ask.idle_w + least
    heats_tripped = tripped > least if ask.limited else heats_off
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
    elif heats_tripped and ask.stops:
        verdict, words = Verdict.LATENT, "Nobody notices, and the limiter no longer stops the heat."
    elif lost := ask.defeated(f):
        verdict, words = Verdict.LATENT, f"Nobody notices, and {lost}."
    elif heated.tripped:
        device, amps = next(iter(heated.tripped.items()))
        verdict, words = Verdict.TRIPS, f"{device} opens at {amps:.3g} A."
    elif on < NOTHING * nominal:
        verdict, words = Verdict.STOPS, "It no longer heats."
    elif uncalled or max(shares.values()) > STRONG:
        verdict, words = Verdict.STRONGER, _said(shares, uncalled)
    elif min(shares.values()) < WEAK:
        verdict, words = Verdict.WEAKER, _said(shares, uncalled)
    else:
        verdict, words = Verdict.NOTHING, "Nothing changes that heat would show."
    return Outcome(f.title, f.subject, verdict, words, off, tripped, on)


def _said(shares: dict[str, float], uncalled: list[str]) -> str:
    """Which heaters give more, less or nothing, and which heat that should not."""
    words = [f"{name} heats as well" for name in uncalled]
    words += [f"{name} gets {share:.0%} of its power: overloaded" for name, share in shares.items() if share > STRONG]
    words += [f"{name} heats with {share:.0%}" for name, share in shares.items() if NOTHING <= share < WEAK]
    words += [f"{name} no longer heats" for name, share in shares.items() if share < NOTHING]
    return f"{', '.join(words)}."


def _with_second(ask: _Asked, first: Failure, outcome: Outcome, harmful: list[Failure]) -> Outcome:
    """Which failure after this unnoticed one leaves nothing that stops the heat."""
    left = [
        second.title
        for second in harmful
        if ask.heat(ask.tripped_off, second.fault, first.fault).total_w > NOTHING * ask.nominal
    ]
    others = f" (or {len(left) - 1} others)" if len(left) > 2 else f" (or {left[1]})" if len(left) == 2 else ""
    says = outcome.says + (f" Then {left[0]}{others}: nothing is left." if left else "")
    return replace(outcome, says=says, second=tuple(left))


def _earth_lost(ask: _Asked, outcome: Outcome) -> Outcome:
    """A lost earth shows nothing, until a live conductor touches the case: does anything still open then?"""
    wiring = ask.circuit.wiring
    cases = [f"{p.name}.PE" for p in wiring.of_kind("enclosure")]
    for heater, case in product(wiring.of_kind("heater"), cases):
        end = heater.type.terminals[0].name
        fault = Fault(opened=frozenset({outcome.subject}), joined=((f"{heater.name}.{end}", case),))
        if not ask.heat(ask.on, fault).tripped:
            second = f"{heater.name} touches the case at {end}"
            says = f"Nobody notices, and the case is no longer earthed. Then {second}: it is live, and nothing opens."
            return replace(outcome, verdict=Verdict.LATENT, says=says, second=(second,))
    return outcome


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
