"""Fields of a chamber that several questions share, and the usual chamber of the kinds of rig that others resemble."""

from dataclasses import dataclass
from typing import Any

from ...errors import refuse
from ...findings import Finding, Severity
from ...form import choice, fill, number, plain, rows
from ...heating.materials import MATERIALS
from ...heating.outside import EMISSIVITY
from ...heating.transient import reachable
from ...heating.walls import MOST_OPEN, Chamber, Layer, Steady
from ...messages import quantity, temperature
from ...purpose.kinds import KINDS
from ...purpose.purpose import RigKind
from ...units import Kind
from ...wiring.circuit.faults import Reaches
from ..answer import Known

FINISHES = {
    "painted": "Painted, wood or dull",
    "oxidised": "Oxidised steel",
    "stainless": "Stainless steel",
    "bright": "Bright aluminium or foil",
}


@dataclass(frozen=True)
class LayerInput:
    """One layer, from the inside out."""

    material: str = choice("Material", {k: m.name for k, m in MATERIALS.items()}, "brick_23")
    thickness_mm: float = number("Thickness", Kind.MILLIMETRES, 0.1, 500, 50)


KILN = (LayerInput("brick_23", 114), LayerInput("calcium_silicate", 50))
USUAL: dict[RigKind, dict[str, Any]] = {
    RigKind.KILN: {"width_mm": 400, "height_mm": 400, "depth_mm": 450, "layers": KILN},
    RigKind.CABINET: {
        "width_mm": 500,
        "height_mm": 500,
        "depth_mm": 400,
        "layers": (LayerInput("steel", 1), LayerInput("pir_foam", 30), LayerInput("plywood", 6)),
    },
    RigKind.OVEN: {
        "width_mm": 450,
        "height_mm": 400,
        "depth_mm": 400,
        "layers": (LayerInput("stainless", 1), LayerInput("rock_wool", 60), LayerInput("steel", 1)),
    },
    RigKind.PLATE: {
        "width_mm": 300,
        "height_mm": 60,
        "depth_mm": 300,
        "layers": (LayerInput("aluminium", 10), LayerInput("rock_wool", 20)),
    },
    RigKind.TANK: {
        "width_mm": 400,
        "height_mm": 300,
        "depth_mm": 300,
        "layers": (LayerInput("stainless", 1), LayerInput("rock_wool", 30)),
    },
}
SHARED = ("width_mm", "height_mm", "depth_mm", "layers", "finish", "opening_cm2", "bridges_percent")


@dataclass(frozen=True)
class ChamberInput:
    """A box-shaped chamber by its inside."""

    inside_c: float = number("Inside", Kind.TEMPERATURE, -20, 1800, 600)
    ambient_c: float = number("Room", Kind.TEMPERATURE, -40, 60, 21)
    width_mm: float = number("Width inside", Kind.MILLIMETRES, 20, 5000, 400)
    height_mm: float = number("Height inside", Kind.MILLIMETRES, 20, 5000, 400)
    depth_mm: float = number("Depth inside", Kind.MILLIMETRES, 20, 5000, 450)
    layers: tuple[LayerInput, ...] = rows("Layers, from the inside out", LayerInput, KILN, 1, 8)
    finish: str = choice("Outside", FINISHES, "painted")
    opening_cm2: float = number("Open to the room", Kind.COUNT, 0, 5000, 5, hint="cm² of spy holes and gaps")
    bridges_percent: float = number("Seals, cables, corners add", Kind.PERCENT, 0, 100, 10)

    def chamber(self) -> Chamber:
        """The chamber; raises ``Refused`` in the form's own fields."""
        chamber = self._chamber()
        if self.inside_c <= self.ambient_c:
            raise refuse("inside_c", "the chamber is not hotter than the room", f"above {temperature(self.ambient_c)}")
        if chamber.opening_m2 > MOST_OPEN * chamber.inside_m2:
            most = f"up to {quantity(MOST_OPEN * chamber.inside_m2 * 1e4, 'cm²', '.0f')}"
            raise refuse("opening_cm2", "more than half the chamber's surface is open", most)
        return chamber

    def _chamber(self) -> Chamber:
        return Chamber(
            self.width_mm / 1000,
            self.height_mm / 1000,
            self.depth_mm / 1000,
            tuple(Layer(row.material, row.thickness_mm / 1000) for row in self.layers),
            self.opening_cm2 / 1e4,
            self.bridges_percent / 100,
            EMISSIVITY[self.finish],
        )


def usual_chamber(kind: RigKind) -> dict[str, Any]:
    """Size inside (mm) and layers a chamber of this kind usually has: those of the kind it is most like."""
    return USUAL[KINDS[kind].like]


def chamber_of_rig(known: Known) -> dict[str, Any]:
    """What a rig knows of its chamber: kept walls if there are any, else the usual ones of its kind."""
    kept = known.kept.get("walls") or known.kept.get("capability") or {}
    start = {"inside_c": known.purpose.working_c, "ambient_c": known.purpose.ambient_c, **usual_chamber(known.kind)}
    return {**start, **{name: kept[name] for name in SHARED if name in kept}}


def layer_findings(chamber: Chamber, found: Steady) -> list[Finding]:
    """Layers hotter than they stand."""
    findings = []
    for i, layer in enumerate(chamber.layers):
        hottest, limit = found.interfaces_c[i], layer.of.limit_c
        if hottest > limit:
            findings.append(
                Finding(
                    "wall.layer-limit",
                    Severity.DANGER,
                    title=f"{layer.of.name} gets {temperature(hottest, '.0f')} and stands {temperature(limit, '.0f')}",
                    reason="At rest its hot side is above what the material stands for long: it shrinks, crumbles or burns.",
                    fix="Put more, or a better, insulation inside of it; or another material here.",
                    subjects=(f"layer {i + 1}",),
                    source=layer.of.source,
                )
            )
    return findings


def reaches(known: Known) -> Reaches | None:
    """Where a steady heat leads in this rig's chamber, and the weakest thing in it; None before its walls are kept."""
    if not {"walls", "capability"} & known.kept.keys():
        return None
    start = chamber_of_rig(known)
    given = fill(ChamberInput, plain({name: start[name] for name in SHARED if name in start}))
    chamber, ambient = given._chamber(), known.purpose.ambient_c
    limits = [m.limit_c for m in known.purpose.materials]
    return Reaches(lambda watts: reachable(chamber, max(watts, 0.1), ambient), min([known.purpose.highest_c, *limits]))
