"""The wiring rules. Each looks at the connection list and what is computed from it, never at a drawing."""

from collections.abc import Callable

from ...findings import Finding, worst_first
from ..model import ConnectionList
from .case import Case, Context, context_for
from .control import no_nc, phases
from .neutral import all_lives, automatic_reset, earth_broken, in_neutral
from .power import breaker_load, load_voltage, relay_overload, ssr_drive, wire_breaker
from .protective import earth, limiter, overcurrent
from .sensor import polarity, sensor_type
from .tidy import crowded, suppressor, unconnected

__all__ = ["RULES", "Context", "check", "context_for"]

RULES: tuple[Callable[[Case], list[Finding]], ...] = (
    earth,
    overcurrent,
    ssr_drive,
    relay_overload,
    limiter,
    polarity,
    sensor_type,
    wire_breaker,
    breaker_load,
    load_voltage,
    no_nc,
    phases,
    in_neutral,
    earth_broken,
    all_lives,
    automatic_reset,
    unconnected,
    crowded,
    suppressor,
)


def check(wiring: ConnectionList, context: Context) -> list[Finding]:
    """All findings, worst first."""
    case = Case(wiring, context)
    found: list[Finding] = []
    for rule in RULES:
        found.extend(rule(case))
    return worst_first(found)
