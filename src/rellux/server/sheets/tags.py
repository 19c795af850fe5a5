"""Places for the tags of wires on paper: along the wire, over nothing that is written or drawn there."""

from itertools import pairwise
from typing import NamedTuple

SHARES = tuple(i / 20 for i in (10, 8, 12, 6, 14, 4, 16, 2, 18, 1, 19))
"""Where along a stretch a tag is tried, the middle first."""


class Area(NamedTuple):
    """A rectangle of the drawing, in its own units."""

    left: float
    top: float
    right: float
    bottom: float

    def meets(self, other: "Area") -> bool:
        return (
            self.left < other.right and other.left < self.right and self.top < other.bottom and other.top < self.bottom
        )


def placed(
    wanted: list[tuple[float, float]], points: list[tuple[float, float]], size: tuple[float, float], taken: list[Area]
) -> tuple[float, float] | None:
    """The middle of a tag of this width and height: where it is ``wanted`` if anywhere, else along the wire's longer stretches;
    None where everything is taken. What it takes is added to ``taken``."""
    stretches = sorted(pairwise(points), key=lambda s: abs(s[0][0] - s[1][0]) + abs(s[0][1] - s[1][1]), reverse=True)
    along = ((a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1])) for a, b in stretches for share in SHARES)
    for x, y in (*wanted, *along):
        area = Area(x - size[0] / 2, y - size[1] / 2, x + size[0] / 2, y + size[1] / 2)
        if not any(area.meets(other) for other in taken):
            taken.append(area)
            return x, y
    return None
