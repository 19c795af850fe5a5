"""Stage 0, dead and unplugged: looked over, earth, element, live to neutral, insulation, sensor."""

from collections.abc import Iterator

from ..explain import Figure, Input
from ..messages import quantity
from ..units import Kind
from ..wiring.circuit.branches import Sort
from ..wiring.circuit.dead import OPEN_OHM, Dead, Ohms
from ..wiring.circuit.failures import PROBES
from ..wiring.circuit.meter import OHM_TOLERANCE, Over, plan
from ..wiring.names import TerminalName, part_of, split
from .facts import Citing, ProvingFacts
from .insulation import earthed, insulation_steps, protective
from .probe import probe_steps
from .scope import between, edges_of
from .step import Measure, MeterSetting, ProvingStep

EARTH_OHM = 0.1
"""Beyond the protective conductor’s own resistance, Ω (IEC 60335-1 and EN 60204-1 ask it so; from memory)."""
LEADS_OHM = 0.5
"""What a meter’s leads and a touch make, Ω (common practice, no source)."""
ELECTRONICS_OHM = 100.0
"""Least between two ends that only electronics join, Ω: a small transformer’s winding (common practice, no source)."""


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """In the order that finds the dangerous first."""
    dead = Dead(facts.circuit)
    yield _looked_over(facts)
    yield from _earths(facts, dead)
    yield from _ohms(facts)
    yield from insulation_steps(facts)
    for part in facts.wiring.of_kind(*PROBES):
        yield from probe_steps(facts, part)


def _looked_over(facts: ProvingFacts) -> ProvingStep:
    cite = Citing(facts)
    cite.whole_list()
    for wire in facts.wiring.connections:
        cite.cites[f"wire {'–'.join(sorted((wire.a, wire.b)))}"] += f", {wire.colour}"
    wires, parts = len(facts.wiring.connections), len(facts.wiring.parts)
    return ProvingStep(
        "look",
        0,
        "Looked over",
        f"Go through the list, all {wires} wires and {parts} parts: tug at every wire, look for loose strands and covers that are missing.",
        "Every wire sits where the list says, strain relief holds, nothing live comes near metal, and elements pass the case insulated.",
        isolated=f"{facts.plug_out}, in your pocket.",
        caution="Capacitors keep their charge: wait, then measure before you touch.",
        cites=cite.cites,
    )


def _earths(facts: ProvingFacts, dead: Dead) -> Iterator[ProvingStep]:
    pins = protective(facts.wiring)
    if not pins:
        return
    largest = 0.0
    sheath = Citing(facts)
    for part, terminal in earthed(facts.wiring):
        cite = Citing(facts)
        cite.part(part.name)
        cite.resting(pins[0], terminal)
        ohm = dead.ohms(pins[0], terminal).most or 0.0
        largest = max(largest, ohm)
        sheath.cites |= cite.cites
        yield _earth(
            f"earth {terminal}",
            f"Earth of {part.name}",
            f"the bare metal of {part.name}",
            ohm,
            cite,
            (pins[0], terminal),
        )
    yield from _further_pins(facts, dead, pins)
    sheaths = "sheaths, " if facts.wiring.of_kind("heater") else ""
    for heater in facts.wiring.of_kind("heater"):
        sheath.part(heater.name)
    yield _earth(
        "earth metal",
        "Earth of all other metal",
        f"every other metal part that can be touched, one by one (the worst counts): {sheaths}door, bracket, handle",
        largest,
        sheath,
        None,
    )


def _further_pins(facts: ProvingFacts, dead: Dead, pins: tuple[TerminalName, ...]) -> Iterator[ProvingStep]:
    """Of several supplies each brings an earth of its own."""
    for pin in pins[1:]:
        metal = next(iter(earthed(facts.wiring)), None)
        if metal is None:
            return
        part, terminal = metal
        cite, supply = Citing(facts), split(pin)[0]
        cite.part(supply)
        cite.resting(pin, terminal)
        ohm, bare = dead.ohms(pin, terminal).most or 0.0, f"the bare metal of {part.name}"
        yield _earth(f"earth {pin}", f"Earth of {supply}", bare, ohm, cite, (pin, terminal), f"the plug of {supply}")


