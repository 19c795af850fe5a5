"""What guards a rig, whatever it does to its temperature: it heats, it cools, or it only watches."""

from dataclasses import dataclass, replace

from ..control.alarms.settings import AlarmKind
from ..findings import Finding, worst_first
from ..plant.rig_models import pumped_at_work
from ..purpose.heater import heat_w
from ..purpose.purpose import Effect, Purpose
from .beside import cooler_findings
from .cooled import LOOKED_AT, cool_findings, cooled, propose_cool
from .findings import guarding_findings
from .ladder import Gap, Situation, Step, ladder
from .plan import Limiter, Plan, StatusLight
from .propose import ProposedPlan, propose_plan
from .touch import light_findings, usual_light
from .watched import WATCHES, propose_watch, watch_findings, watched


def moved_w(purpose: Purpose) -> float:
    """What a rig puts into its chamber, or takes out of it, W; 0 of one that only watches."""
    if purpose.cools:
        return pumped_at_work(purpose)
    return heat_w(purpose) if purpose.heats else 0.0


def alarm_kinds(effect: Effect) -> tuple[AlarmKind, ...]:
    """What an alarm of such a rig may look at."""
    return {Effect.HEATS: tuple(AlarmKind), Effect.COOLS: LOOKED_AT, Effect.WATCHES: WATCHES}[effect]


def propose(situation: Situation) -> ProposedPlan:
    """The plan to begin with."""
    if situation.rig.purpose.cools:
        return propose_cool(situation)
    return propose_plan(situation) if situation.rig.purpose.heats else propose_watch(situation)


@dataclass(frozen=True)
class Offered:
    """What may be added to a plan, as it suits this rig; no limiter for one that only watches."""

    limiter: Limiter | None
    light: StatusLight


def offered(situation: Situation) -> Offered:
    """A limiter as it would be proposed if it were among the parts, and a status light."""
    fitted = propose(replace(situation, plan=Plan(), has_limiter=True)).plan
    return Offered(fitted.limiter, usual_light(situation) if situation.rig.purpose.heats else StatusLight())


def scale(situation: Situation) -> tuple[tuple[Step, ...], tuple[Gap, ...]]:
    """Everything that stands on its ladder, and the gaps between."""
    if situation.rig.purpose.heats:
        hot = ladder(situation)
        return hot.steps, hot.gaps
    other = cooled(situation) if situation.rig.purpose.cools else watched(situation)
    return other.steps, other.gaps


def findings_in(situation: Situation) -> list[Finding]:
    """What of its plan does not suit the rig."""
    if situation.rig.purpose.heats:
        found = ladder(situation)
        beside = cooler_findings(found, situation)
        return worst_first([*guarding_findings(found, situation), *beside, *light_findings(situation)])
    if situation.rig.purpose.cools:
        return cool_findings(cooled(situation), situation)
    return watch_findings(watched(situation), situation)
