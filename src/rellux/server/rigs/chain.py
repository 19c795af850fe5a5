"""A rig's chain of parts and what is wrong with it."""

from rellux.core.findings import Finding, Severity, worst_first
from rellux.core.parts.chain import Chain, chain
from rellux.core.parts.checks import chain_findings
from rellux.core.parts.mains import mains_findings
from rellux.core.setup.proposals import PERIODS
from rellux.core.wiring.choice import Actuator, Choice
from rellux.server.questions.domain import kept_findings, worst_by_piece
from rellux.server.setup.domain import current_values

from .domain import choice_of, purpose_of
from .models import Rig


def period_of(rig: Rig, actuator: Actuator) -> float:
    """The control period in s that is set, or else the usual one of the switch."""
    return float(current_values(rig).get("period_s") or PERIODS[actuator.value])


def chain_of(rig: Rig, choice: Choice) -> Chain:
    return chain(purpose_of(rig), choice, period_of(rig, choice.actuator))


def parts_findings(rig: Rig) -> list[Finding]:
    """What carries more than it may, and what kept answers have found wrong."""
    choice = choice_of(rig)
    if choice is None:
        return kept_findings(rig)
    return worst_first(
        [*chain_findings(chain_of(rig, choice)), *mains_findings(purpose_of(rig), choice), *kept_findings(rig)]
    )


def worst_of(rig: Rig, found: Chain) -> list[Severity | None]:
    """The worst that is said of each piece of a chain."""
    worst = worst_by_piece(rig)
    for finding in chain_findings(found):
        key = finding.rule.removeprefix("parts.")
        worst[key] = min(worst.get(key, finding.severity), finding.severity, key=list(Severity).index)
    return [worst.get(p.key) for p in found.pieces]
