"""A comparison on one page: what was read, what follows, how far to believe it, and when it is looked at again."""

import io
from dataclasses import dataclass
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer

from .lettering import Pages, fonts, plain
from .parts_sheet import HEAD, SMALL, TITLE, ruled

MARGIN = 16 * mm
IN_HOUSE = (
    "An in-house check. It is traceable as far as the reference named here is; it is no certificate of an accredited laboratory, and says "
    "nothing of other temperatures, places or days."
)


@dataclass(frozen=True)
class CalibrationSheet:
    """Everything in words. ``facts``, ``found``: name and value; ``pairs``: display and reference as read; ``doubts``: what, how much,
    share."""

    name: str
    facts: tuple[tuple[str, str], ...]
    pairs: tuple[tuple[str, str, str], ...]
    found: tuple[tuple[str, str, str], ...]
    doubts: tuple[tuple[str, str, str], ...]
    decision: str


def calibration_pdf(sheet: CalibrationSheet) -> bytes:
    """The page on A4."""
    fonts()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=14 * mm, bottomMargin=14 * mm,
        title=f"{sheet.name}: comparison of the display", author="Rellux",
    )  # fmt: skip
    story: list[Any] = [
        Paragraph(plain(f"{sheet.name}: comparison of the display"), TITLE),
        Paragraph(plain(IN_HOUSE), SMALL),
        Spacer(1, 3 * mm),
        _table(("", ""), sheet.facts, (48, 126)),
        Paragraph("Read", HEAD),
        _table(("", "display", "reference"), sheet.pairs, (48, 60, 66)),
        Paragraph("Found", HEAD),
        _table(("", "", "how"), sheet.found, (48, 34, 92)),
        Paragraph("What makes its uncertainty", HEAD),
        _table(("", "standard uncertainty", "of the variance"), sheet.doubts, (84, 50, 40)),
        Paragraph("Decision", HEAD),
        Paragraph(plain(sheet.decision), SMALL),
        Spacer(1, 10 * mm),
        Paragraph("Checked by, date", SMALL),
    ]
    document.build(story, canvasmaker=Pages)
    return out.getvalue()


def _table(head: tuple[str, ...], rows: tuple[tuple[str, ...], ...], widths: tuple[int, ...]) -> Any:
    cells = [[Paragraph(plain(cell), SMALL) for cell in row] for row in ((head, *rows) if any(head) else rows)]
    return ruled(cells, widths)
