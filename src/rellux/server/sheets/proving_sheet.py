"""Proving on paper: every stage with its steps, what must be seen, room for what was, and for names."""

import io
from dataclasses import dataclass
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import CondPageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from .lettering import Pages, fonts, plain
from .parts_sheet import CAUTION, DANGER, HAIR, HEAD, SMALL, TITLE, ruled

MARGIN = 14 * mm
WIDE = 182 * mm
ALARMING = ParagraphStyle("alarming", parent=SMALL, textColor=DANGER)


@dataclass(frozen=True)
class ProvingLine:
    """A step in words. ``seen``, ``by``: empty on a blank sheet and where it is open; ``wrong``: it failed, or was voided."""

    title: str
    does: str
    must: str
    range: str
    cautions: tuple[str, ...]
    seen: str
    by: str
    wrong: bool


@dataclass(frozen=True)
class ProvingPart:
    """A stage. ``signed``: who and when, or why it was signed although."""

    title: str
    warns: str
    lines: tuple[ProvingLine, ...]
    signed: str


@dataclass(frozen=True)
class ProvingSheet:
    """``open_list``: what is still to be done, in words; none on a blank sheet."""

    name: str
    date: str
    parts: tuple[ProvingPart, ...]
    open_list: tuple[str, ...]


def proving_pdf(sheet: ProvingSheet) -> bytes:
    """The sheet on A4."""
    fonts()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=14 * mm, bottomMargin=14 * mm,
        title=f"{sheet.name}: proving", author="Rellux",
    )  # fmt: skip
    story: list[Any] = [
        Paragraph(plain(f"{sheet.name}: first power-up and proving"), TITLE),
        Paragraph(plain(sheet.date), SMALL),
        Paragraph(plain(CAUTION), SMALL),
    ]
    for part in sheet.parts:
        story += _part(part)
    if sheet.open_list:
        story += [
            CondPageBreak(30 * mm),
            Paragraph("Open", HEAD),
            *(Paragraph(plain(f"– {o}"), SMALL) for o in sheet.open_list),
        ]
    document.build(story, canvasmaker=Pages)
    return out.getvalue()


def _part(part: ProvingPart) -> list[Any]:
    head = [Paragraph(h, SMALL) for h in ("Step", "Do", "It must", "Seen", "By, when")]
    rows = [
        [
            Paragraph(f"<b>{plain(line.title)}</b>", SMALL),
            [Paragraph(plain(line.does), SMALL), *(Paragraph(plain(c), ALARMING) for c in line.cautions)],
            [
                Paragraph(plain(line.must), SMALL),
                *([Paragraph(f"<b>{plain(line.range)}</b>", SMALL)] if line.range else []),
            ],
            Paragraph(plain(line.seen), ALARMING if line.wrong else SMALL),
            Paragraph(plain(line.by), SMALL),
        ]
        for line in part.lines
    ]
    foot = [[Paragraph(plain(part.signed or "Stage proved by, date"), SMALL)]]
    style = TableStyle(
        [
            ("LINEBELOW", (0, 0), (-1, -1), 0.6, HAIR),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ]
    )
    return [
        CondPageBreak(45 * mm),
        Paragraph(plain(part.title), HEAD),
        Paragraph(plain(part.warns), ALARMING),
        ruled([head, *rows], (28, 62, 42, 30, 20)),
        Table(foot, colWidths=[WIDE], rowHeights=[10 * mm], style=style),
        Spacer(1, 4),
    ]
