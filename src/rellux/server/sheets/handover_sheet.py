"""Everything that goes with a rig which somebody else will use, as one PDF: what it is for, safe use on one page, what guards it and who
proved it, its settings, its parts and wires, its diagram, what is due when, and an empty log."""

import io
from dataclasses import dataclass
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    BaseDocTemplate,
    Frame,
    NextPageTemplate,
    PageBreak,
    PageTemplate,
    Paragraph,
    Spacer,
    Table,
    TableStyle,
)

from rellux.core.findings import Finding
from rellux.core.handover.safe_use import PartOfUse
from rellux.core.wiring.model import Part
from rellux.core.wiring.schedule import Cut

from .diagram import Drawn
from .lettering import Pages, fonts, plain
from .parts_sheet import BODY, CAUTION, DANGER, HAIR, HEAD, SMALL, TITLE, finding_line, parts_table, ruled
from .pictures import SIDE, Pictured
from .wiring_sheet import PAPER, DrawingHead, page_of, pages_of, schedule_table

MARGIN = 16 * mm
LARGE = ParagraphStyle("large", parent=BODY, fontSize=11, leading=15)
WARNING = ParagraphStyle("warning", parent=LARGE, textColor=DANGER)
LOG_ROWS, LOG_MM = 26, 9.0
LOG = ("Date", "Who", "What: run, alarm, change, proof", "Reading and reference", "Remark")


@dataclass(frozen=True)
class Handover:
    """What the pack says. ``lacking``: what is missing or dangerous, told first; rows of two or more columns are words."""

    head: DrawingHead
    purpose: tuple[tuple[str, str], ...]
    lacking: tuple[str, ...]
    use: tuple[PartOfUse, ...]
    guards: tuple[tuple[str, str, str], ...]
    proof: str
    settings: tuple[tuple[str, str], ...]
    set_by: str
    calibration: str
    due: tuple[tuple[str, str], ...]
    parts: tuple[Part, ...]
    cuts: tuple[Cut, ...]
    accepted: tuple[tuple[str, str, str], ...]
    findings: tuple[Finding, ...]
    drawings: tuple[Drawn, ...]


def handover_pdf(pack: Handover) -> bytes:
    """The pack on A4, its drawings on pages lying across."""
    fonts()
    out = io.BytesIO()
    across, drawn = PAPER["A4"], pages_of(pack.drawings, PAPER["A4"])
    shown: list[int] = []

    def on_drawing(canvas: Canvas, _document: Any) -> None:
        page_of(canvas, pack.head, drawn[len(shown)], across)
        shown.append(canvas.getPageNumber())

    document = BaseDocTemplate(out, pagesize=A4, title=f"{pack.head.name}: handed over", author="Rellux")
    inner = Frame(MARGIN, MARGIN, A4[0] - 2 * MARGIN, A4[1] - 2 * MARGIN, 0, 0, 0, 0)
    beside = Frame(MARGIN, MARGIN, across[0] - 2 * MARGIN, across[1] - 2 * MARGIN, 0, 0, 0, 0)
    document.addPageTemplates(
        [
            PageTemplate("text", [inner], pagesize=A4),
            PageTemplate("drawing", [beside], pagesize=across, onPage=on_drawing),
        ]
    )
    document.build(_story(pack, len(drawn)), canvasmaker=Pages)
    return out.getvalue()


def _story(pack: Handover, drawings: int) -> list[Any]:
    return [
        *_first(pack),
        PageBreak(),
        *_use(pack),
        PageBreak(),
        *_guards(pack),
        *_settings(pack),
        PageBreak(),
        *_built(pack),
        *(f for _ in range(drawings) for f in (NextPageTemplate("drawing"), PageBreak(), Spacer(1, 1))),
        NextPageTemplate("text"),
        PageBreak(),
        *_log(pack),
    ]


