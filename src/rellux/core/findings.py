"""What a check has to say: a severity, one sentence of reason, a fix, and where possible a proposal to accept."""

from collections.abc import Iterable
from dataclasses import KW_ONLY, dataclass
from enum import StrEnum

from .explain import Figure


class Severity(StrEnum):
    """``danger``: someone or something can be hurt. ``fault``: it will not work as meant. ``advice``: better done."""

    DANGER = "danger"
    FAULT = "fault"
    ADVICE = "advice"


@dataclass(frozen=True)
class Proposal:
    """A change that would settle a finding; accepted with one action. ``value`` is in the core's unit."""

    target: str
    value: float | str | bool
    _: KW_ONLY
    label: str


@dataclass(frozen=True)
class Finding:
    """One result of a check. ``subjects`` name the parts, terminals or parameters it is about."""

    rule: str
    severity: Severity
    _: KW_ONLY
    title: str
    reason: str
    fix: str
    subjects: tuple[str, ...] = ()
    figures: tuple[Figure, ...] = ()
    proposal: Proposal | None = None
    source: str = ""


_ORDER = {Severity.DANGER: 0, Severity.FAULT: 1, Severity.ADVICE: 2}


def worst_first(findings: Iterable[Finding]) -> list[Finding]:
    """Sorted by severity, otherwise in the order found."""
    return sorted(findings, key=lambda finding: _ORDER[finding.severity])
