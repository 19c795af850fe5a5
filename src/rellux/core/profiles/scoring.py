"""Judging a run by limits: each is passed, failed, or cannot be decided because of a gap. Nothing is invented across one.

Over a gap a temperature is known only to lie within what the quickest change seen in the run allows; every measure is a span because of
it, and a limit is decided where the whole span is on one side.
"""

from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from math import inf

import numpy as np

from ..errors import refuse
from ..messages import of_kind, span_of, spoken_time
from ..process.networks import Array
from ..runs.series import GAP
from ..units import Kind

LEAST_ROWS = 10
SLOPE_S, SLOPE_VALUES = 5.0, 10
"""A slope is a straight line over at least so long and so many different readings: a step of the display fakes one (a quarter of a
degree in a tenth of a second is 2.5 °C/s)."""
EDGE = 1e-9


class Verdict(StrEnum):
    """What becomes of a limit."""

    PASSED = "passed"
    FAILED = "failed"
    UNDECIDED = "undecided"


@dataclass(frozen=True)
class Span:
    """A measure with what it may be because of gaps; ``low`` is ``value`` where nothing is missing."""

    value: float
    low: float
    high: float


@dataclass(frozen=True)
class Score:
    """One limit of a kind of profile against a run. ``least``/``most`` may be open (``None``). ``margin``: how far inside it is, negative
    outside, in the unit of ``kind``. ``role``: whose limit it is."""

    key: str
    name: str
    role: str
    kind: Kind
    measured: Span | None
    least: float | None
    most: float | None
    verdict: Verdict
    margin: float | None
    says: str


@dataclass(frozen=True)
class Seen:
    """What was recorded of one place: times in s, strictly rising, °C, without missing values. ``breaks``: after these rows there is a
    gap."""

    time_s: Array
    celsius: Array
    breaks: np.typing.NDArray[np.bool_]

    @property
    def quickest(self) -> float:
        """The quickest change between two rows beside one another, °C/s."""
        kept = ~self.breaks
        slopes = np.abs(np.diff(self.celsius) / np.diff(self.time_s))[kept]
        return float(slopes.max(initial=0.0))


def seen_from(time_s: Array, celsius: Array, interval_s: float | None = None) -> Seen:
    """A place as it was recorded; NaN is missing. Raises ``Refused`` with fewer than 10 readings."""
    good = np.isfinite(celsius)
    if good.sum() < LEAST_ROWS:
        raise refuse("run", f"only {int(good.sum())} readings of this place", "at least 10")
    t, y = time_s[good], celsius[good]
    usual = interval_s or float(np.median(np.diff(time_s)))
    return Seen(t, y, np.diff(t) > GAP * max(usual, EDGE))


def span_above(seen: Seen, level: float) -> Span:
    """How long it was at or above a level, s: between two rows a straight line; across a gap from not at all to all of it, where it could
    have been either."""
    a, b, step = seen.celsius[:-1], seen.celsius[1:], np.diff(seen.time_s)
    high, low = np.maximum(a, b), np.minimum(a, b)
    rise = np.maximum(high - low, EDGE)
    share = np.where(low >= level, 1.0, np.where(high < level, 0.0, (high - level) / rise))
    known = float((step * share)[~seen.breaks].sum())
    reach = _reach(seen, step)
    least = np.where((0.5 * (a + b) - reach >= level) & seen.breaks, step, 0.0).sum()
    most = np.where((0.5 * (a + b) + reach >= level) & seen.breaks, step, 0.0).sum()
    return Span(known + float((step * share)[seen.breaks].sum()), known + float(least), known + float(most))


def span_between(seen: Seen, low_c: float, high_c: float, until_s: float = inf) -> Span:
    """How long it was between two temperatures, s, before ``until_s``."""
    part = _until(seen, until_s)
    over, under = span_above(part, high_c), span_above(part, low_c)
    return Span(under.value - over.value, max(under.low - over.high, 0.0), under.high - over.low)


def peak(seen: Seen) -> Span:
    """The highest, °C; in a gap it may have been higher."""
    return _extreme(seen, 1.0)


def lowest(seen: Seen) -> Span:
    """The lowest, °C."""
    found = _extreme(Seen(seen.time_s, -seen.celsius, seen.breaks), 1.0)
    return Span(-found.value, -found.high, -found.low)


def _extreme(seen: Seen, sign: float) -> Span:
    found = float(seen.celsius.max())
    step = np.diff(seen.time_s)
    unseen = (0.5 * (seen.celsius[:-1] + seen.celsius[1:]) + _reach(seen, step))[seen.breaks]
    return Span(found, found, max(found, float(unseen.max(initial=-inf))))


def _reach(seen: Seen, step: Array) -> Array:
    """How far from the middle of its ends a temperature may get in each interval, °C."""
    return np.asarray(0.5 * np.maximum(seen.quickest * step, np.abs(np.diff(seen.celsius))))


def _until(seen: Seen, end_s: float) -> Seen:
    n = int(np.searchsorted(seen.time_s, end_s, side="right"))
    return seen if n >= len(seen.time_s) else Seen(seen.time_s[:n], seen.celsius[:n], seen.breaks[: max(n - 1, 0)])


def first_at(seen: Seen, level: float, rising: bool = True) -> float | None:
    """When it first gets to a level, s, between its rows; ``None`` where it never does."""
    sign = 1.0 if rising else -1.0
    beyond = sign * seen.celsius >= sign * level
    if not beyond.any():
        return None
    i = int(np.argmax(beyond))
    if i == 0:
        return float(seen.time_s[0])
    a, b = seen.celsius[i - 1], seen.celsius[i]
    return float(seen.time_s[i - 1] + (level - a) / (b - a) * (seen.time_s[i] - seen.time_s[i - 1]))


