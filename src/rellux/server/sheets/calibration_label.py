"""A label for the rig: when its display was compared, what is in it, when it is due, and where to read on."""

import io
from dataclasses import dataclass

from reportlab.graphics import renderPDF
from reportlab.graphics.barcode.qr import QrCodeWidget
from reportlab.graphics.shapes import Drawing
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from rellux.core.messages import shortened

from .lettering import BOLD, FONT, fonts, settable

WIDE, HIGH, CODE = 62 * mm, 29 * mm, 24 * mm
"""Of a common label roll."""
LINES = 5


@dataclass(frozen=True)
class CalibrationLabel:
    """``name`` of the rig, lines in words, and the address that its code holds."""

    name: str
    lines: tuple[str, ...]
    address: str


def label_pdf(label: CalibrationLabel) -> bytes:
    """One label. Its code holds the address alone: no number on it can become stale unseen."""
    fonts()
    out = io.BytesIO()
    page = Canvas(out, pagesize=(WIDE, HIGH))
    page.setTitle(f"{label.name}: label")
    code = QrCodeWidget(label.address, barLevel="M")
    left, low, right, high = code.getBounds()
    drawing = Drawing(CODE, CODE, transform=[CODE / (right - left), 0, 0, CODE / (high - low), 0, 0])
    drawing.add(code)
    renderPDF.draw(drawing, page, WIDE - CODE - 1 * mm, (HIGH - CODE) / 2)
    page.setFont(BOLD, 9)
    page.drawString(2.5 * mm, HIGH - 6 * mm, shortened(settable(label.name), 20))
    page.setFont(FONT, 7)
    for i, line in enumerate(label.lines[:LINES]):
        page.drawString(2.5 * mm, HIGH - (10.5 + 3.7 * i) * mm, shortened(settable(line), 30))
    page.showPage()
    page.save()
    return out.getvalue()
