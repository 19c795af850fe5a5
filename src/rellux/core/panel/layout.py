"""Laying parts out on a panel and checking the room behind it."""

from collections.abc import Sequence
from dataclasses import dataclass

from .parts_data import PANEL_PARTS, PanelPart

EDGE_MM = 15.0
GAP_MM = 12.0
"""Between bezels: fingers, clamps and the wires' bend."""
LIVE_TO_METAL_MM = 8.0
"""Least distance of live parts to metal (IEC 60664: 230 V, pollution degree 3 with margin; from memory)."""


@dataclass(frozen=True)
class Placed:
    """A part with the centre of its cut-out in mm from the lower left of the panel. ``fits`` false: no room left."""

    part: PanelPart
    x: float
    y: float
    fits: bool = True


def lay_out(keys: Sequence[str], width_mm: float, height_mm: float) -> tuple[Placed, ...]:
    """Rows from the top left, tallest parts first within what was asked; parts inside the box are left out."""
    parts = sorted((PANEL_PARTS[k] for k in keys if not PANEL_PARTS[k].inside), key=lambda p: -p.bezel[1])
    placed, x, top, row = [], EDGE_MM, height_mm - EDGE_MM, 0.0
    for part in parts:
        w, h = part.bezel
        if x + w > width_mm - EDGE_MM and x > EDGE_MM:
            x, top, row = EDGE_MM, top - row - GAP_MM, 0.0
        fits = x + w <= width_mm - EDGE_MM + 1e-9 and top - h >= EDGE_MM - 1e-9
        placed.append(Placed(part, x + w / 2, top - h / 2, fits))
        x, row = x + w + GAP_MM, max(row, h)
    return tuple(placed)


def inside_area_mm2(keys: Sequence[str]) -> float:
    """Floor the parts inside take, with a finger's room round each."""
    return sum(
        (p.bezel[0] + GAP_MM) * (p.bezel[1] + 2 * GAP_MM) for p in map(PANEL_PARTS.__getitem__, keys) if p.inside
    )
