"""A wiring drawing on paper: as the browser laid it out, scaled into a page or cut into several where it would get too small.

Wires are drawn in their colour between two dark edges, and named by number and letter code, so that a black and white
print says the same.
"""

from dataclasses import dataclass, field
from itertools import pairwise
from math import ceil

from reportlab.lib import colors
from reportlab.pdfgen.canvas import Canvas

from rellux.core.conductor_colours import colour_of
from rellux.core.wiring.model import Circuit, Connection

from .lettering import BOLD, FONT, settable
from .parts_sheet import INK
from .tags import Area, placed

NAME, TITLE, PIN, TAG = 17.0, 11.0, 13.0, 11.5
"""Heights of writing in the drawing's units."""
LEAST = 4.5 / TAG
"""Points for a unit below which tags are no longer read with the naked eye: 4.5 pt."""
LETTER = 0.58
"""Width of a figure as a share of its height."""
REACH = 0.2
"""Share of a page by which a cut may move to spare the parts."""


@dataclass(frozen=True)
class Point:
    x: float
    y: float


@dataclass(frozen=True)
class Box:
    """A part of the drawing."""

    name: str
    title: str
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Pin:
    label: str
    x: float
    y: float
    side: str


@dataclass(frozen=True)
class Line:
    """A wire of the drawing by its number, 0 for a stub to a flag; ``tag``: where its number stands."""

    number: int
    points: list[Point] = field(default_factory=list)
    tag: Point | None = None


@dataclass(frozen=True)
class Flag:
    """The end of wires that are not drawn to their other end: their numbers stand here and there."""

    numbers: list[int]
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Drawn:
    """A drawing as laid out, in its own units; ``title``: which circuit it is."""

    title: str
    width: float
    height: float
    boxes: list[Box] = field(default_factory=list)
    pins: list[Pin] = field(default_factory=list)
    lines: list[Line] = field(default_factory=list)
    flags: list[Flag] = field(default_factory=list)

    @property
    def shapes(self) -> int:
        """How much there is to draw."""
        return len(self.boxes) + len(self.pins) + len(self.flags) + sum(len(line.points) for line in self.lines)


@dataclass(frozen=True)
class Tile:
    """The piece of a drawing that fills a page, in the drawing's units, and its scale in points for a unit."""

    left: float
    top: float
    right: float
    bottom: float
    scale: float


def tiles(drawn: Drawn, room: tuple[float, float]) -> list[Tile]:
    """The pages a drawing takes where each has this much room in points: one if it can be read there, else several, cut
    between the parts where there is a gap."""
    width, height = max(drawn.width, 1.0), max(drawn.height, 1.0)
    whole = min(room[0] / width, room[1] / height, 1.0)
    if whole >= LEAST:
        return [Tile(0.0, 0.0, width, height, whole)]
    across = [(b.x, b.x + b.width) for b in drawn.boxes] + [(f.x, f.x + f.width) for f in drawn.flags]
    down = [(b.y, b.y + b.height) for b in drawn.boxes] + [(f.y, f.y + f.height) for f in drawn.flags]
    xs, ys = (_cuts(size, room[i] / LEAST, spans) for i, (size, spans) in enumerate(((width, across), (height, down))))
    largest = max(b - a for a, b in pairwise(xs)), max(b - a for a, b in pairwise(ys))
    scale = min(room[0] / largest[0], room[1] / largest[1], 1.0)
    found = [Tile(a, c, b, d, scale) for c, d in pairwise(ys) for a, b in pairwise(xs)]
    return [t for t in found if any(_within(t, b) for b in drawn.boxes)]


def _within(tile: Tile, box: Box) -> bool:
    return (
        tile.left < box.x + box.width and box.x < tile.right and tile.top < box.y + box.height and box.y < tile.bottom
    )


def _cuts(size: float, page: float, spans: list[tuple[float, float]]) -> list[float]:
    """Where to cut a length into pages: evenly, moved to where the fewest parts are cut through."""
    count = ceil(size / page)
    found = [0.0]
    for i in range(1, count):
        wanted = size * i / count
        near = [wanted + REACH * (size / count) * step / 20 for step in range(-20, 21)]
        found.append(min(near, key=lambda at: (sum(a < at < b for a, b in spans), abs(at - wanted))))
    return [*found, size]


def draw(canvas: Canvas, drawn: Drawn, tile: Tile, wires: dict[int, Connection], origin: tuple[float, float]) -> None:
    """A tile with its upper left corner at ``origin`` (points); wires that go on beyond it carry their number at its edge."""
    canvas.saveState()
    canvas.translate(*origin)
    canvas.scale(tile.scale, -tile.scale)
    canvas.translate(-tile.left, -tile.top)
    edge = canvas.beginPath()
    edge.rect(tile.left - 6, tile.top - 6, tile.right - tile.left + 12, tile.bottom - tile.top + 12)
    canvas.clipPath(edge, stroke=0, fill=0)
    for line in drawn.lines:
        _line(canvas, line, wires.get(line.number))
    for box in drawn.boxes:
        canvas.setFillColor(colors.white)
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(1.6)
        canvas.rect(box.x, box.y, box.width, box.height, fill=1)
        _text(canvas, box.x + 8, box.y + 20, box.name, BOLD, NAME)
        _text(canvas, box.x + 8, box.y + 35, box.title[:19], FONT, TITLE)
    for pin in drawn.pins:
        canvas.setFillColor(colors.white)
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(1.2)
        canvas.circle(pin.x, pin.y, 4, fill=1)
        left = pin.side == "left"
        _text(canvas, pin.x + (9 if left else -9), pin.y + 4.5, pin.label, FONT, PIN, right=not left)
    for line in drawn.lines:
        if line.number in wires:
            _goes_on(canvas, line, tile)
    for x, y, words in tags(drawn, wires):
        _label(canvas, x, y, words)
    for flag in drawn.flags:
        _flag(canvas, flag, wires)
    canvas.restoreState()


