"""The wiring sheet as PDF on A4 or A3: the diagram as it was laid out, what was found, positions, schedule, parts.

Wires are drawn in their colour between two dark edges, and named by number and letter code, so that a black and white
print says the same.
"""

import io
from dataclasses import dataclass, field
from typing import Any

from reportlab.lib import colors
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer

from rellux.core.findings import Finding
from rellux.core.wiring.model import Connection
from rellux.core.wiring.schedule import Cut, Total

from .parts_sheet import BODY, BOLD, CAUTION, FONT, HEAD, INK, SMALL, TITLE, finding_line, fonts, foot, plain, ruled

PAPER = {"A4": landscape(A4), "A3": landscape(A3)}
MARGIN, TITLE_MM = 12 * mm, 16 * mm
MOST_SHAPES = 3000
COLOURS = {
    "brown": ("#7a4a21", "BN"),
    "blue": ("#2f6fc1", "BU"),
    "green-yellow": ("#3f9a3f", "GNYE"),
    "green": ("#3f9a3f", "GN"),
    "black": ("#22262a", "BK"),
    "white": ("#ffffff", "WH"),
    "red": ("#c8281e", "RD"),
    "yellow": ("#f2d21b", "YE"),
    "pink": ("#ee8fae", "PK"),
    "orange": ("#ee7f1a", "OG"),
    "violet": ("#7d4bab", "VT"),
    "grey": ("#8d9296", "GY"),
}
"""Conductor colours as printed, and their letter codes (IEC 60757)."""


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
    """A wire of the drawing by its number."""

    number: int
    points: list[Point] = field(default_factory=list)


@dataclass(frozen=True)
class Drawn:
    """The diagram as laid out, in its own units."""

    width: float
    height: float
    boxes: list[Box]
    pins: list[Pin]
    lines: list[Line]


@dataclass(frozen=True)
class WiringSheet:
    """What the sheet says. ``positions``: name, then what each heater gets and which lamps are lit, in words."""

    name: str
    date: str
    drawn: Drawn
    wires: tuple[Connection, ...]
    safety: str
    findings: tuple[Finding, ...]
    accepted: tuple[tuple[str, str, str], ...]
    positions: tuple[tuple[str, str], ...]
    cuts: tuple[Cut, ...]
    totals: tuple[Total, ...]


def wiring_pdf(sheet: WiringSheet, paper: str) -> bytes:
    """The sheet; the diagram fills its first page."""
    fonts()
    out = io.BytesIO()
    size = PAPER[paper]
    document = SimpleDocTemplate(
        out, pagesize=size, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN, bottomMargin=MARGIN,
        title=f"{sheet.name}: wiring", author="Rellux",
    )  # fmt: skip
    story: list[Any] = [PageBreak(), Paragraph(plain(f"{sheet.name}: what was checked"), TITLE)]
    story += [Paragraph(plain(sheet.safety), BODY)]
    story.append(Paragraph("Found", HEAD))
    story += [finding_line(f) for f in sheet.findings] or [Paragraph("Nothing open.", BODY)]
    if sheet.accepted:
        rows = [[Paragraph(plain(w), SMALL) for w in row] for row in sheet.accepted]
        head = [Paragraph(h, SMALL) for h in ("Accepted", "because", "by")]
        story += [Paragraph("Accepted with a reason", HEAD), ruled([head, *rows], (80, 120, 40))]
    rows = [[Paragraph(plain(w), SMALL) for w in row] for row in sheet.positions]
    story += [
        Paragraph("What is on when", HEAD),
        ruled([[Paragraph("With", SMALL), Paragraph("on", SMALL)], *rows], (70, 170)),
    ]
    story += [Paragraph("Wires", HEAD), _schedule(sheet.cuts), Spacer(1, 6)]
    words = ", ".join(f"{t.length_m:.0f} m of {t.area_mm2:g} mm² {t.colour}" for t in sheet.totals)
    story += [Paragraph(plain(f"Together {words}."), SMALL), Spacer(1, 8), Paragraph(plain(CAUTION), SMALL)]

    def first(canvas: Canvas, document: Any) -> None:
        _diagram(canvas, sheet, size)
        foot(canvas, document)

    document.build(story, onFirstPage=first, onLaterPages=foot)
    return out.getvalue()


