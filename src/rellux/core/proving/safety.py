"""Stage 3, what ends the heat, with the load still dead: limiter, emergency stop, doors, a lost wire, a power cut."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ..guarding.acting import NOTHING, changes
from ..guarding.plan import LimiterReset
from ..guarding.proof import provable
from ..wiring.circuit.positions import operable
from ..wiring.circuit.solution import Fault
from ..wiring.model import Part
from ..wiring.switching import ON, Switching
from .facts import Citing, Fitted, ProvingFacts
from .isolating import calling, isolated
from .step import ProvingStep

STOPS = ("estop", "estop_no", "door_switch", "flow_switch", "level_switch", "cutout_manual", "cutout_auto")
"""Parts that end the heat when somebody, or something, moves them."""
DOES = {
    "estop": "press",
    "estop_no": "press",
    "door_switch": "open the door at",
    "flow_switch": "stop what flows past",
    "level_switch": "let the level fall below",
}
"""How they are made to."""
DRY, GUARDING = "guards", "guarding"
"""The step that Guarding’s own proof is, and where it is done."""


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """First that guards act at their inputs, then what they do in the circuit."""
    situation = facts.situation
    if situation is not None and provable(situation.plan):
        yield _guards(facts)
    if situation is not None and situation.plan.limiter and facts.wiring.of_kind("limiter"):
        yield from _limiter(facts)
    for part in operable(facts.wiring):
        if part.type.kind in STOPS:
            yield from _stop(facts, part)
    yield _power_cut(facts)


def _guards(facts: ProvingFacts) -> ProvingStep:
    situation = facts.situation
    assert situation is not None
    cite = Citing(facts)
    plan = situation.plan
    for planned in plan.alarms:
        cite.plan(f"alarm {planned.name}", planned.alarm)
    cite.plan("limiter", plan.limiter)
    cite.plan("maximum", plan.maximum_c)
    cite.fitted(Fitted.LIMITER, Fitted.CONTROLLER)
    return ProvingStep(
        DRY,
        3,
        "Every guard acts at its input",
        "Up past every value and down again, with a source at the inputs or the probe itself warmed: under Guarding, Proof, step by step.",
        "Each acts where it must, and nowhere else.",
        isolated=isolated(facts, cite),
        cites=cite.cites,
        constant="Its own steps are made under Guarding, from the plan.",
        elsewhere=GUARDING,
    )


def _limiter(facts: ProvingFacts) -> Iterator[ProvingStep]:
    situation, circuit = facts.situation, facts.circuit
    assert situation is not None and situation.plan.limiter is not None
    limiter = situation.plan.limiter
    for part in facts.wiring.of_kind("limiter"):
        cite = Citing(facts)
        cite.part(part.name)
        cite.plan("limiter", limiter)
        cite.fitted(Fitted.LIMITER)
        cite.loads()
        isolation = isolated(facts, cite)
        ends = _ends(facts, limit_tripped=True)
        again = (
            "It stays off until somebody resets it."
            if limiter.reset is LimiterReset.MANUAL
            else "As fitted it comes back by itself: one that latches is safer."
        )
        yield ProvingStep(
            f"trip {part.name}",
            3,
            f"{part.name} tripped, output on",
            f"Set-point so that the output is on; then bring the limit of {part.name} below what it reads (or warm its own probe).",
            cite.seen(
                f"{ends.must} The controller’s lamp may still be on: it shows what is asked, not what flows. {again}"
            ),
            isolated=isolation,
            caution=ends.caution,
            cites={**cite.cites, "what is wired": ends.caution},
        )
        if limiter.reset is LimiterReset.MANUAL:
            yield ProvingStep(
                f"latch {part.name}",
                3,
                f"{part.name} tripped through a power cut",
                f"Tripped as it is: {facts.power_off}, a minute, and on.",
                "It is still tripped.",
                constant="A latch holds through it or does not: the same for every one that latches.",
                isolated=isolation,
                cites=dict(cite.cites),
            )
        wire = next((w for w in facts.wiring.connections if {part.at("COM"), part.at("OK")} & {w.a, w.b}), None)
        if wire is None:
            continue
        broken = circuit.solve(ON, Fault(opened=frozenset({wire.name})), circuit.running(ON))
        still = ", ".join(sorted(p.name for p in facts.wiring.parts if p.heats and p.name in broken.on))
        yield ProvingStep(
            f"broken {part.name}",
            3,
            "Its wire broken",
            f"{facts.plug_out}: lift wire {wire.number} ({wire.a} to {wire.b}) and insulate its end. Plug in, output on.",
            "Nothing pulls in: a broken wire is a trip.",
            isolated=isolation,
            caution=cite.seen(
                f"As it is wired {still} would go on, and nobody would notice: see Wiring."
                if still
                else f"Only with {facts.the_plug} out, and put back the same way."
            ),
            cites=dict(cite.cites),
        )


@dataclass(frozen=True)
class _Ending:
    """What something that ends the heat must do, what is dangerous about how it is wired, and whether it can be seen with the load dead."""

    must: str
    caution: str = ""
    seen: bool = True


def _ends(facts: ProvingFacts, limit_tripped: bool = False, operated: str = "") -> _Ending:
    """A load that would go on as it is wired is never what must be seen."""
    circuit, on = facts.circuit, calling(facts)
    moved = frozenset({operated} - {""})
    held = circuit.settled(Switching(True, limit_tripped, operated=moved), circuit.running(ON))
    if goes_on := sorted(p.name for p in facts.wiring.parts if p.heats and p.name in held):
        caution = f"As it is wired {', '.join(goes_on)} would go on: it must not. See Wiring."
        return _Ending(f"No power can reach the load any more: with {facts.the_plug} out, ohms say so.", caution)
    before = circuit.running(on)
    after = circuit.settled(Switching(True, limit_tripped, operated=on.operated | moved), before)
    words = changes(facts.wiring.by_name, before, after).replace("With the output on: ", "")
    if words == NOTHING:
        return _Ending(
            "With the load dead there is nothing to be seen of it: it is tried again at first heat.", seen=False
        )
    return _Ending(words)


def stops_with_heat(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """For stage 4: stops of which nothing was to be seen while the load was dead."""
    for part in operable(facts.wiring):
        if part.type.kind not in STOPS or _ends(facts, operated=part.name).seen:
            continue
        cite = Citing(facts)
        cite.part(part.name)
        cite.loads()
        yield ProvingStep(
            f"stop hot {part.name}",
            4,
            f"{part.name} ends the heat",
            f"Output on, a clamp round one lead of the load: {DOES.get(part.type.kind, 'make it open:')} {part.name}.",
            cite.seen("The amperes end at once."),
            caution="Nobody leaves, and the main switch stays in reach: it was not seen to work yet.",
            cites=cite.cites,
        )


def _stop(facts: ProvingFacts, part: Part) -> Iterator[ProvingStep]:
    circuit, wiring = facts.circuit, facts.wiring
    cite = Citing(facts)
    cite.part(part.name)
    cite.loads()
    isolation = isolated(facts, cite)
    held = circuit.settled(replace(ON, operated=frozenset({part.name})), circuit.running(ON))
    back = circuit.settled(ON, held)
    loads = {p.name for p in wiring.parts if p.heats}
    ends = _ends(facts, operated=part.name)
    yield ProvingStep(
        f"stop {part.name}",
        3,
        f"{part.type.title}: {part.name}",
        f"Output on, then: {DOES.get(part.type.kind, 'make it open:')} {part.name}.",
        cite.seen(ends.must),
        isolated=isolation,
        caution=ends.caution,
        cites={**cite.cites, "what is wired": ends.caution},
    )
    again, pressed = ", ".join(sorted(loads & back)), part.type.kind.startswith("estop")
    starts = (
        f"As it is wired {again} starts again by itself" if again else "Nothing starts until somebody presses start"
    )
    yield ProvingStep(
        f"release {part.name}",
        3,
        f"{part.name} let go",
        f"Let {part.name} go again, and touch nothing else.",
        "Nothing starts until somebody presses start." if pressed else f"{starts}.",
        isolated=isolation,
        caution=f"{starts}: see Wiring. Nobody expects that of a stop that is only let go."
        if again and pressed
        else "",
        cites={**cite.cites, "what must be seen": starts},
    )


def _power_cut(facts: ProvingFacts) -> ProvingStep:
    cite = Citing(facts)
    loads = [p for p in facts.wiring.parts if p.heats]
    cite.loads()
    given = cite.setting("after_power")
    circuit = facts.circuit
    lost = circuit.settled(replace(ON, power=False), circuit.running(ON))
    again = sorted({p.name for p in loads} & circuit.settled(ON, lost))
    own = {
        "stand_by": "The controller stands by, and asks for nothing until somebody does something.",
        "start_setpoint": "The controller goes to its start-up set-point.",
    }.get(str(given), "The controller goes on as before.")
    gets = (
        f"As it is wired {', '.join(again)} gets power again as soon as it asks."
        if again
        else "The circuit stays off until somebody presses start."
    )
    if not loads:
        own, gets = "It comes back by itself, with no set value lost.", ""
    return ProvingStep(
        "power cut",
        3,
        "Power cut",
        f"Output on; {facts.power_off}, a minute, and on; touch nothing.",
        cite.seen(f"{own} {gets}".strip()),
        isolated=isolated(facts, cite),
        cites=cite.cites,
        caution="It would heat with nobody there." if again and given == "go_on" and facts.purpose.heats else "",
    )
