"""Does it fit on the panel, where are the holes, and what does it cost?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...form import choice, flag, number, rows
from ...messages import quantity
from ...panel.layout import EDGE_MM, GAP_MM, LIVE_TO_METAL_MM, Placed, inside_area_mm2, lay_out
from ...panel.parts_data import PANEL_PARTS
from ...units import Kind
from ...wiring.choice import Actuator
from ..answer import Answer, Bar, Drawing, Known, Mm, Question, Topic


@dataclass(frozen=True)
class PartRow:
    """Some equal parts."""

    part: str = choice("Part", {k: p.name for k, p in PANEL_PARTS.items()}, "controller_48")
    count: float = number("How many", Kind.COUNT, 1, 20, 1)
    at_hand: bool = flag("At hand already", False)


USUAL = (
    PartRow("controller_48"),
    PartRow("limiter"),
    PartRow("switch_22", 2),
    PartRow("inlet"),
    PartRow("plug_socket", 2),
    PartRow("gland_20"),
    PartRow("ssr"),
    PartRow("contactor"),
    PartRow("breaker", 2),
)


@dataclass(frozen=True)
class PanelInput:
    """A panel and what goes on and behind it."""

    width_mm: float = number("Panel width", Kind.MILLIMETRES, 60, 1200, 280)
    height_mm: float = number("height", Kind.MILLIMETRES, 60, 1200, 200)
    depth_mm: float = number("Depth inside", Kind.MILLIMETRES, 20, 800, 140)
    metal: bool = flag("Metal box", True)
    parts: tuple[PartRow, ...] = rows("Parts", PartRow, USUAL, 1, 30)


def _keys(g: PanelInput) -> list[str]:
    return [row.part for row in g.parts for _ in range(round(row.count))]


def _panel(g: PanelInput) -> Answer:
    keys = _keys(g)
    placed = lay_out(keys, g.width_mm, g.height_mm)
    deepest = max((PANEL_PARTS[k] for k in keys), key=lambda p: p.depth_mm)
    spare = g.depth_mm - deepest.depth_mm
    inside = inside_area_mm2(keys)
    floor = (g.width_mm - 2 * EDGE_MM) * (g.height_mm - 2 * EDGE_MM)
    buy = sum(PANEL_PARTS[r.part].price * round(r.count) for r in g.parts if not r.at_hand)
    whole = sum(PANEL_PARTS[r.part].price * round(r.count) for r in g.parts)
    findings = []
    if not all(p.fits for p in placed):
        names = ", ".join(sorted({p.part.name for p in placed if not p.fits}))
        findings.append(
            Finding(
                "panel.room",
                Severity.FAULT,
                title="The panel is too small",
                reason=f"No room for: {names}.",
                fix="A larger panel, or parts on another side.",
                source="15 mm to the edge, 12 mm between, common practice",
            )
        )
    if spare < LIVE_TO_METAL_MM:
        findings.append(
            Finding(
                "panel.depth",
                Severity.DANGER if g.metal else Severity.FAULT,
                title=f"{deepest.name} leaves {quantity(spare, 'mm', '.0f')} behind it",
                reason=f"It needs {quantity(deepest.depth_mm, 'mm', '.0f')} with plugs and bend, "
                f"and live terminals {quantity(LIVE_TO_METAL_MM, 'mm', '.0f')} of air to metal.",
                fix="A deeper box.",
                source="IEC 60664, from memory",
            )
        )
    if inside > floor:
        findings.append(
            Finding(
                "panel.inside",
                Severity.FAULT,
                title="Too much behind the panel",
                reason=f"The parts inside want {quantity(inside / 100, 'cm²', '.0f')} of floor; there are {floor / 100:.0f}.",
                fix="A larger box.",
            )
        )
    if "gland_16" not in keys and "gland_20" not in keys:
        findings.append(
            Finding(
                "panel.strain",
                Severity.ADVICE,
                title="No cable entry with strain relief",
                reason="A pulled cable must not pull at terminals.",
                fix="A gland for each cable.",
            )
        )
    return Answer(
        f"{len(placed)} cut-outs; {quantity(spare, 'mm', '.0f')} left behind the deepest; {buy:.0f} to buy.",
        (
            Figure(
                "still to buy",
                buy,
                Kind.MONEY,
                reason="What is at hand is free. Rough prices in money of about one euro.",
                source="rough, from memory",
            ),
            Figure(
                "all together", whole, Kind.MONEY, reason="If everything had to be bought.", source="rough, from memory"
            ),
            Figure(
                "left behind the deepest",
                spare,
                Kind.MILLIMETRES,
                formula="depth − body",
                inputs=(
                    Input("depth inside", g.depth_mm, Kind.MILLIMETRES, "", "given"),
                    Input(deepest.name, deepest.depth_mm, Kind.MILLIMETRES, "", "with plugs and bend"),
                ),
                reason="Room for the wires.",
                source="generic sizes",
            ),
            Figure(
                "floor taken inside",
                100 * inside / floor,
                Kind.PERCENT,
                reason="Leave a quarter for what may be added.",
                source="generic sizes",
            ),
            Figure(
                "heat inside",
                sum(PANEL_PARTS[k].heat_w for k in keys),
                Kind.POWER,
                reason="While working; see how warm it gets.",
                source="generic parts",
            ),
        ),
        tuple(worst_first(findings)),
        bars=tuple(_cost(row, max(whole, 1.0)) for row in g.parts),
        drawing=_drawing(placed, g),
    )


def _cost(row: PartRow, whole: float) -> Bar:
    """One line of the cost list; what is at hand is free."""
    part, count = PANEL_PARTS[row.part], round(row.count)
    label = part.name if count == 1 else f"{count} × {part.name}"
    cost = 0.0 if row.at_hand else part.price * count
    each = (Input("each", part.price, Kind.MONEY, "", "rough, from memory"), Input("how many", count, Kind.COUNT))
    note = "at hand, free" if row.at_hand else f"{quantity(part.depth_mm, 'mm', '.0f')} deep"
    return Bar(
        label,
        Figure(label, cost, Kind.MONEY, formula="each × how many", inputs=each, source="rough, from memory"),
        whole / 3,
        note=note,
    )


def _drawing(placed: tuple[Placed, ...], g: PanelInput) -> Drawing:
    shapes = [Mm("edge", "", 0, 0, g.width_mm, g.height_mm)]
    for p in placed:
        (w, h), (bw, bh) = p.part.cut, p.part.bezel
        shapes.append(Mm("keep" if p.fits else "outside", p.part.name, p.x - bw / 2, p.y - bh / 2, bw, bh))
        radius = w / 2 if p.part.round else p.part.corner_mm
        label = f"⌀ {w:g}" if p.part.round else f"{w:g} × {h:g}"
        shapes.append(Mm("cut", label, p.x - w / 2, p.y - h / 2, w, h, radius))
        shapes += [Mm("hole", f"⌀ {d:g}", p.x + x - d / 2, p.y + y - d / 2, d, d, d / 2) for x, y, d in p.part.holes]
    return Drawing(g.width_mm, g.height_mm, tuple(shapes))


def _panel_of_rig(known: Known) -> dict[str, Any]:
    ssr = known.choice.actuator is Actuator.SSR
    parts = [row for row in USUAL if row.part != "ssr" or ssr]
    if not known.choice.limiter:
        parts = [row for row in parts if row.part != "limiter"]
    return {"parts": tuple(parts)}


PANEL = Question(
    "panel",
    "Does it fit on the panel, and where are the holes?",
    Topic.BOX,
    PanelInput,
    _panel,
    _panel_of_rig,
    (
        f"{quantity(EDGE_MM, 'mm', '.0f')} to the edge and {quantity(GAP_MM, 'mm', '.0f')} between bezels, tallest first. "
        "Print at 100 %, check the scale bar with a rule.",
        "Corners may be over-cut by a drill as long as the bezel hides it.",
        "Keep screws clear of the lining; a free-standing box must not tip when a cable is pulled.",
    ),
    "Deburr, and bond the metal panel to earth before anything live goes behind it.",
)
