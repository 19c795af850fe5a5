"""What is wrong with what is fitted: another sensor than was chosen, what its lead and length do to the reading; what is worn
or due."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date

from ..explain import Figure, Input
from ..findings import Finding, Proposal, Severity
from ..messages import difference, percent, quantity, temperature
from ..sensing.choosing import IMMERSED_DIAMETERS, Junction
from ..sensing.resistance import resistance
from ..sensing.resistance import temperature as temperature_at
from ..sensing.sensors import NOMINAL_OHM, PT100, describe
from ..units import Kind
from ..wiring.choice import Choice, Output
from ..wiring.rules.probes import SHORT_LEADS_C
from .equipment import Equipment, EquipmentRole, Probe

WORN, WORN_OUT = 0.8, 1.0
"""Shares of a switch's life from which it is said, as advice and as a fault (our choice)."""
SOON_DAYS = 30
"""A date is said so long before, days (our choice)."""


@dataclass(frozen=True)
class Fitted:
    """One piece in its place. ``operations``: how often it switched on in all runs that were recorded with it."""

    it: Equipment
    operations: float = 0.0


def fitted_findings(
    fitted: Mapping[EquipmentRole, Fitted], choice: Choice, working_c: float, today: date
) -> Iterator[Finding]:
    """Everything that is wrong with what is fitted to a rig of these parts."""
    for one in fitted.values():
        yield from due_findings(one.it, today)
        yield from worn_findings(one.it, one.operations)
    if sensor := fitted.get(EquipmentRole.SENSOR):
        yield from _probe(sensor.it, choice, working_c)


def due_findings(it: Equipment, today: date) -> Iterator[Finding]:
    """Whether its certificate has ended, or soon does."""
    due = it.due
    if due is None or (due - today).days > SOON_DAYS:
        return
    over = due < today
    yield Finding(
        "equipment.due",
        Severity.FAULT if over else Severity.ADVICE,
        title=f"{it.name}: its certificate {'ended' if over else 'ends'} on {due:%-d %B %Y}",
        reason="After that day nobody stands for what it was found to do.",
        fix="Have it looked at, then enter the next date at Equipment.",
        subjects=(it.role.value, it.name),
    )


def lead_error(probe: Probe, at_c: float) -> Figure | None:
    """What both wires of its lead add to the reading of a resistance probe on two wires, °C; None where it is not known or has none.

    Source: the table of IEC 60751, read back with the loop's ohms added.
    """
    ohm = probe.loop_ohm
    if ohm is None or probe.leads != 2 or probe.sensor not in NOMINAL_OHM:
        return None
    r0 = NOMINAL_OHM[probe.sensor]
    shown = float(temperature_at(float(resistance(at_c, r0)) + ohm, r0))
    return Figure(
        "reads high by its lead",
        shown - at_c,
        Kind.DIFFERENCE,
        formula="ΔT = T(R(T) + R_loop) − T",
        inputs=(
            Input("both wires of the lead", ohm, Kind.RESISTANCE, "R_loop", "computed"),
            Input("temperature", at_c, Kind.TEMPERATURE, "T", "purpose"),
        ),
        source="IEC 60751",
        symbol="ΔT",
    )