def tags(drawn: Drawn, wires: dict[int, Connection]) -> list[tuple[float, float, str]]:
    """Where the tag of every wire stands, and what it says: over no part, pin or other tag; a wire on which there is no such
    place has none, and is found by its number in the schedule."""
    taken = [Area(b.x, b.y, b.x + b.width, b.y + b.height) for b in drawn.boxes]
    taken += [Area(p.x - PIN_REACH, p.y - PIN_REACH, p.x + PIN_REACH, p.y + PIN_REACH) for p in drawn.pins]
    taken += [Area(f.x, f.y, f.x + f.width, f.y + f.height) for f in drawn.flags]
    found = []
    for line in sorted(drawn.lines, key=lambda one: one.number):
        wire = wires.get(line.number)
        if wire is None:
            continue
        words = f"{wire.number} {colour_of(wire.colour).code} {wire.area_mm2:g}"
        points = [(p.x, p.y) for p in line.points]
        wanted = [(line.tag.x, line.tag.y)] if line.tag else []
        at = placed(wanted, points, (_wide(words), TAG + 2), taken)
        if at is not None:
            found.append((at[0], at[1], words))
    return found


PIN_REACH = 6.0
"""Half the side of a pin, in the drawing's units, with a little air."""


def _wide(words: str) -> float:
    return LETTER * TAG * len(words) + 4


def _text(canvas: Canvas, x: float, y: float, words: str, font: str, height: float, right: bool = False) -> None:
    """Text in the mirrored drawing, upright again."""
    canvas.saveState()
    canvas.translate(x, y)
    canvas.scale(1, -1)
    canvas.setFont(font, height)
    canvas.setFillColor(INK)
    (canvas.drawRightString if right else canvas.drawString)(0, 0, settable(words))
    canvas.restoreState()


def _line(canvas: Canvas, line: Line, wire: Connection | None) -> None:
    if len(line.points) < 2:
        return
    path = canvas.beginPath()
    path.moveTo(line.points[0].x, line.points[0].y)
    for point in line.points[1:]:
        path.lineTo(point.x, point.y)
    canvas.setStrokeColor(INK)
    if wire is None:
        canvas.setLineWidth(1.4)
        canvas.drawPath(path)
        return
    thick = wire.circuit in (Circuit.POWER, Circuit.EARTH)
    colour = colour_of(wire.colour)
    canvas.setLineWidth(4.8 if thick else 3.4)
    canvas.setDash([7, 3] if wire.circuit is Circuit.SENSOR else [])
    canvas.drawPath(path)
    canvas.setDash([])
    canvas.setStrokeColor(colors.HexColor(colour.shown))
    canvas.setLineWidth(2.6 if thick else 1.6)
    canvas.drawPath(path)
    if colour.stripe:
        canvas.setStrokeColor(colors.HexColor(colour.stripe))
        canvas.setDash([8, 8])
        canvas.drawPath(path)
        canvas.setDash([])


def _goes_on(canvas: Canvas, line: Line, tile: Tile) -> None:
    """The wire's number where it leaves this tile for another."""
    for a, b in pairwise(line.points):
        for edge in (tile.left, tile.right):
            if min(a.x, b.x) < edge < max(a.x, b.x) and tile.top <= a.y <= tile.bottom:
                inward = 16 if edge == tile.left else -16
                _label(canvas, edge + inward, a.y, str(line.number))
        for edge in (tile.top, tile.bottom):
            if min(a.y, b.y) < edge < max(a.y, b.y) and tile.left <= a.x <= tile.right:
                inward = 10 if edge == tile.top else -10
                _label(canvas, a.x, edge + inward, str(line.number))


def _label(canvas: Canvas, x: float, y: float, words: str) -> None:
    wide = _wide(words)
    canvas.setFillColor(colors.white)
    canvas.setLineWidth(0.4)
    canvas.setStrokeColor(INK)
    canvas.rect(x - wide / 2, y - TAG / 2 - 1, wide, TAG + 2, fill=1)
    _text(canvas, x - wide / 2 + 2, y + TAG / 2 - 2, words, FONT, TAG)


def _flag(canvas: Canvas, flag: Flag, wires: dict[int, Connection]) -> None:
    """Wire numbers and their letter code in a box, as they stand at the wires' other ends."""
    found = [wires[n] for n in flag.numbers if n in wires]
    words = " ".join([*(str(w.number) for w in found), *sorted({colour_of(w.colour).code for w in found})])
    canvas.setFillColor(colors.white)
    canvas.setLineWidth(1.2)
    canvas.setStrokeColor(INK)
    canvas.rect(flag.x, flag.y, flag.width, flag.height, fill=1)
    _text(canvas, flag.x + 5, flag.y + flag.height / 2 + TAG / 2 - 2, words, FONT, TAG)
