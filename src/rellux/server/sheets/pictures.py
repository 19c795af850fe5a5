"""The four pictures of the page of safe use, drawn with lines: a sheet that is read, heat over a plate, a bell, a switch that is off."""

from collections.abc import Callable

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable

from rellux.core.handover.safe_use import Picture

from .parts_sheet import CABLE, DANGER, INK

SIDE = 26 * mm
"""Pictures are squares of this side, drawn on a grid of 100."""


class Pictured(Flowable):
    """A picture of safe use, read from a step away."""

    def __init__(self, picture: Picture) -> None:
        super().__init__()
        self.picture, self.width, self.height = picture, SIDE, SIDE

    def draw(self) -> None:
        c = self.canv
        c.scale(SIDE / 100.0, SIDE / 100.0)
        c.setLineWidth(5)
        c.setLineCap(1)
        c.setLineJoin(1)
        c.setStrokeColor(INK)
        DRAWN[self.picture](c)


def _read(c: Canvas) -> None:
    c.roundRect(18, 6, 64, 88, 6)
    c.setLineWidth(4)
    for y, end in ((76, 70), (62, 70), (48, 70), (34, 52)):
        c.line(30, y, end, y)
    c.setStrokeColor(CABLE)
    c.setLineWidth(6)
    c.line(56, 22, 64, 14)
    c.line(64, 14, 80, 34)


def _hot(c: Canvas) -> None:
    c.line(8, 14, 92, 14)
    c.line(20, 14, 20, 6)
    c.line(80, 14, 80, 6)
    c.setStrokeColor(DANGER)
    for x in (28, 50, 72):
        path = c.beginPath()
        path.moveTo(x, 26)
        path.curveTo(x - 16, 42, x + 16, 50, x, 64)
        path.curveTo(x - 8, 72, x - 4, 80, x, 88)
        c.drawPath(path)


def _bell(c: Canvas) -> None:
    path = c.beginPath()
    path.moveTo(16, 26)
    path.curveTo(30, 36, 26, 84, 50, 84)
    path.curveTo(74, 84, 70, 36, 84, 26)
    path.close()
    c.drawPath(path)
    c.line(50, 84, 50, 92)
    c.setFillColor(DANGER)
    c.setStrokeColor(DANGER)
    c.circle(50, 15, 7, fill=1)


def _switch(c: Canvas) -> None:
    c.roundRect(24, 6, 52, 88, 8)
    c.circle(50, 70, 10)
    c.setStrokeColor(CABLE)
    c.setLineWidth(9)
    c.line(50, 46, 50, 18)


DRAWN: dict[Picture, Callable[[Canvas], None]] = {
    Picture.READ: _read,
    Picture.HOT: _hot,
    Picture.BELL: _bell,
    Picture.SWITCH: _switch,
}
