"""What guards a rig, on paper: the ladder to scale, what is too close, every alarm with what to do, and the proof to be ticked."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    CondPageBreak,
    Flowable,
    PageBreak,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

from rellux.core.findings import Finding
from rellux.core.guarding.ladder import Gap, Rung, Step
from rellux.core.messages import difference, temperature

from .lettering import BOLD, FONT, Pages, fonts, plain, settable
from .parts_sheet import BODY, CABLE, CAUTION, DANGER, HAIR, HEAD, INK, SMALL, TITLE, finding_line, ruled

MARGIN = 16 * mm
WIDE, HIGH = 178 * mm, 112 * mm
SCALE_X, LABEL_X = 34 * mm, 58 * mm
FINE_C = 100.0
"""Below it tenths are told, °C."""
APART = 5.2 * mm
"""Between two lines of lettering on the scale."""
NARROW = ParagraphStyle("narrow", parent=SMALL, textColor=DANGER)
FAR = (Rung.FULL_POWER, Rung.MATERIAL)
"""Rungs that may lie so far away that everything else would be drawn on top of one another: they are not to scale then."""
ACTS = (Rung.ALARM, Rung.MAXIMUM, Rung.LIMITER, Rung.FUSE)
"""Rungs at which something acts, as against those that are given or predicted."""


@dataclass(frozen=True)
class Guard:
    """A guard in words: at what it acts, what it does, and for an alarm its cause, its consequence and the response to it."""

    name: str
    at: str
    does: str
    why: tuple[str, ...] = ()


@dataclass(frozen=True)
class Tick:
    """A step of the proof in words; ``seen`` is empty where it is still to be done."""

    guard: str
    dial: str
    stands_for: str
    must: str
    says: str
    seen: str = ""


@dataclass(frozen=True)
class GuardingSheet:
    """What the sheet says. ``proof``: its steps, none where it cannot be made yet; ``proved``: how it stands with the last one."""

    name: str
    date: str
    steps: tuple[Step, ...]
    gaps: tuple[Gap, ...]
    guards: tuple[Guard, ...]
    findings: tuple[Finding, ...]
    proof_head: str
    proof: tuple[Tick, ...]
    proved: str


def guarding_pdf(sheet: GuardingSheet) -> bytes:
    """The sheet on A4."""
    fonts()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=14 * mm, bottomMargin=14 * mm,
        title=f"{sheet.name}: guarding", author="Rellux",
    )  # fmt: skip
    document.build([*_ladder(sheet), *_guards(sheet), PageBreak(), *_proof(sheet)], canvasmaker=Pages)
    return out.getvalue()


def _ladder(sheet: GuardingSheet) -> list[Any]:
    called = {s.key: s.name for s in sheet.steps}
    rows = [
        [
            Paragraph(plain(w), SMALL if g.is_wide_enough else NARROW)
            for w in (
                called.get(g.below, g.below),
                called.get(g.above, g.above),
                difference(g.present_c, ".1f"),
                difference(g.needed.value, ".1f"),
                g.reason if g.is_wide_enough else f"Too close. {g.reason}",
            )
        ]
        for g in sheet.gaps
    ]
    head = [Paragraph(h, SMALL) for h in ("Between", "and", "there is", "needed", "because")]
    return [
        Paragraph(plain(f"{sheet.name}: what guards it"), TITLE),
        Paragraph(plain(sheet.date), SMALL),
        Scale(sheet.steps, sheet.gaps),
        *([Paragraph("Between two steps", HEAD), ruled([head, *rows], (38, 38, 20, 20, 62))] if rows else []),
        *([Paragraph("Open", HEAD), *(finding_line(f) for f in sheet.findings)] if sheet.findings else []),
    ]


def _guards(sheet: GuardingSheet) -> list[Any]:
    rows = [
        [
            *(Paragraph(plain(w), SMALL) for w in (g.name, g.at, g.does)),
            [Paragraph(plain(w), SMALL) for w in g.why],
        ]
        for g in sheet.guards
    ]
    head = [Paragraph(h, SMALL) for h in ("Guard", "acts at", "and does", "Cause, consequence, and what to do")]
    return (
        [CondPageBreak(50 * mm), Paragraph("Every guard", HEAD), ruled([head, *rows], (38, 30, 34, 76))] if rows else []
    )


def _proof(sheet: GuardingSheet) -> list[Any]:
    head = [Paragraph(h, SMALL) for h in ("", "Dial", "stands for", "It must", "", "Seen")]
    rows = [
        [
            Paragraph(plain(w), SMALL)
            for w in (t.guard, t.dial, t.stands_for, t.must, t.says, t.seen or "(  ) acted   (  ) quiet")
        ]
        for t in sheet.proof
    ]
    signed = [[Paragraph(w, SMALL)] for w in ("Proved by, date", "Instruments used, their own due dates")]
    style = [
        ("LINEBELOW", (0, 0), (-1, -1), 0.6, HAIR),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 0),
    ]
    return [
        Paragraph(plain(f"{sheet.name}: proof that every guard acts"), TITLE),
        Paragraph(plain(sheet.proved), BODY),
        Paragraph(plain(sheet.proof_head), BODY),
        Spacer(1, 4),
        *([ruled([head, *rows], (30, 24, 20, 26, 52, 26))] if rows else []),
        Spacer(1, 8 * mm),
        Table(signed, colWidths=[WIDE], rowHeights=[14 * mm] * 2, style=TableStyle(style)),
        Spacer(1, 6),
        Paragraph(plain(CAUTION), SMALL),
    ]


def spread(wanted: Sequence[float], apart: float, low: float, high: float) -> list[float]:
    """Rising places, moved as little as keeps them ``apart`` and, where there is room for all, between ``low`` and ``high``."""
    found: list[float] = []
    for place in wanted:
        found.append(max(place, low, found[-1] + apart if found else low))
    for i in range(len(found) - 1, -1, -1):
        found[i] = min(found[i], found[i + 1] - apart if i + 1 < len(found) else high)
    return found


class Scale(Flowable):
    """The ladder to scale, with every step lettered beside it. What is too close is drawn thick and in red."""

    def __init__(self, steps: Sequence[Step], gaps: Sequence[Gap]) -> None:
        super().__init__()
        self.steps = sorted(steps, key=lambda s: s.celsius)
        self.narrow = [(g.below, g.above) for g in gaps if not g.is_wide_enough]
        near = [s for s in steps if s.rung not in FAR] or list(steps)
        self.low, self.high = (f(s.celsius for s in near) for f in (min, max))
        self.width, self.height = WIDE, max(HIGH, (len(steps) + 1) * APART)

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.width, self.height

    def draw(self) -> None:
        if not self.steps:
            return
        canvas, reach = self.canv, max(self.high - self.low, 1.0)
        end = 2 * APART

        def y(celsius: float) -> float:
            to_scale = end + (celsius - self.low) / reach * (self.height - 2 * end)
            return min(max(to_scale, APART), self.height - APART)

        canvas.setStrokeColor(INK)
        canvas.setLineWidth(1.0)
        canvas.line(SCALE_X, APART, SCALE_X, self.height - APART)
        known = {s.key: s.celsius for s in self.steps}
        canvas.setStrokeColor(DANGER)
        canvas.setLineWidth(4.0)
        for below, above in self.narrow:
            canvas.line(SCALE_X, y(known[below]), SCALE_X, y(known[above]))
        places = spread([y(s.celsius) for s in self.steps], APART, 2 * mm, self.height - 2 * mm)
        for step, place in zip(self.steps, places, strict=True):
            colour = CABLE if step.rung in ACTS else INK
            canvas.setStrokeColor(colour)
            canvas.setFillColor(colour)
            canvas.setLineWidth(3.0)
            canvas.line(SCALE_X - 2 * mm, y(step.low), SCALE_X - 2 * mm, y(step.high))
            canvas.setLineWidth(0.7)
            canvas.line(SCALE_X - 3 * mm, y(step.celsius), SCALE_X + 3 * mm, y(step.celsius))
            canvas.line(SCALE_X + 3 * mm, y(step.celsius), LABEL_X - 2 * mm, place)
            canvas.setFont(BOLD, 9)
            canvas.drawString(
                LABEL_X, place - 3, settable(temperature(step.celsius, ".1f" if abs(step.celsius) < FINE_C else ".0f"))
            )
            canvas.setFont(BOLD if step.rung in ACTS else FONT, 9)
            far = "" if self.low <= step.celsius <= self.high else ", not to scale"
            canvas.drawString(LABEL_X + 17 * mm, place - 3, settable(f"{step.name}{far}"))
