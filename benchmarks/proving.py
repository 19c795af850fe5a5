"""The plan of first power-up for the oven of three zones in 60 parts, against the analysis of its failures."""

from dataclasses import replace

from benchmarks.large_rig import PURPOSE, large_rig
from benchmarks.measure import report, timed

from rellux.core.guarding.by_effect import propose as propose_plan
from rellux.core.guarding.family import HeatedRig
from rellux.core.guarding.ladder import Situation
from rellux.core.guarding.plan import Plan
from rellux.core.proving.facts import ProvingFacts
from rellux.core.proving.plan import proving_stages
from rellux.core.purpose.purpose import RigKind
from rellux.core.setup.parameters import settings_from
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.wiring.circuit.faults import analyse
from rellux.core.wiring.circuit.solve import CircuitSolver

AT_MOST = 2.0


def plan_of_a_large_rig() -> None:
    """Both from a circuit nobody has solved yet."""
    wiring = large_rig()
    sheet = {p.name: p.value for p in propose(RigFacts(PURPOSE, "K", "ssr"))}
    settings, rig = settings_from(sheet), HeatedRig(RigKind.OVEN, PURPOSE, PURPOSE.heater_power_w)
    bare = Situation(rig, Plan(), "K", settings, float(sheet["setpoint_high_c"]))
    planned = replace(bare, plan=propose_plan(bare).plan)

    def prove() -> None:
        circuit = CircuitSolver(wiring, PURPOSE.control_voltage_v)
        proving_stages(ProvingFacts(PURPOSE, "K", wiring, circuit, sheet, settings, rig, planned))

    def fail() -> None:
        analyse(CircuitSolver(wiring, PURPOSE.control_voltage_v))

    prove(), fail()
    ratio = min(timed(prove) for _ in range(3)) / min(timed(fail) for _ in range(3))
    report("proving plan of a 60-part oven against its fault analysis", ratio, AT_MOST, at_least=False)
