"""The wiring rules. Each looks at the connection list and what is computed from it, never at a drawing."""

from collections.abc import Callable

from ...findings import Finding, worst_first
from ..circuit.solve import CircuitSolver
from ..model import ConnectionList
from .case import Case, Context, context_for
from .command import (
    alarm,
    cooler_interlock,
    firing,
    floating_inputs,
    flow_begins,
    flow_interlock,
    signals,
    supplies,
    two_drivers,
)
from .control import no_nc, phases
from .currents import contacts, inrush, insulation, source_load, ssr_load, star_balance, voltage_ratings
from .earth import earth, earth_broken, earth_carries, earth_colour, earth_size, neutral_earth
from .inputs import exchanged, limiter_type, sensors, three_wires
from .logic import active_low, common_ground, flyback, pin_current, pin_voltage, pins
from .modules import cooling_modules, turned_modules
from .neutral import all_lives, automatic_reset, breakers_apart, in_neutral
from .power import (
    breaker_load,
    drive_budget,
    load_voltage,
    motors,
    parallel_contacts,
    relay_overload,
    ssr_drive,
    wire_breaker,
)
from .probes import bundle, colours, copper, grounded, leads, terminals
from .protective import each_zone, guards, limiter, overcurrent
from .sensor import polarity, sensor_type
from .several import fed_twice, neutrals_joined, other_return, several_supplies
from .supply import (
    automatic_disconnection,
    emergency_stop,
    energise_to_trip,
    means_of_disconnection,
    plug_load,
    reversible_plug,
    thermal_fuse,
)
from .tidy import crowded, dead_ends, suppressor, unconnected

__all__ = ["RULES", "Context", "check", "context_for"]

RULES: tuple[Callable[[Case], list[Finding]], ...] = (
    earth,
    overcurrent,
    ssr_drive,
    relay_overload,
    limiter,
    each_zone,
    guards,
    polarity,
    sensor_type,
    sensors,
    limiter_type,
    three_wires,
    exchanged,
    wire_breaker,
    breaker_load,
    load_voltage,
    drive_budget,
    parallel_contacts,
    motors,
    no_nc,
    phases,
    in_neutral,
    earth_broken,
    neutral_earth,
    earth_carries,
    earth_colour,
    earth_size,
    breakers_apart,
    all_lives,
    automatic_reset,
    automatic_disconnection,
    means_of_disconnection,
    plug_load,
    reversible_plug,
    energise_to_trip,
    emergency_stop,
    contacts,
    source_load,
    voltage_ratings,
    ssr_load,
    star_balance,
    inrush,
    insulation,
    supplies,
    floating_inputs,
    two_drivers,
    alarm,
    cooler_interlock,
    cooling_modules,
    turned_modules,
    flow_interlock,
    flow_begins,
    firing,
    signals,
    copper,
    colours,
    terminals,
    leads,
    grounded,
    bundle,
    common_ground,
    pins,
    pin_current,
    pin_voltage,
    flyback,
    active_low,
    unconnected,
    dead_ends,
    crowded,
    suppressor,
    thermal_fuse,
    fed_twice,
    neutrals_joined,
    other_return,
    several_supplies,
)


def check(wiring: ConnectionList, context: Context, circuit: CircuitSolver | None = None) -> list[Finding]:
    """All findings, worst first. ``circuit``: the same list ready to be solved, where somebody has it already."""
    case = Case(wiring, context, circuit or CircuitSolver(wiring, context.control_v))
    found: list[Finding] = []
    for rule in RULES:
        found.extend(rule(case))
    return worst_first(found)
