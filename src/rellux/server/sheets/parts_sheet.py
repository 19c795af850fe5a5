"""The parts sheet as PDF: the chain with its ratings, kept answers with their findings, every part. The panel at 1:1."""

import io
from dataclasses import dataclass
from typing import Any

from reportlab.lib import colors
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from rellux.core.explain import Figure
from rellux.core.findings import Finding
from rellux.core.messages import of_kind
from rellux.core.parts.chain import Chain
from rellux.core.questions.answer import Answer, Drawing, Mm
from rellux.core.units import Kind
from rellux.core.wiring.model import Part

from .lettering import BOLD, FONT, Pages, fonts, plain, settable

INK, CABLE, DANGER, HAIR = (colors.HexColor(c) for c in ("#1d2226", "#2c5a6b", "#a81f14", "#d8d3c6"))
BODY = ParagraphStyle("body", fontName=FONT, fontSize=8.5, leading=11.5, textColor=INK)
SMALL = ParagraphStyle("small", parent=BODY, fontSize=7.5, leading=10)
HEAD = ParagraphStyle("head", parent=BODY, fontName=BOLD, fontSize=11, leading=15, spaceBefore=8, spaceAfter=3)
TITLE = ParagraphStyle("title", parent=HEAD, fontSize=16, leading=21)
CAUTION = (
    "Values from memory of the codes are guidance: the local code and a licensed person overrule. "
    "Disconnect, lock off and prove dead before touching any of these parts."
)


@dataclass(frozen=True)
class PartsSheet:
    """What the sheet says."""

    name: str
    purpose: str
    chain: Chain
    answers: tuple[tuple[str, Answer], ...]
    parts: tuple[Part, ...]
    findings: tuple[Finding, ...]


def parts_pdf(sheet: PartsSheet) -> bytes:
    """The sheet on A4."""
    fonts()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=16 * mm, rightMargin=16 * mm, topMargin=14 * mm, bottomMargin=14 * mm,
        title=f"{sheet.name}: parts", author="Rellux",
    )  # fmt: skip
    story: list[Any] = [Paragraph(plain(sheet.name), TITLE), Paragraph(plain(sheet.purpose), BODY)]
    story += [Paragraph("From plug to sensor", HEAD), _chain(sheet.chain)]
    if sheet.findings:
        story += [Paragraph("Found", HEAD), *(finding_line(f) for f in sheet.findings)]
    if sheet.answers:
        story.append(Paragraph("Worked out for this rig", HEAD))
        for title, answer in sheet.answers:
            figures = "; ".join(f"{f.name} {said(f)}" for f in answer.figures)
            story += [
                Paragraph(f"<b>{plain(title)}</b> {plain(answer.headline)}", BODY),
                Paragraph(plain(figures), SMALL),
                Spacer(1, 3),
            ]
    if sheet.parts:
        story += [Paragraph("Parts", HEAD), parts_table(sheet.parts)]
    story += [Spacer(1, 8), Paragraph(plain(CAUTION), SMALL)]
    document.build(story, canvasmaker=Pages)
    return out.getvalue()


class _Fill(Flowable):
    """Duty over rating as a filled bar."""

    def __init__(self, share: float) -> None:
        super().__init__()
        self.share, self.width, self.height = share, 40 * mm, 3.4 * mm

    def draw(self) -> None:
        self.canv.setFillColor(DANGER if self.share > 1.0001 else CABLE)
        self.canv.rect(0, 0, self.width * min(self.share, 1.0), self.height, stroke=0, fill=1)
        self.canv.setStrokeColor(INK)
        self.canv.setLineWidth(0.5)
        self.canv.rect(0, 0, self.width, self.height)


def _chain(chain: Chain) -> Table:
    rows: list[list[Any]] = [[Paragraph(h, SMALL) for h in ("Part", "", "Duty", "Rating", "Used")]]
    for piece in chain.pieces:
        words = (
            piece.title,
            piece.says,
            of_kind(piece.duty.value, piece.duty.kind, ".4g"),
            of_kind(piece.rating, piece.duty.kind),
        )
        rows.append([*(Paragraph(plain(w), BODY) for w in words), _Fill(piece.fill)])
    return ruled(rows, (34, 46, 28, 28, 42))


def parts_table(parts: tuple[Part, ...]) -> Table:
    rows: list[list[Any]] = [
        [Paragraph(h, SMALL) for h in ("", "Part", "Ratings", "Terminals, and what stands at them")]
    ]
    for part in parts:
        ends = ", ".join(
            f"{t.name}={part.numbers[t.name]}" if t.name in part.numbers else t.name for t in part.type.terminals
        )
        words = (part.name, part.title or part.type.title, _rated(part), ends)
        rows.append([Paragraph(plain(w), SMALL) for w in words])
    return ruled(rows, (12, 46, 52, 68))


