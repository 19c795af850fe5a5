"""Stage 2 of a rig with a cooler beside its heater: it comes on where it should, and takes the heater's command away while it is on."""

from collections.abc import Iterator
from dataclasses import replace

from ..explain import Figure
from ..messages import difference, spoken_time
from ..units import Kind
from ..wiring.circuit.positions import cools_by
from ..wiring.circuit.solution import SOUND
from ..wiring.kinds.loads import MOVES
from ..wiring.model import Part
from ..wiring.names import Family, split
from ..wiring.switching import Switching
from .facts import Citing, Fitted, ProvingFacts
from .isolating import calling, isolated
from .places import APART_V, OFF_SHARE, OFF_V, places
from .step import Measure, MeterSetting, ProvingStep

CHANGING: tuple[Family, ...] = ("relay", "relay_module", "relay_module_low")
"""What turns a module round."""


def coolers(facts: ProvingFacts) -> tuple[Part, ...]:
    """What only runs while the controller's cooling contact is closed; of a module that is turned round, dead as it is here, its relays."""
    if facts.purpose.cooler is None:
        return ()
    on, turns = calling(facts), facts.purpose.turns
    without, with_it = (facts.circuit.solve(s, SOUND, facts.circuit.running(s)).on for s in (on, _cooled(on)))
    beside = (p for p in facts.wiring.parts if p.name in with_it - without)
    return tuple(p for p in beside if p.type.kind in MOVES or (turns and p.type.family in CHANGING))


def _cooled(switching: Switching) -> Switching:
    return replace(switching, alarm_on=True)


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Nothing of a rig without one, or whose list has none."""
    found = coolers(facts)
    if not found:
        return
    cite = Citing(facts)
    above, back = cite.number("cool_above_c"), cite.number("cool_hysteresis_c")
    cite.fitted(Fitted.CONTROLLER)
    for part in found:
        cite.part(part.name)
        cite.live(*part.ends)
    names = ", ".join(p.name for p in found)
    s = "" if len(found) > 1 else "s"
    starts, stops = (f"pull{s} in", f"let{s} go") if facts.purpose.turns else (f"start{s}", f"stop{s}")
    rests = ""
    if facts.purpose.has_compressor:
        rests = f" Just switched on, or off, it rests {spoken_time(cite.number('minimum_off_s'))} first."
    yield ProvingStep(
        "cooler",
        2,
        "Cooler",
        f"Bring the reading more than {difference(above)} above the set-point by a source at the input or a warmed probe, then "
        "slowly down.",
        f"{names} {starts} there and {stops} {difference(back)} further down, still above the set-point. With the set-point above the "
        f"reading it stays off.{rests}",
        isolated=isolated(facts, cite),
        cites=cite.cites,
    )
    yield from _never_both(facts, f"{names} come{s} on")


def _never_both(facts: ProvingFacts, comes_on: str) -> Iterator[ProvingStep]:
    """With the cooling contact bridged while the output calls: what drives the heater must be dead."""
    on, circuit = calling(facts), facts.circuit
    both = _cooled(on)
    alone, together = (circuit.solve(s, SOUND, circuit.running(s)) for s in (on, both))
    called = next(ends for p in facts.wiring.parts if (ends := cools_by(p)))
    caution = "The alarm contact is on the control live: bridge it only with everything off."
    call, undo = f"bridge {' to '.join(called)}", "Take the bridge out again."
    if len(called) == 1:  # a pin is at the board's own volts or at none, and must not be joined to them
        board = split(called[0])[0]
        call, undo = f"the wire off {called[0]} and on {board}.5V", "Put the wire back."
        caution = "Only with everything off; a pin that is joined to the supply of its board burns out."
    for part, ends in places(facts.wiring):
        volts, left = (abs(s.between(*ends) or 0.0) for s in (alone, together))
        off = max(OFF_V, OFF_SHARE * volts)
        if volts - left < APART_V or left > off:  # what only gets a little less is not what the cooler takes away
            continue
        cite = Citing(facts)
        cite.part(part.name)
        cite.live(*ends)
        cite.fitted(Fitted.CONTROLLER)
        figure = Figure(
            f"across {part.name}, cooler on",
            cite.expects(left),
            Kind.VOLTAGE,
            symbol="U",
            reason="From the list as wired, solved with the load dead and both called for.",
        )
        direct = abs(alone.direct(*ends)) > alone.alternating(*ends)
        yield ProvingStep(
            f"never both {part.name}",
            2,
            f"{part.name}, cooler on",
            f"Set-point above the reading, so that the output calls. Power off, {call}, power on: {comes_on}. "
            f"From {ends[0]} to {ends[1]}: volts. {undo}",
            "Nothing: the cooler’s relay took the command away.",
            Measure(figure, 0.0, off),
            MeterSetting.VOLTS_DC if direct else MeterSetting.VOLTS_AC,
            isolated(facts, cite),
            caution,
            cites=dict(cite.cites),
            between=ends,
            switching=both,
        )
