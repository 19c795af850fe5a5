"""Facts to prove rigs by: the usual circuits of the second opinion, planned and set as Rellux proposes."""

from dataclasses import replace
from functools import lru_cache

from rellux.core.guarding.by_effect import moved_w
from rellux.core.guarding.by_effect import propose as propose_for
from rellux.core.guarding.family import HeatedRig
from rellux.core.guarding.ladder import Situation
from rellux.core.guarding.plan import Plan, ThermalFuse
from rellux.core.proving.facts import Fitted, ProvingFacts
from rellux.core.proving.plan import proving_stages
from rellux.core.proving.step import ProvingStep
from rellux.core.purpose.purpose import Effect, Fire, Purpose, RigKind
from rellux.core.setup.parameters import settings_from
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.wiring.choice import Choice
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.oracle.circuits import RIGS

NAMES = tuple(RIGS)
FITTED = {Fitted.SENSOR: "since spring", Fitted.LIMITER: "since spring", Fitted.CONTROLLER: "since spring"}


@lru_cache
def facts(name: str) -> ProvingFacts:
    """A rig with a plan, and a thermal fuse in it."""
    return planned_for(*RIGS[name])


@lru_cache
def cooled() -> ProvingFacts:
    """The relay cabinet as a cold box of 4 °C."""
    purpose, choice = RIGS["cabinet relay"]
    cold = replace(
        purpose, effect=Effect.COOLS, working_c=4.0, highest_c=8.0, highest_reason="it thaws", lowest_c=0.5, lowest_reason="it freezes"
    )  # fmt: skip
    return planned_for(cold, replace(choice, limiter=True), RigKind.COLD)


@lru_cache
def burning() -> ProvingFacts:
    """A boiler over a fire that glows on at a twentieth."""
    purpose, choice = RIGS["cabinet relay"]
    return planned_for(replace(purpose, fire=Fire(12_000.0, 5.0, 300.0)), replace(choice, limiter=True), RigKind.BOILER)


def planned_for(purpose: Purpose, choice: Choice, kind: RigKind = RigKind.OVEN) -> ProvingFacts:
    """Wired as usual, set and guarded as proposed, with a thermal fuse."""
    sheet = {p.name: p.value for p in propose(RigFacts(purpose, choice.sensor, choice.actuator.value))}
    settings = settings_from(sheet, purpose)
    rig = HeatedRig(kind, purpose, moved_w(purpose))
    bound = float(sheet["setpoint_low_c" if purpose.cools else "setpoint_high_c"])
    bare = Situation(rig, Plan(), choice.sensor, settings, bound, has_limiter=choice.limiter)
    plan = replace(propose_for(bare).plan, fuse=ThermalFuse(240.0, 200.0, 120.0))
    wiring, planned = usual(purpose, choice, Usual.PARTS), replace(bare, plan=plan)
    circuit = CircuitSolver(wiring, purpose.control_voltage_v)
    return ProvingFacts(purpose, choice.sensor, wiring, circuit, sheet, settings, rig, planned, fitted=FITTED)


def wired(known: ProvingFacts, wiring: ConnectionList) -> ProvingFacts:
    """The same with another list."""
    return replace(known, wiring=wiring, circuit=CircuitSolver(wiring, known.purpose.control_voltage_v))


def steps_of(known: ProvingFacts) -> dict[str, ProvingStep]:
    return {s.key: s for stage in proving_stages(known) for s in stage.steps}
