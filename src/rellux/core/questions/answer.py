"""What a question answers with: a sentence, one picture, figures that explain themselves, findings."""

from collections.abc import Callable, Iterable
from dataclasses import KW_ONLY, dataclass, field, replace
from enum import StrEnum
from math import isnan
from typing import Any

from ..explain import Figure
from ..findings import Finding, Severity
from ..form import Field, Rows, fields_of, fill, plain, rows_of
from ..heating.banks import Solved
from ..process.models import FOPDT, SOPDT
from ..purpose.purpose import Purpose, RigKind
from ..units import Kind
from ..wiring.choice import Choice

MEMORY = "common practice and data sheets, from memory"


class Topic(StrEnum):
    """Where on the way from plug to load and back a question belongs."""

    SENSOR = "sensor"
    LOAD = "load"
    WIRE = "wire"
    SWITCH = "switch"
    CONTROL = "control"
    WALL = "wall"
    COLD = "cold"
    BOX = "box"


@dataclass(frozen=True)
class Axis:
    """A label and the quantity along it; ``log`` for decades. ``low`` and ``high`` hold what is drawn to a span."""

    label: str
    kind: Kind
    log: bool = False
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Curve:
    """A curve of a picture, broken where ``y`` is None. ``sort``: main, other (thinner), limit (dashed), faint (one of
    many, without its name). Pressing the alternative of the same ``key`` brings it forward."""

    name: str
    x: tuple[float, ...]
    y: tuple[float | None, ...]
    sort: str = "main"
    key: str = ""


@dataclass(frozen=True)
class Mark:
    """A named point on a picture."""

    label: str
    x: float
    y: float


@dataclass(frozen=True)
class Curves:
    """One picture of curves, x and y in the core's units."""

    x: Axis
    y: Axis
    lines: tuple[Curve, ...]
    marks: tuple[Mark, ...] = ()


@dataclass(frozen=True)
class Bar:
    """A quantity drawn as a filled bar against ``full``; ``limit`` is the highest allowed, in the same unit."""

    label: str
    figure: Figure
    full: float
    limit: float | None = None
    note: str = ""
    verdict: Severity | None = None


@dataclass(frozen=True)
class Alternative:
    """One choice among several, compared in place: ``verdict`` None fits, else what is wrong with it."""

    key: str
    title: str
    verdict: Severity | None
    _: KW_ONLY
    says: str
    reasons: tuple[str, ...] = ()
    figures: tuple[Figure, ...] = ()
    chosen: bool = False


@dataclass(frozen=True)
class Mm:
    """A shape of a drawing at 1:1, millimetres from the lower left. ``sort``: cut, hole, edge, keep (body behind)."""

    sort: str
    label: str
    x: float
    y: float
    width: float
    height: float
    radius: float = 0.0


@dataclass(frozen=True)
class Drawing:
    """Something to print at 1:1: a sheet of ``width`` × ``height`` mm."""

    width: float
    height: float
    shapes: tuple[Mm, ...]


@dataclass(frozen=True)
class Cable:
    """The end of a cable: colours of its legs and its sheath (empty: unknown), and whether something speaks against it."""

    title: str
    note: str
    positive: str
    negative: str
    sheath: str
    unlikely: bool = False


@dataclass(frozen=True)
class NumberTable:
    """Numbers to print and tick off at the bench: a column's label and quantity, rows of values in the core's units."""

    columns: tuple[Axis, ...]
    rows: tuple[tuple[float, ...], ...]


@dataclass(frozen=True)
class BankDrawing:
    """A bank of elements as solved, with the supply conductors that are lost."""

    solved: Solved
    lost: tuple[str, ...]


@dataclass(frozen=True)
class Answer:
    """``headline`` is the sentence to read from two metres; pictures are drawn in the order curves, cables, bank,
    drawing, bars, table, alternatives."""

    headline: str
    figures: tuple[Figure, ...] = ()
    findings: tuple[Finding, ...] = ()
    curves: Curves | None = None
    bars: tuple[Bar, ...] = ()
    alternatives: tuple[Alternative, ...] = ()
    drawing: Drawing | None = None
    cables: tuple[Cable, ...] = ()
    bank: BankDrawing | None = None
    table: NumberTable | None = None


@dataclass(frozen=True)
class Known:
    """What is known of a rig, to start a question from. ``kept``: values of questions kept in it, by key;
    ``fitted_mm2``: its thinnest wire in the power circuit, None before anything is wired; ``process``: what Tuning found, where it may be
    used."""

    purpose: Purpose
    choice: Choice
    kind: RigKind
    kept: dict[str, dict[str, Any]] = field(default_factory=dict)
    fitted_mm2: float | None = None
    process: FOPDT | SOPDT | None = None


@dataclass(frozen=True)
class Question:
    """A question of the bench: what it asks (``shape``), how it is answered, and what a rig already knows of it.

    ``notes`` are read beside it, ``caution`` where somebody could be hurt. ``pieces`` are the parts of the rig's chain
    it belongs to; ``follows`` the fields that always follow the rig, also in answers kept in it.
    """

    key: str
    title: str
    topic: Topic
    shape: type
    answer: Callable[[Any], Answer]
    of_rig: Callable[[Known], dict[str, Any]] | None = None
    notes: tuple[str, ...] = ()
    caution: str = ""
    pieces: tuple[str, ...] = ()
    follows: tuple[str, ...] = ()

    def start(self, known: Known | None) -> Any:
        """The form as it opens: defaults, then what the rig knows, then what was kept in it."""
        if known is None:
            return self.shape()
        from_rig = self.of_rig(known) if self.of_rig else {}
        mine = {k: v for k, v in known.kept.get(self.key, {}).items() if k not in self.follows}
        return fill(self.shape, {**plain(from_rig), **mine}) if mine else replace(self.shape(), **from_rig)

    def fields(self) -> tuple[Field, ...]:
        return fields_of(self.shape)

    def rows(self) -> Rows | None:
        return rows_of(self.shape)

    def ask(self, values: dict[str, Any]) -> Answer:
        """The answer for plain values. Raises ``Refused`` for those that cannot be."""
        return self.answer(fill(self.shape, values))


def curve(name: str, x: Iterable[float], y: Iterable[float], sort: str = "main", key: str = "") -> Curve:
    """A curve from any sequences of numbers; it is broken where y is not a number."""
    heights = (float(v) for v in y)
    return Curve(name, tuple(float(v) for v in x), tuple(None if isnan(v) else v for v in heights), sort, key)
