"""Facts to prove rigs by: the usual circuits of the second opinion, planned and set as Rellux proposes."""

from dataclasses import replace
from functools import lru_cache

from rellux.core.guarding.family import HeatedRig
from rellux.core.guarding.ladder import Situation
from rellux.core.guarding.plan import Plan, ThermalFuse
from rellux.core.guarding.propose import propose_plan
from rellux.core.proving.facts import Fitted, ProvingFacts
from rellux.core.proving.plan import proving_stages
from rellux.core.proving.step import ProvingStep
from rellux.core.purpose.purpose import RigKind
from rellux.core.setup.parameters import settings_from
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.oracle.circuits import RIGS

NAMES = tuple(RIGS)
FITTED = {Fitted.SENSOR: "since spring", Fitted.LIMITER: "since spring", Fitted.CONTROLLER: "since spring"}


@lru_cache
def facts(name: str) -> ProvingFacts:
    """A rig with a plan, and a thermal fuse in it."""
    purpose, choice = RIGS[name]
    sheet = {p.name: p.value for p in propose(RigFacts(purpose, choice.sensor, choice.actuator.value))}
    settings = settings_from(sheet)
    rig = HeatedRig(RigKind.OVEN, purpose, purpose.heater_power_w)
    bare = Situation(rig, Plan(), choice.sensor, settings, float(sheet["setpoint_high_c"]), has_limiter=choice.limiter)
    plan = replace(propose_plan(bare).plan, fuse=ThermalFuse(240.0, 200.0, 120.0))
    wiring, planned = usual(purpose, choice, Usual.PARTS), replace(bare, plan=plan)
    circuit = CircuitSolver(wiring, purpose.control_voltage_v)
    return ProvingFacts(purpose, choice.sensor, wiring, circuit, sheet, settings, rig, planned, fitted=FITTED)


def wired(known: ProvingFacts, wiring: ConnectionList) -> ProvingFacts:
    """The same with another list."""
    return replace(known, wiring=wiring, circuit=CircuitSolver(wiring, known.purpose.control_voltage_v))


def steps_of(known: ProvingFacts) -> dict[str, ProvingStep]:
    return {s.key: s for stage in proving_stages(known) for s in stage.steps}