def steepest(
    seen: Seen,
    low_c: float,
    high_c: float,
    falling: bool,
    window_s: float = SLOPE_S,
    until_s: float = inf,
    since_s: float = -inf,
) -> Span | None:
    """The steepest straight line, °C/s (positive either way), over windows of at least ``window_s`` and ten different readings that lie
    within two temperatures; where it passes them too quickly for that, windows whose middle does. ``None`` where there is none. Past a
    gap within those temperatures it may have been steeper: the high end is then open."""
    i, j = np.searchsorted(seen.time_s, (since_s, np.nextafter(until_s, inf)))
    part = Seen(seen.time_s[i:j], seen.celsius[i:j], seen.breaks[i : max(j - 1, i)])
    whole, through = _lines(part, low_c, high_c, window_s)
    lines = whole if len(whole) else through
    if not len(lines):
        return None
    found = max(float((-lines if falling else lines).max()), 0.0)
    a, b = np.minimum(part.celsius[:-1], part.celsius[1:]), np.maximum(part.celsius[:-1], part.celsius[1:])
    unseen = bool((part.breaks & (b >= low_c) & (a <= high_c)).any())
    return Span(found, found, inf if unseen else found)


def _lines(seen: Seen, low_c: float, high_c: float, window_s: float) -> tuple[Array, Array]:
    """Slopes of least-squares lines through every window without a gap: of those within two temperatures, and of those whose middle is."""
    cuts = [0, *(np.flatnonzero(seen.breaks) + 1), len(seen.time_s)]
    found = [_piece(seen.time_s[a:b], seen.celsius[a:b], low_c, high_c, window_s) for a, b in pairwise(cuts)]
    return np.concatenate([w for w, _ in found]), np.concatenate([m for _, m in found])


def _piece(t: Array, y: Array, low_c: float, high_c: float, window_s: float) -> tuple[Array, Array]:
    n = len(t)
    if n < SLOPE_VALUES or t[-1] - t[0] < window_s:
        return np.empty(0), np.empty(0)
    new = np.concatenate(([1.0], (np.diff(y) != 0.0).astype(float)))
    values = np.cumsum(new)
    by_time = np.searchsorted(t, t + window_s - EDGE)
    by_values = np.searchsorted(values, values + SLOPE_VALUES - 1)
    ends = np.maximum(np.maximum(by_time, by_values), np.arange(n) + SLOPE_VALUES - 1)
    starts = np.flatnonzero(ends < n)
    stops = ends[starts] + 1
    outside = np.concatenate(([0], np.cumsum((y < low_c) | (y > high_c))))
    middle = y[(starts + stops - 1) // 2]
    through = (middle >= low_c) & (middle <= high_c)
    starts, stops = starts[through], stops[through]
    tt, yy = t - t[0], y - y[0]
    sums = [np.concatenate(([0.0], np.cumsum(v))) for v in (tt, yy, tt * tt, tt * yy)]
    m = (stops - starts).astype(float)
    st, sy, stt, sty = (s[stops] - s[starts] for s in sums)
    slopes = np.asarray((m * sty - st * sy) / (m * stt - st * st))
    return slopes[outside[stops] == outside[starts]], slopes


def score(
    key: str,
    name: str,
    role: str,
    kind: Kind,
    measured: Span | None,
    least: float | None = None,
    most: float | None = None,
    none: str = "there is nothing of it in the run",
) -> Score:
    """A measure against its limits; without a measure it cannot be decided."""
    wanted = _wanted(least, most, kind)
    if measured is None:
        return Score(key, name, role, kind, None, least, most, Verdict.UNDECIDED, None, f"{wanted}; {none}")
    low, high = -inf if least is None else least, inf if most is None else most
    inside = measured.low >= low - EDGE and measured.high <= high + EDGE
    outside = measured.high < low - EDGE or measured.low > high + EDGE
    verdict = Verdict.PASSED if inside else Verdict.FAILED if outside else Verdict.UNDECIDED
    margin = min(measured.value - low, high - measured.value)
    said = _said(measured.value, kind)
    if verdict is Verdict.UNDECIDED:
        ends = (
            "anything above" if measured.high == inf else f"{_said(measured.low, kind)} to {_said(measured.high, kind)}"
        )
        said += f", because of a gap it may be {ends}"
    return Score(key, name, role, kind, measured, least, most, verdict, margin, f"{said}; {wanted}")


def _said(value: float, kind: Kind) -> str:
    return spoken_time(value, ".4g") if kind is Kind.TIME else of_kind(value, kind, ".4g")


def _wanted(least: float | None, most: float | None, kind: Kind) -> str:
    if least is not None and most is not None:
        if kind is Kind.TIME:
            return f"{_said(least, kind)} to {_said(most, kind)} wanted"
        return f"{span_of(least, most, kind)} wanted"
    if least is not None:
        return f"{_said(least, kind)} or more wanted"
    return f"{_said(most, kind)} or less wanted" if most is not None else "nothing is asked of it"


def overall(scores: tuple[Score, ...]) -> Verdict:
    """One limit failed fails it all; one undecided leaves it open."""
    verdicts = {s.verdict for s in scores}
    for worst in (Verdict.FAILED, Verdict.UNDECIDED):
        if worst in verdicts:
            return worst
    return Verdict.PASSED
