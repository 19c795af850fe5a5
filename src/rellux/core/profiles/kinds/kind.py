"""What a kind of profile is: a form, the profile it makes, the figures behind it, and its judge."""

from collections.abc import Callable, Sequence
from dataclasses import KW_ONLY, dataclass
from typing import Any

from ...explain import Figure
from ...findings import Finding
from ...form import Field, Rows, fields_of, fill, rows_of
from ..profile import EndAction, Holdback, Profile, Segment, SegmentKind, Side
from ..scoring import Score, Seen, Span

PRACTICE = "common practice, no source"


@dataclass(frozen=True)
class Places:
    """What was recorded of the load: at its hottest place, and at its coldest where two were measured. ``room_c`` round the rig."""

    hottest: Seen
    coldest: Seen
    room_c: float


def places(seen: Sequence[Seen], room_c: float) -> Places:
    """Of what was recorded of the load, the place that became hottest and the one that became least hot."""
    ordered = sorted(seen, key=lambda p: float(p.celsius.max()))
    return Places(ordered[-1], ordered[0], room_c)


@dataclass(frozen=True)
class ProfileKind:
    """``shape`` is its form (:mod:`rellux.core.form`); ``caution`` is read at its place."""

    key: str
    title: str
    shape: type
    build: Callable[[Any], Profile]
    judge: Callable[[Any, Places], tuple[Score, ...]]
    _: KW_ONLY
    source: str
    figures: Callable[[Any], tuple[Figure, ...]] = lambda _: ()
    findings: Callable[[Any], tuple[Finding, ...]] = lambda _: ()
    caution: str = ""

    def fields(self) -> tuple[Field, ...]:
        return fields_of(self.shape)

    def rows(self) -> Rows | None:
        return rows_of(self.shape)

    def read(self, values: dict[str, Any]) -> Any:
        """Its inputs out of plain values. Raises ``Refused`` for those that cannot be."""
        return fill(self.shape, values)


def per_minute(found: Span | None) -> Span | None:
    """A slope in °C/s as the °C/min that limits are in."""
    return None if found is None else Span(*(v * 60.0 for v in (found.value, found.low, found.high)))


def ramp(target_c: float, rate_c_per_min: float, says: str = "") -> Segment:
    return Segment(SegmentKind.RAMP_RATE, target_c, rate_c_per_min, says=says)


def ramp_in(target_c: float, time_s: float, says: str = "") -> Segment:
    return Segment(SegmentKind.RAMP_TIME, target_c, time_s=time_s, says=says)


def soak(time_s: float, band_c: float | None = None, says: str = "") -> Segment:
    """A soak; with a band a guaranteed one: its time counts only while the reading is inside."""
    held = Holdback(band_c, Side.EITHER) if band_c else None
    return Segment(SegmentKind.SOAK, time_s=time_s, holdback=held, says=says)


def step(target_c: float, says: str = "") -> Segment:
    return Segment(SegmentKind.STEP, target_c, says=says)


OFF = Segment(SegmentKind.END, end=EndAction.OFF)
HOLD = Segment(SegmentKind.END, end=EndAction.HOLD)
