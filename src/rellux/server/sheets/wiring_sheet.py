"""The wiring sheet as PDF on A4 or A3: the drawings as they were laid out, what was found, positions, schedule."""

import io
from dataclasses import dataclass
from typing import Any

from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer

from rellux.core.findings import Finding
from rellux.core.wiring.model import Connection
from rellux.core.wiring.schedule import Cut, Total

from .diagram import Drawn, Tile, draw, tiles
from .lettering import BOLD, FONT, Pages, fonts, plain, settable
from .parts_sheet import BODY, CAUTION, HEAD, INK, SMALL, TITLE, finding_line, ruled

PAPER = {"A4": landscape(A4), "A3": landscape(A3)}
MARGIN, TITLE_MM = 12 * mm, 16 * mm
MOST_DRAWINGS, MOST_SHAPES = 6, 12_000


@dataclass(frozen=True)
class DrawingHead:
    """What stands under every drawing, and the wires in it."""

    name: str
    date: str
    wires: tuple[Connection, ...]


@dataclass(frozen=True)
class WiringSheet:
    """What the sheet says. ``positions``: name, then what each heater gets and which lamps are lit, in words."""

    head: DrawingHead
    drawings: tuple[Drawn, ...]
    safety: str
    findings: tuple[Finding, ...]
    accepted: tuple[tuple[str, str, str], ...]
    positions: tuple[tuple[str, str], ...]
    cuts: tuple[Cut, ...]
    totals: tuple[Total, ...]


def wiring_pdf(sheet: WiringSheet, paper: str) -> bytes:
    """The sheet; each drawing fills a page of its own, or several."""
    fonts()
    out = io.BytesIO()
    size = PAPER[paper]
    document = SimpleDocTemplate(
        out, pagesize=size, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN, bottomMargin=MARGIN,
        title=f"{sheet.head.name}: wiring", author="Rellux",
    )  # fmt: skip
    pages = pages_of(sheet.drawings, size)
    story: list[Any] = [
        *(
            flowable for _ in pages for flowable in (Spacer(1, 1), PageBreak())
        ),  # an empty page after another is refused
        Paragraph(plain(f"{sheet.head.name}: what was checked"), TITLE),
    ]
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
    story += [Paragraph("Wires", HEAD), schedule_table(sheet.cuts), Spacer(1, 6)]
    words = ", ".join(f"{t.length_m:.0f} m of {t.area_mm2:g} mm² {t.colour}" for t in sheet.totals)
    story += [Paragraph(plain(f"Together {words}."), SMALL), Spacer(1, 8), Paragraph(plain(CAUTION), SMALL)]

    def page(canvas: Canvas, document: Any) -> None:
        if canvas.getPageNumber() <= len(pages):
            page_of(canvas, sheet.head, pages[canvas.getPageNumber() - 1], size)

    document.build(story, onFirstPage=page, onLaterPages=page, canvasmaker=Pages)
    return out.getvalue()


def schedule_table(cuts: tuple[Cut, ...], share: float = 1.0) -> Any:
    """Every wire; ``share``: of the width of a page that lies across."""
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
    return ruled([head, *rows], tuple(share * w for w in (12.0, 34.0, 34.0, 14.0, 34.0, 56.0, 18.0, 38.0)))


def page_of(canvas: Canvas, head: DrawingHead, page: tuple[Drawn, Tile, str], size: tuple[float, float]) -> None:
    """A drawing, or a tile of one, with a title strip below."""
    drawn, tile, title = page
    draw(canvas, drawn, tile, {w.number: w for w in head.wires}, (MARGIN, size[1] - MARGIN))
    canvas.setFont(BOLD, 13)
    canvas.setFillColor(INK)
    canvas.drawString(MARGIN, MARGIN + 3 * mm, settable(f"{head.name}: {title}"))
    canvas.setFont(FONT, 8)
    canvas.drawRightString(size[0] - MARGIN, MARGIN + 3 * mm, f"{head.date}   {len(head.wires)} wires   not certified")


def pages_of(drawings: tuple[Drawn, ...], size: tuple[float, float]) -> list[tuple[Drawn, Tile, str]]:
    """Every page the drawings take, with its title."""
    room = (size[0] - 2 * MARGIN, size[1] - 2 * MARGIN - TITLE_MM)
    found = []
    for drawn in drawings:
        pieces = tiles(drawn, room)
        for i, tile in enumerate(pieces, 1):
            words = f"{drawn.title}, {i} of {len(pieces)}" if len(pieces) > 1 else drawn.title
            found.append((drawn, tile, words))
    return found
