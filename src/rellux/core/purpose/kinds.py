"""The kinds of rig: what they are called, where they usually work, and what they can only be watched at.

The usual temperatures are common practice, no source: outside of them a slip of unit is asked back, never refused.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from ..errors import refuse
from ..findings import Finding, Severity
from ..messages import span, temperature
from .purpose import Effect, Purpose, RigKind

BOTH = (Effect.HEATS, Effect.WATCHES)


class Fires(StrEnum):
    """Whether a kind of rig is heated by a fire."""

    NEVER = "never"
    MAY = "may"
    ALWAYS = "always"


@dataclass(frozen=True)
class KindOfRig:
    """``usual_c``: between what it works, °C. ``like``: the kind whose chamber it resembles. ``lit``: what makes its temperature where
    Rellux does not, for the refusal. ``fires``: whether a fire heats it."""

    title: str
    usual_c: tuple[float, float]
    like: RigKind
    effects: tuple[Effect, ...] = BOTH
    lit: str = ""
    fires: Fires = Fires.NEVER


KINDS = {
    RigKind.CABINET: KindOfRig("Curing cabinet", (25.0, 150.0), RigKind.CABINET),
    RigKind.DRYING: KindOfRig("Drying cabinet", (25.0, 200.0), RigKind.CABINET, fires=Fires.MAY),
    RigKind.OVEN: KindOfRig("Oven", (40.0, 450.0), RigKind.OVEN, fires=Fires.MAY),
    RigKind.KILN: KindOfRig("Kiln", (300.0, 1350.0), RigKind.KILN, fires=Fires.MAY),
    RigKind.MUFFLE: KindOfRig("Muffle or tube furnace", (200.0, 1700.0), RigKind.KILN),
    RigKind.REFLOW_OVEN: KindOfRig("Reflow oven", (100.0, 300.0), RigKind.OVEN),
    RigKind.REFLOW_PLATE: KindOfRig("Reflow plate", (60.0, 300.0), RigKind.PLATE),
    RigKind.PLATE: KindOfRig("Hot plate", (30.0, 450.0), RigKind.PLATE),
    RigKind.PRESS: KindOfRig("Press plates", (40.0, 300.0), RigKind.PLATE),
    RigKind.BED: KindOfRig("Heated bed", (30.0, 150.0), RigKind.PLATE),
    RigKind.TANK: KindOfRig("Tank or bath", (20.0, 250.0), RigKind.TANK, fires=Fires.MAY),
    RigKind.BOILER: KindOfRig("Boiler", (40.0, 180.0), RigKind.TANK, fires=Fires.MAY),
    RigKind.BLOWER: KindOfRig("Hot-air blower", (40.0, 650.0), RigKind.OVEN),
    RigKind.DUCT: KindOfRig("Air duct", (20.0, 250.0), RigKind.OVEN, fires=Fires.MAY),
    RigKind.BELL: KindOfRig("Vacuum bell", (40.0, 450.0), RigKind.OVEN),
    RigKind.BAR: KindOfRig("Extruder or sealing bar", (80.0, 400.0), RigKind.PLATE),
    RigKind.TOOL: KindOfRig("Hand tool", (100.0, 480.0), RigKind.PLATE),
    RigKind.FIRE: KindOfRig("Forge or open fire", (100.0, 1400.0), RigKind.KILN, fires=Fires.ALWAYS),
    RigKind.COLD: KindOfRig(
        "Cold box",
        (-90.0, 18.0),
        RigKind.CABINET,
        (Effect.COOLS, Effect.WATCHES),
        "what is cold is cooled, or cools itself",
    ),
}


def check_kind(kind: RigKind, purpose: Purpose) -> None:
    """Raise ``Refused`` for what a kind of rig cannot do to its temperature here, or not with that."""
    known, effect = KINDS[kind], purpose.effect
    if effect not in known.effects:
        says = known.lit or f"a {known.title.lower()} is not cooled here"
        raise refuse("effect", says, ", ".join(e.value for e in known.effects))
    if purpose.fire is not None and known.fires is Fires.NEVER:
        may = ", ".join(k.title.lower() for k in KINDS.values() if k.fires is not Fires.NEVER)
        raise refuse("fire", f"a {known.title.lower()} is not heated by a fire here", f"none; with one: {may}")
    if purpose.heats and purpose.fire is None and known.fires is Fires.ALWAYS:
        raise refuse("fire", "say what the fire gives, and what is left of it when its fan stands", "a fire")


def kind_findings(kind: RigKind, purpose: Purpose) -> Iterator[Finding]:
    """A working temperature at which rigs of this kind do not usually work."""
    low, high = KINDS[kind].usual_c
    if low <= purpose.working_c <= high:
        return
    yield Finding(
        "purpose.kind",
        Severity.ADVICE,
        title=f"{temperature(purpose.working_c)} is unusual for a {KINDS[kind].title.lower()}",
        reason=f"They usually work between {span(low, high, '°C')}: what is assumed of its masses may be far off, or a sheet was "
        "read in the other unit.",
        fix="Look at unit and kind; if both are right, record a run and find its process: then nothing is assumed any more.",
        subjects=("kind", "working_c"),
        source="common practice, no source",
    )