def said(figure: Figure) -> str:
    """A figure as a message: times in the unit a person would say, everything else with three or four digits."""
    value, unit = figure.value, figure.unit
    if figure.kind is Kind.TIME:
        units = {"d": 86400.0, "h": 3600.0, "min": 60.0, "s": 1.0, "ms": 0.001}
        unit = next((name for name, seconds in units.items() if abs(value) >= 1.5 * seconds), "ms")
        return f"{value / units[unit]:.3g} {unit}"
    return of_kind(value, figure.kind, ".0f" if abs(value) >= 1000 and "°C" not in unit else ".4g")


def _rated(part: Part) -> str:
    """Ratings with their labels and units, as the kind declares them."""
    words = []
    for rating in part.type.ratings:
        value = part.ratings.get(rating.name)
        if value is not None:
            text = of_kind(value, rating.kind) if isinstance(value, float | int) else value
            words.append(f"{rating.label.lower()} {text}")
    return ", ".join(words)


def ruled(rows: list[list[Any]], widths: tuple[float, ...]) -> Table:
    style = TableStyle(
        [
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, HAIR),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ("LEFTPADDING", (0, 0), (0, -1), 0),
        ]
    )
    return Table(rows, colWidths=[w * mm for w in widths], style=style, repeatRows=1)


def finding_line(finding: Finding) -> Paragraph:
    colour = "#a81f14" if finding.severity == "danger" else "#1d2226"
    head = f'<font color="{colour}"><b>{finding.severity.upper()}</b></font> <b>{plain(finding.title)}</b>'
    return Paragraph(f"{head}. {plain(finding.reason)} {plain(finding.fix)}", BODY)


def panel_pdf(drawing: Drawing, name: str) -> bytes:
    """The drilling and cut-out template alone, at 1:1 on the smallest of A4 and A3 that takes it."""
    fonts()
    out = io.BytesIO()
    need = (drawing.width + 24) * mm, (drawing.height + 34) * mm
    sizes = (A4, landscape(A4), A3, landscape(A3))
    page = next((s for s in sizes if s[0] >= need[0] and s[1] >= need[1]), need)
    canvas = Canvas(out, pagesize=page)
    canvas.setTitle(f"{name}: panel at 1:1")
    _draw_panel(canvas, drawing, name, page[1])
    canvas.save()
    return out.getvalue()


def _draw_panel(canvas: Canvas, drawing: Drawing, name: str, height: float) -> None:
    canvas.setFont(BOLD, 11)
    canvas.drawString(
        12 * mm, height - 9 * mm, f"{settable(name)}: panel at 1:1. Print at 100 %, check the bar with a rule."
    )
    canvas.translate(12 * mm, 18 * mm)
    canvas.setLineWidth(0.4)
    for shape in drawing.shapes:
        _shape(canvas, shape)
    canvas.setLineWidth(0.6)
    canvas.line(0, -8 * mm, 100 * mm, -8 * mm)
    for i in range(11):
        canvas.line(i * 10 * mm, -8 * mm, i * 10 * mm, (-5 if i % 5 == 0 else -6.5) * mm)
    canvas.setFont(FONT, 7)
    canvas.drawString(102 * mm, -8 * mm, "100 mm")


def _shape(canvas: Canvas, s: Mm) -> None:
    x, y, w, h = (v * mm for v in (s.x, s.y, s.width, s.height))
    if s.sort in ("keep", "outside"):
        canvas.setDash(2, 2)
        canvas.rect(x, y, w, h)
        canvas.setDash()
        canvas.setFont(FONT, 6)
        canvas.drawString(x, y + h + 1, settable(s.label))
        return
    if s.radius * 2 >= s.width - 1e-6:
        canvas.circle(x + w / 2, y + h / 2, w / 2)
    elif s.radius > 0:
        canvas.roundRect(x, y, w, h, s.radius * mm)
    else:
        canvas.rect(x, y, w, h)
    if s.sort != "edge":
        canvas.line(x + w / 2 - 3 * mm, y + h / 2, x + w / 2 + 3 * mm, y + h / 2)
        canvas.line(x + w / 2, y + h / 2 - 3 * mm, x + w / 2, y + h / 2 + 3 * mm)
        canvas.setFont(FONT, 6)
        canvas.drawString(x + w / 2 + 1 * mm, y + h / 2 + 1 * mm, settable(s.label))