def _first(pack: Handover) -> list[Any]:
    style = [
        ("LINEBELOW", (0, 0), (-1, -1), 0.6, HAIR),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 0),
    ]
    signed = [
        [Paragraph(w, SMALL)] for w in ("Handed over by, date", "Taken over by, date: read, understood, tried out")
    ]
    return [
        Paragraph(plain(pack.head.name), TITLE),
        Paragraph(plain(pack.head.date), SMALL),
        *(
            [Paragraph("Not ready to be handed over", HEAD), *(Paragraph(plain(w), WARNING) for w in pack.lacking)]
            if pack.lacking
            else []
        ),
        Paragraph("What it is for", HEAD),
        _rows(pack.purpose, LARGE),
        Paragraph("Due", HEAD),
        _rows(pack.due, LARGE),
        Spacer(1, 10 * mm),
        Table(signed, colWidths=[178 * mm], rowHeights=[16 * mm] * 2, style=TableStyle(style)),
        Spacer(1, 8),
        Paragraph(plain(CAUTION), SMALL),
    ]


def _use(pack: Handover) -> list[Any]:
    rows = [
        [
            Pictured(part.picture),
            [Paragraph(plain(part.title), HEAD), *(Paragraph("• " + plain(line), LARGE) for line in part.lines)],
        ]
        for part in pack.use
    ]
    style = TableStyle(
        [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (0, -1), 0), ("TOPPADDING", (0, 0), (0, -1), 8)]
    )
    return [
        Paragraph(plain(f"{pack.head.name}: safe use"), TITLE),
        Table(rows, colWidths=[SIDE + 6 * mm, 178 * mm - SIDE - 6 * mm], style=style),
    ]


def _guards(pack: Handover) -> list[Any]:
    return [
        Paragraph("What guards it", TITLE),
        *([_table(("Guard", "acts at", "and does"), pack.guards, (60, 40, 78))] if pack.guards else []),
        Spacer(1, 4),
        Paragraph(plain(pack.proof), BODY),
        Spacer(1, 10),
    ]


def _settings(pack: Handover) -> list[Any]:
    return [
        Paragraph("What its controller is set to", TITLE),
        Paragraph(plain(pack.set_by), BODY),
        _rows(pack.settings, BODY),
        Spacer(1, 4),
        Paragraph(plain(pack.calibration), BODY),
    ]


def _built(pack: Handover) -> list[Any]:
    found: list[Any] = [Paragraph("How it is built", TITLE)]
    if pack.findings:
        found += [Paragraph("Open when this was printed", HEAD), *(finding_line(f) for f in pack.findings)]
    if pack.accepted:
        found += [
            Paragraph("Lived with, for a reason", HEAD),
            _table(("What", "because", "by"), pack.accepted, (68, 80, 30)),
        ]
    if pack.parts:
        found += [Paragraph("Parts", HEAD), parts_table(pack.parts)]
    if pack.cuts:
        found += [Paragraph("Wires", HEAD), schedule_table(pack.cuts, 178 / 240)]
    return found


def _log(pack: Handover) -> list[Any]:
    head = [Paragraph(w, SMALL) for w in LOG]
    style = TableStyle([("GRID", (0, 0), (-1, -1), 0.4, HAIR), ("VALIGN", (0, 0), (-1, -1), "MIDDLE")])
    rows = [head, *([""] * len(LOG) for _ in range(LOG_ROWS))]
    widths = [w * mm for w in (24, 24, 60, 36, 34)]
    return [
        Paragraph(plain(f"{pack.head.name}: log"), TITLE),
        Table(rows, colWidths=widths, rowHeights=[LOG_MM * mm] * len(rows), style=style),
    ]


def _rows(rows: tuple[tuple[str, str], ...], style: ParagraphStyle) -> Table:
    return ruled([[Paragraph(plain(w), style) for w in row] for row in rows] or [["", ""]], (62, 116))


def _table(head: tuple[str, ...], rows: tuple[tuple[str, ...], ...], widths: tuple[int, ...]) -> Table:
    return ruled(
        [[Paragraph(h, SMALL) for h in head], *([Paragraph(plain(w), BODY) for w in row] for row in rows)], widths
    )