def _probe(it: Equipment, choice: Choice, working_c: float) -> Iterator[Finding]:
    probe, name, chosen = it.probe, it.name, choice.sensor
    if probe is None:
        return
    about = (EquipmentRole.SENSOR.value, name)
    if probe.sensor != chosen:
        yield Finding(
            "equipment.other-sensor",
            Severity.DANGER,
            title=f"{name} is a {describe(probe.sensor)}, and the rig was planned with a {describe(chosen)}",
            reason="An input set for the other one shows a false temperature, and what guards this rig by it acts at a false one.",
            fix="Take the sensor that is fitted under Parts, then set the controller's input to it; or fit the other one.",
            subjects=about,
            proposal=Proposal("parts.sensor", probe.sensor, label=f"The rig has a {describe(probe.sensor)}"),
        )
    error = lead_error(probe, working_c)
    if error is not None and error.value > SHORT_LEADS_C:
        yield Finding(
            "equipment.lead",
            Severity.FAULT,
            title=f"{name} reads {difference(error.value, '.1f')} high by its own lead",
            reason=f"It has two wires, and {quantity(probe.loop_ohm or 0.0, 'Ω', '.2f')} of copper count as sensor.",
            fix="A probe with three wires, or a Pt1000; else compare it in place, with this lead, and enter the offset.",
            subjects=about,
            figures=(error,),
            source=error.source,
        )
    elif probe.sensor == PT100 and probe.leads == 2:
        yield Finding(
            "equipment.bridge",
            Severity.ADVICE,
            title=f"{name} has two wires, and the input has three terminals",
            reason="An input that waits for a third wire shows an open sensor, or wanders.",
            fix="Bridge the two terminals of one end, as the controller's manual shows, and say here how long and thick the lead is.",
            subjects=about,
        )
    if probe.sensor == PT100 and probe.leads == 4:
        yield Finding(
            "equipment.fourth",
            Severity.ADVICE,
            title=f"{name} has four wires, and the input takes three",
            reason="Two of one end bridged together would make its lead half as long as the other's: it reads low.",
            fix="Leave the fourth wire open and insulated.",
            subjects=about,
        )
    if probe.stands_c is not None and probe.stands_c < working_c:
        yield Finding(
            "equipment.thin",
            Severity.FAULT,
            title=f"{name} stands {temperature(probe.stands_c)} for good, and the rig works at {temperature(working_c)}",
            reason=f"At {quantity(probe.sheath_mm or 0.0, 'mm')} its wires are so thin that they change: it drifts in days, then opens.",
            fix="A thicker one, or one of a type that stands more.",
            subjects=about,
            source="ASTM E608 table 1, from memory",
        )
    if probe.sheath_mm and probe.length_mm and probe.length_mm < IMMERSED_DIAMETERS * probe.sheath_mm:
        yield Finding(
            "equipment.short",
            Severity.ADVICE,
            title=f"{name} is too short for its thickness",
            reason=f"{quantity(probe.length_mm, 'mm')} are {quantity(probe.length_mm / probe.sheath_mm, form='.1f')} diameters: "
            "its sheath carries heat away from what it measures, and it reads between the two.",
            fix="A thinner or a longer one, ten diameters in what it measures; else compare it in place.",
            subjects=about,
            source="common practice, no source",
        )
    if probe.elements > 1 and choice.limiter:
        yield Finding(
            "equipment.double",
            Severity.ADVICE,
            title=f"The second element of {name} is no limiter's sensor",
            reason="Both are in one sheath: knocked out of its place, both read the same false temperature, and nothing is independent.",
            fix="Leave the second element for comparing; give the limiter a probe of its own, in a place of its own.",
            subjects=about,
        )
    if probe.junction is Junction.GROUNDED and choice.output is Output.PIN:
        yield Finding(
            "equipment.grounded",
            Severity.FAULT,
            title=f"{name} is welded to its sheath, and a board has no isolated input",
            reason="Through the sheath the board's ground meets the case: it reads noise, and current of the heater's finds a way back.",
            fix="An insulated junction, or a converter with isolation.",
            subjects=about,
        )


def worn_findings(it: Equipment, operations: float) -> Iterator[Finding]:
    """Whether a switch that came on so often has little of its life left."""
    if it.life is None or operations < WORN * it.life:
        return
    share = operations / it.life
    out = share >= WORN_OUT
    yield Finding(
        "equipment.worn",
        Severity.FAULT if out else Severity.ADVICE,
        title=f"{it.name} has switched {percent(share)} of its life",
        reason=f"{quantity(operations, form='.0f')} operations are recorded of the {quantity(it.life, form='.0f')} it is made for; what "
        "ran unrecorded comes on top. A worn contact welds, and what it switches stays on.",
        fix="Change it now." if out else "Have another at hand, and make the limiter act soon.",
        subjects=(it.role.value, it.name),
    )