def _earth(
    key: str,
    title: str,
    to: str,
    ohm: float,
    cite: Citing,
    places: tuple[TerminalName, TerminalName] | None,
    plug: str = "the plug",
) -> ProvingStep:
    inputs = (
        Input("protective conductor by its wires", ohm, Kind.RESISTANCE, "R_PE", "computed"),
        Input("allowed beyond it", EARTH_OHM, Kind.RESISTANCE, "R_0", "EN 60204-1, from memory"),
    )
    figure = Figure(
        "earth continuity",
        ohm,
        Kind.RESISTANCE,
        formula="R ≤ R_PE + R_0",
        inputs=inputs,
        symbol="R",
        reason="A fault must open the breaker before the metal is dangerous.",
    )
    return ProvingStep(
        key,
        0,
        title,
        f"Zero the leads, then from the earth pin of {plug} to {to}, at {quantity(200, 'mA')} or more and at most "
        f"{quantity(24, 'V')}; flex the cord.",
        "It stays put while the cord is flexed.",
        Measure(figure, 0.0, ohm + EARTH_OHM),
        MeterSetting.CONTINUITY,
        isolated=f"{cite.facts.plug_out}.",
        caution="A meter’s own milliampere passes one strand: it proves nothing here.",
        cites=cite.cites,
        between=places,
    )


def bounds(ohms: Ohms) -> tuple[float | None, float | None]:
    """What a meter may show: with the parts’ tolerance, and leads; no connection is anything from a million ohms."""
    if ohms.most is None:
        return OPEN_OHM, None
    low = None if ohms.least is None else max(ohms.least * (1.0 - OHM_TOLERANCE) - LEADS_OHM, 0.0)
    return low, ohms.most * (1.0 + OHM_TOLERANCE) + LEADS_OHM


def _ohms(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Over every element, over the supply's own ends in every stand of what is moved, and from live to earth."""
    for reading in plan(facts.circuit):
        if reading.over not in (Over.SUPPLY, Over.LIVE_TO_EARTH, Over.LOAD):
            continue
        for moved, ohms in (("", reading.ohms), *reading.moved.items()):
            cite = Citing(facts)
            cite.resting(reading.a, reading.b, part_of(moved))
            if moved:
                cite.part(part_of(moved))
            low, high = bounds(ohms)
            fed = ohms.most is None and _through_electronics(facts, reading.a, reading.b)
            low = ELECTRONICS_OHM if fed else low
            value = OPEN_OHM if ohms.most is None else 0.5 * ((ohms.least or 0.0) + ohms.most)
            figure = Figure(
                f"{reading.about}, unplugged",
                value,
                Kind.RESISTANCE,
                low=ohms.least,
                high=ohms.most,
                symbol="R",
                reason="From the list as wired: a meter’s low volts go through wires, contacts at rest and cold loads."
                if ohms.most is not None
                else "Not a short: what a meter shows through a controller’s own supply nobody can say."
                if fed
                else "No connection: anything from a million ohms, or beyond the meter’s range.",
            )
            stands = f", {moved}" if moved else ", everything at rest"
            yield ProvingStep(
                f"ohms {reading.a} {reading.b} {moved}".strip(),
                0,
                f"{reading.about[0].upper()}{reading.about[1:]}{f', {moved}' if moved else ''}",
                f"From {reading.a} to {reading.b}{stands}: ohms.",
                "No short." if fed else "No connection." if ohms.most is None else "Steady, and inside the range.",
                Measure(figure, low, high),
                MeterSetting.OHMS,
                isolated=f"{facts.plug_out}.",
                cites=cite.cites,
                between=(reading.a, reading.b),
                moved=part_of(moved),
            )


def _through_electronics(facts: ProvingFacts, a: TerminalName, b: TerminalName) -> bool:
    """Whether only something with electronics in it joins two terminals."""
    dead = Dead(facts.circuit)
    return bool(between(edges_of(x for x in facts.circuit.branches if dead.rests(x) or x.sort is Sort.LOAD), a, b))
