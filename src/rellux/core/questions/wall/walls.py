"""How hot is the outside of the wall, and what does it lose?"""

from dataclasses import dataclass, replace

from ...errors import Refused
from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...heating.outside import longest_touch
from ...heating.walls import Chamber, Layer, Steady, steady
from ...messages import percent, quantity, temperature
from ...units import Kind
from ..answer import Alternative, Answer, Axis, Curves, Mark, Question, Topic, curve
from .chamber import ChamberInput, chamber_of_rig, layer_findings

FEW_W = 10.0
"""Smaller savings are shown to two digits (our choice)."""
MUCH_OPEN = 0.25
"""Share of the loss through openings worth a word (our choice)."""
SEARING_C = 100.0
"""An outside beyond it wants another layer before anything else, °C (our choice)."""

SOURCE = (
    "Fourier's law with k(T); shape factor of Langmuir, Adams & Meikle (1913); "
    "Churchill & Chu (1975) and grey radiation outside"
)
HABIT_C = 60.0
"""Outside temperature many shops allow at most (conservative habit)."""


@dataclass(frozen=True)
class WallInput(ChamberInput):
    """A chamber at rest."""


def _answer(g: WallInput) -> Answer:
    chamber = g.chamber()
    found = steady(chamber, g.inside_c, g.ambient_c)
    loss, outside = _loss(chamber, found, g), _outside(found, g)
    depth = tuple(float(x) * 1000 for x in found.depth_m)
    ends, x = [], 0.0
    for layer in chamber.layers:
        ends.append((x, x + layer.thickness_m * 1000, min(layer.of.limit_c, 1.6 * g.inside_c)))
        x = ends[-1][1]
    limits = [curve("what the layer stands", (a, b), (limit, limit), "limit") for a, b, limit in ends]
    edges = [0.0] + [end for _, end, _ in ends]
    return Answer(
        f"Outside {temperature(outside.value, '.0f')}; it loses {quantity(loss.value, 'W', '.0f')}.",
        (
            outside,
            loss,
            Figure(
                "through the wall", found.wall_w, Kind.POWER, reason="By conduction through the layers.", source=SOURCE
            ),
            Figure(
                "seals, cables, corners",
                found.bridges_w,
                Kind.POWER,
                reason="Your share of the wall's loss.",
                source="estimate",
            ),
            Figure(
                "through openings",
                found.opening_w,
                Kind.POWER,
                formula="σ A (T⁴ − T_a⁴)",
                reason="A hole is black.",
                source="Stefan–Boltzmann",
            ),
        ),
        tuple(worst_first([*layer_findings(chamber, found), *_findings(found)])),
        Curves(
            Axis("into the wall", Kind.MILLIMETRES),
            Axis("temperature", Kind.TEMPERATURE),
            (curve("in the wall", depth, [float(t) for t in found.celsius]), *limits),
            tuple(
                Mark("" if 0 < i < len(edges) - 1 else ("inside" if i == 0 else "outside"), edge, t)
                for i, (edge, t) in enumerate(zip(edges, found.interfaces_c, strict=True))
            ),
        ),
        alternatives=_changes(chamber, g, found),
    )


def _loss(chamber: Chamber, found: Steady, g: WallInput) -> Figure:
    return Figure(
        "steady loss",
        found.loss_w,
        Kind.POWER,
        formula="Q = S ∫k dT + bridges + opening",
        inputs=(
            Input("inner surface", chamber.inside_m2, Kind.SURFACE, "A₀", "given"),
            Input("inside", g.inside_c, Kind.TEMPERATURE, "T", "given"),
            Input("outside", found.outside_c, Kind.TEMPERATURE, "T_s", "computed"),
            Input("wall", found.wall_w, Kind.POWER, "S ∫k dT", "computed"),
        ),
        reason="What the heater must give only to hold this temperature.",
        source=SOURCE,
        symbol="Q",
    )