def _schedule(cuts: tuple[Cut, ...]) -> Any:
    head = [Paragraph(h, SMALL) for h in ("No", "From", "To", "mm²", "Colour", "Covering", "Length", "Ends")]
    rows = [
        [
            Paragraph(plain(w), SMALL)
            for w in (
                str(c.number),
                c.a,
                c.b,
                f"{c.area_mm2:g}",
                c.colour,
                c.insulation,
                f"{c.length_m:g} m",
                c.ferrule,
            )
        ]
        for c in cuts
    ]
    return ruled([head, *rows], (12, 34, 34, 14, 34, 56, 18, 38))


def _diagram(canvas: Canvas, sheet: WiringSheet, size: tuple[float, float]) -> None:
    """The drawing scaled into the page, origin at its upper left, with a title strip below."""
    drawn = sheet.drawn
    scale = min(
        (size[0] - 2 * MARGIN) / max(drawn.width, 1), (size[1] - 2 * MARGIN - TITLE_MM) / max(drawn.height, 1), 1.0
    )
    canvas.saveState()
    canvas.translate(MARGIN, size[1] - MARGIN)
    canvas.scale(scale, -scale)
    by_number = {w.number: w for w in sheet.wires}
    for line in drawn.lines:
        _wire(canvas, line, by_number.get(line.number))
    for box in drawn.boxes:
        canvas.setFillColor(colors.white)
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(1.6)
        canvas.rect(box.x, box.y, box.width, box.height, fill=1)
        _text(canvas, box.x + 8, box.y + 18, box.name, BOLD, 14)
        _text(canvas, box.x + 8, box.y + 33, box.title[:22], FONT, 9)
    for pin in drawn.pins:
        canvas.setFillColor(colors.white)
        canvas.setLineWidth(1.2)
        canvas.circle(pin.x, pin.y, 4, fill=1)
        left = pin.side == "left"
        _text(canvas, pin.x + (8 if left else -8), pin.y + 4, pin.label, FONT, 10, right=not left)
    for line in drawn.lines:
        _tag(canvas, line, by_number.get(line.number))
    canvas.restoreState()
    canvas.setFont(BOLD, 13)
    canvas.setFillColor(INK)
    canvas.drawString(MARGIN, MARGIN + 3 * mm, f"{sheet.name}: wiring")
    canvas.setFont(FONT, 8)
    canvas.drawRightString(
        size[0] - MARGIN, MARGIN + 3 * mm, f"{sheet.date}   {len(sheet.wires)} wires   not certified"
    )


def _text(canvas: Canvas, x: float, y: float, words: str, font: str, height: float, right: bool = False) -> None:
    """Text in the mirrored drawing, upright again."""
    canvas.saveState()
    canvas.translate(x, y)
    canvas.scale(1, -1)
    canvas.setFont(font, height)
    canvas.setFillColor(INK)
    (canvas.drawRightString if right else canvas.drawString)(0, 0, words)
    canvas.restoreState()


def _wire(canvas: Canvas, line: Line, wire: Connection | None) -> None:
    if wire is None or len(line.points) < 2:
        return
    thick = wire.circuit.value in ("power", "earth")
    path = canvas.beginPath()
    path.moveTo(line.points[0].x, line.points[0].y)
    for point in line.points[1:]:
        path.lineTo(point.x, point.y)
    canvas.setStrokeColor(INK)
    canvas.setLineWidth(4.4 if thick else 2.8)
    canvas.setDash([7, 3] if wire.circuit.value == "sensor" else [])
    canvas.drawPath(path)
    canvas.setDash([])
    canvas.setStrokeColor(colors.HexColor(COLOURS.get(wire.colour, ("#8d9296", ""))[0]))
    canvas.setLineWidth(2.4 if thick else 1.2)
    canvas.drawPath(path)


def _tag(canvas: Canvas, line: Line, wire: Connection | None) -> None:
    """Number and letter code in the middle of the longest stretch."""
    if wire is None or len(line.points) < 2:
        return
    stretches = list(zip(line.points, line.points[1:], strict=False))
    a, b = max(stretches, key=lambda s: abs(s[0].x - s[1].x) + abs(s[0].y - s[1].y))
    words = f"{wire.number} {COLOURS.get(wire.colour, ('', '?'))[1]} {wire.area_mm2:g}"
    along = 0.3 + 0.1 * (wire.number % 5)  # neighbours side by side do not hide each other
    x, y, wide = a.x + along * (b.x - a.x), a.y + along * (b.y - a.y), 5.2 * len(words) + 4
    canvas.setFillColor(colors.white)
    canvas.setLineWidth(0.4)
    canvas.setStrokeColor(INK)
    canvas.rect(x - wide / 2, y - 6, wide, 12, fill=1)
    _text(canvas, x - wide / 2 + 2, y + 3.5, words, FONT, 8.5)
