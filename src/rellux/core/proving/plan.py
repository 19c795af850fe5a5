"""The stages of a rig’s first power-up, each with its steps, made from its own list, settings and limits."""

from dataclasses import dataclass

from . import control_power, dead, first_heat, heat_up, live_trip, output, safety
from .facts import ProvingFacts
from .step import ProvingStep

DEAD_STAGE, DRY_STAGE, LIVE_STAGE = 0, 3, 5
"""Everything unplugged; the limiter made to act without heat, and with it."""


@dataclass(frozen=True)
class ProvingStage:
    """``after``: the station after which it belongs. ``waits``: why it has no steps yet; empty where it has, or needs none."""

    number: int
    title: str
    after: str
    warns: str
    steps: tuple[ProvingStep, ...]
    waits: str = ""


FIRST_STAGE = "Prove stage 0: dead, unplugged"
"""What comes first at any rig, before its steps are made."""
PLAN_FIRST = "What guards the rig comes first: put a plan in force under Guarding."
_MAINS = "Mains: your local code, and a licensed person where it asks for one."
_HEAT = "Attended, hand on the main switch, a fire extinguisher at hand, nothing that burns near it."


def proving_stages(facts: ProvingFacts) -> tuple[ProvingStage, ...]:
    """All stages that a rig has; one without a plan has none of what proves it yet."""
    planned = facts.situation is not None
    acts, heats = facts.purpose.acts, facts.purpose.heats
    kept = "The load stays dead." if acts else "It only shows and calls: nothing else may happen."
    waits = "" if planned else PLAN_FIRST
    found = [
        ProvingStage(0, "Dead, unplugged", "wiring", f"{facts.plug_out}. {_MAINS}", tuple(dead.steps(facts))),
        ProvingStage(
            1,
            "Control power, load dead" if acts else "Power on",
            "wiring",
            f"First volts. {kept}",
            tuple(control_power.steps(facts)),
        ),
        ProvingStage(2, "Output, load dead", "setup", "The load stays dead.", tuple(output.steps(facts))),
        ProvingStage(
            3,
            "What stops it, load dead" if acts else "What calls",
            "guarding",
            kept,
            tuple(safety.steps(facts)) if planned else (),
            waits,
        ),
        ProvingStage(4, "First heat" if heats else "First cold", "guarding", _HEAT, tuple(first_heat.steps(facts))),
        ProvingStage(
            5,
            f"Tripped by real {'heat' if heats else 'cold'}",
            "guarding",
            _HEAT,
            tuple(live_trip.steps(facts)),
            waits,
        ),
        ProvingStage(6, "Thermal fuse", "guarding", _HEAT, tuple(live_trip.fuse_steps(facts)), waits if heats else ""),
        ProvingStage(
            7,
            f"Full power, then the {'hottest' if heats else 'longest'} run",
            "guarding",
            _HEAT,
            tuple(heat_up.steps(facts)),
        ),
    ]
    return (
        tuple(s for s in found if s.steps or s.waits)
        if acts
        else tuple(s for s in found if s.steps or (s.number == DRY_STAGE and s.waits))
    )