def _outside(found: Steady, g: WallInput) -> Figure:
    touch = longest_touch(found.outside_c)
    words = "it burns at once" if touch is None else f"bare metal may be touched about {_span(touch)}"
    return Figure(
        "outside",
        found.outside_c,
        Kind.TEMPERATURE,
        formula="(h_c + h_r) A (T_s − T_a) = Q",
        inputs=(
            Input("room", g.ambient_c, Kind.TEMPERATURE, "T_a", "given"),
            Input("through the wall", found.wall_w, Kind.POWER, "Q", "computed"),
        ),
        reason=f"At rest, an even surface; {words} (ISO 13732-1, from memory). Door edges and screws are hotter.",
        source=SOURCE,
        symbol="T_s",
    )


def _span(seconds: float) -> str:
    return (
        quantity(seconds, "s", ".0f")
        if seconds < 60
        else (quantity(seconds / 60, "min", ".0f") if seconds < 3600 else quantity(seconds / 3600, "h", ".0f"))
    )


def _findings(found: Steady) -> list[Finding]:
    findings = []
    if found.outside_c > HABIT_C:
        touch = longest_touch(found.outside_c)
        findings.append(
            Finding(
                "wall.touch",
                Severity.DANGER if touch is None else Severity.ADVICE,
                title=f"The outside gets {temperature(found.outside_c, '.0f')}",
                reason=f"Above {temperature(HABIT_C, '.0f')} is hot to the touch; bare metal burns "
                + ("at once." if touch is None else f"within about {_span(touch)}."),
                fix="More insulation, a stand-off guard, or a warning where hands come near.",
                source="ISO 13732-1, from memory; {60 °C} is a habit",
            )
        )
    if found.opening_w > MUCH_OPEN * found.loss_w:
        findings.append(
            Finding(
                "wall.opening",
                Severity.ADVICE,
                title=f"Openings lose {percent(found.opening_w / found.loss_w)} of the heat",
                reason="Radiation through a hole grows with the fourth power of temperature.",
                fix="Plug spy holes; close the gap round the door before adding insulation.",
            )
        )
    return findings


def _changes(chamber: Chamber, g: WallInput, now: Steady) -> tuple[Alternative, ...]:
    """What one more layer, a better one, or a closed opening would change."""
    insulating = min(range(len(chamber.layers)), key=lambda i: float(chamber.layers[i].of.k(200.0)))
    thicker = [
        replace(layer, thickness_m=layer.thickness_m + 0.025) if i == insulating else layer
        for i, layer in enumerate(chamber.layers)
    ]
    backed = [*chamber.layers, Layer("microporous" if now.outside_c > SEARING_C else "rock_wool", 0.025)]
    tried = {
        f"25 mm more {chamber.layers[insulating].of.name.lower()}": replace(chamber, layers=tuple(thicker)),
        f"25 mm {backed[-1].of.name.lower()} outside": replace(chamber, layers=tuple(backed)),
    }
    if chamber.opening_m2 > 0:
        tried["openings closed, lid on"] = replace(chamber, opening_m2=0.0)
    found = []
    for title, changed in tried.items():
        try:
            then = steady(changed, g.inside_c, g.ambient_c)
        except Refused:  # too thick for this chamber: no change to offer
            continue
        bad = layer_findings(changed, then)
        saved = now.loss_w - then.loss_w
        more = f"loses {quantity(-saved, 'W', '.2g')} more: so much larger outside gives off more than it holds back"
        less = f"saves {quantity(saved, 'W', '.2g' if saved < FEW_W else '.0f')}"
        says = f"{less if saved > 0 else more}, outside {temperature(then.outside_c, '.0f')}"
        found.append(
            Alternative(
                title,
                title[0].upper() + title[1:],
                bad[0].severity if bad else None if saved > 0 else Severity.ADVICE,
                says=says + (f"; but {bad[0].title[0].lower()}{bad[0].title[1:]}" if bad else ""),
            )
        )
    return tuple(found)


WALLS = Question(
    "walls",
    "How hot is the outside, and what does it lose?",
    Topic.WALL,
    WallInput,
    _answer,
    chamber_of_rig,
    (
        "At rest: brick-lined chambers need many hours to get there. Until then the outside is cooler and the lining takes more.",
        "Insulation first: in light ovens a lid and lined walls improve tracking more than any tuning.",
        "A lining you do not know is estimated from a heat-up and a cool-down log.",
    ),
    "Old fibre and brick dust harms the lungs; some hold crystalline silica. Wet it, mask, no compressed air.",
    ("heater",),
)
