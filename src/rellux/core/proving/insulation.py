"""Stage 0, insulation: what is disconnected and bridged for it, at which volts, and how much there must be."""

from collections.abc import Iterator

from ..explain import Figure
from ..messages import quantity
from ..units import Kind
from ..wiring.model import ConnectionList, Part, Role
from ..wiring.names import Family, TerminalName
from .facts import Citing, ProvingFacts
from .step import Measure, MeterSetting, ProvingStep

MAINS_TEST_V, LOW_TEST_V = 500.0, 250.0
MAINS_OHM, LOW_OHM, LARGE_OHM = 1e6, 0.5e6, 0.3e6
LARGE_W = 3000.0
"""Insulation, Ω, at 500 V on mains and at 250 V on extra-low volts (IEC 60364-6, table 6.1, from memory); what some accept of large heaters
that stood damp (from memory)."""
TENDER: tuple[Family, ...] = (
    "controller_ssr",
    "controller_relay",
    "controller_analogue",
    "limiter",
    "converter",
    "display",
    "logger",
    "regulator",
    "power_module",
    "snubber",
    "zero_cross",
    "panel_meter",
    "thermocouple",
    "pt100",
    "pt1000",
    "thermistor",
    "relay_module",
    "relay_module_low",
    "timer",
)
"""Families that 500 V may kill, or that would be measured along."""
BRIDGED: tuple[Family, ...] = ("ssr", "contactor", "relay")


def protective(wiring: ConnectionList) -> tuple[TerminalName, ...]:
    """Earth terminals of the supplies, where they have one."""
    return tuple(s.at("PE") for s in wiring.of_kind("supply") if s.type.terminal("PE"))


def earthed(wiring: ConnectionList) -> list[tuple[Part, TerminalName]]:
    """Metal with an earth terminal of its own: part and terminal."""
    return [
        (p, end)
        for p in wiring.parts
        if p.type.family not in ("supply", "earth_bar")
        for end in p.acting_as(Role.EARTH)
    ]


def insulation_steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """The one test that finds damp, a pinch and a wrongly landed wire; none where there is no metal to test against."""
    pins = protective(facts.wiring)
    cite = Citing(facts)
    cite.whole_list()
    mains = facts.wiring.of_kind("supply_1ph", "supply_split", "supply_3ph")
    if not pins and not earthed(facts.wiring):
        return
    test_v, least = (MAINS_TEST_V, MAINS_OHM) if mains else (LOW_TEST_V, LOW_OHM)
    tender = [p.name for p in facts.wiring.parts if p.type.family in TENDER]
    bridged = [p.name for p in facts.wiring.parts if p.type.family in BRIDGED]
    has_element = facts.purpose.heats and facts.purpose.fire is None
    damp = cite.purpose("heater_power_w") >= LARGE_W and has_element
    figure = Figure(
        "insulation",
        least,
        Kind.RESISTANCE,
        symbol="R",
        source="IEC 60364-6, table 6.1, from memory",
        reason=f"Some schemes accept {quantity(LARGE_OHM / 1e3, 'kΩ', '.0f')} of heaters this large that stood damp (from "
        "memory): dry them out at low heat first."
        if damp
        else "An element that stood damp reads low: dry it out at low heat, then measure again."
        if has_element
        else "Damp, a pinched wire and one that is wrongly landed show themselves here.",
    )
    off = f"Take the wires off {', '.join(tender)}" if tender else "Nothing need be disconnected"
    across = f"; bridge {', '.join(bridged)}" if bridged else ""
    yield ProvingStep(
        "insulation",
        0,
        "Insulation",
        f"{off}{across}. Join all live ends, and apply {quantity(test_v, 'V')} DC from them to earth and case for a "
        "minute. Discharge, and undo what was joined.",
        "It climbs and stays; below it something is damp, pinched or wrongly landed.",
        Measure(figure, least, None),
        MeterSetting.INSULATION,
        isolated=f"{facts.plug_out}, every electronic part apart from the test.",
        caution=f"{quantity(test_v, 'V')} at your fingers: nobody touches the rig. A meter’s ohms range is not this test.",
        cites=cite.cites,
    )
