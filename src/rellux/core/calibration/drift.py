"""How a sensor's error moves with time: its drift with a band, one jump, what its chart says, and when it leaves its tolerance."""

from dataclasses import dataclass
from datetime import date
from math import inf

import numpy as np
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..messages import difference
from ..units import Kind
from .certified import YEAR_DAYS
from .trend import LEAST_COMPARED, Jump, Trend, jump, trend

AHEAD_DAYS = 730
"""How far a drift is drawn out, days (our choice)."""
SINGLE_RANGE = 2.66
"""Limits of a chart of single values, in mean moving ranges: 3 / 1.128 (NIST/SEMATECH e-Handbook, 6.3.2.2)."""
LEAST_CHARTED = 5
"""Comparisons a chart's limits are drawn from (our choice)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Aged:
    """One comparison of the record: the day (any origin), what the sensor without offset reads above the reference, and U, °C."""

    day: float
    error_c: float
    expanded_c: float


def arrays(record: tuple[Aged, ...]) -> tuple[Array, Array, Array]:
    """Day, error and standard uncertainty, shapes (n,)."""
    day, error, expanded = (np.array([getattr(a, name) for a in record]) for name in ("day", "error_c", "expanded_c"))
    return day, error, expanded / 2.0


@dataclass(frozen=True)
class BandPoint:
    """The line and its band of 95.45 % on a day."""

    day: float
    low_c: float
    mid_c: float
    high_c: float


@dataclass(frozen=True)
class ControlLimits:
    """Of a chart of single values; ``outside``: the comparisons beyond them, by their place in the record."""

    centre_c: float
    low_c: float
    high_c: float
    outside: tuple[int, ...]


@dataclass(frozen=True)
class Drift:
    """``per_year`` with 95.45 % either side, ``None`` before three comparisons; ``seen``: it is more than its uncertainty.
    ``crosses_days``: after so many days from the newest comparison the band leaves what is allowed, ``None`` where it does not within
    two years. ``left_c``: what the display is off by since the newest comparison, with the offset in it now; ``is_out``: by more than is
    allowed; ``allowed_c``: what that is. ``jumped``: after which comparison it stood elsewhere; ``counted``: the comparisons since then,
    which alone tell of its drift."""

    per_year: Figure | None
    seen: bool
    band: tuple[BandPoint, ...]
    crosses_days: float | None
    chart: ControlLimits | None
    says: str
    left_c: float
    is_out: bool
    allowed_c: float | None
    jumped: Jump | None = None
    counted: int = 0

    def moved_c(self, days: float) -> float | None:
        """The most it may move in so many days by its band, °C; ``None`` before three comparisons."""
        if self.per_year is None or self.per_year.low is None or self.per_year.high is None:
            return None
        return max(abs(self.per_year.low), abs(self.per_year.high)) / YEAR_DAYS * days


def drift(record: tuple[Aged, ...], allowed_c: float | None, added_c: float) -> Drift:
    """Of one sensor, days rising. ``allowed_c``: how far the display may be off, ``None`` where nothing says; ``added_c``: the offset
    in the controller now, as one that is added to the reading, °C."""
    left = record[-1].error_c + added_c if record else 0.0
    most = inf if allowed_c is None else allowed_c
    jumped = jump(*arrays(record)) if record else None
    since = record[jumped.before + 1 :] if jumped else record
    found = trend(*arrays(since)) if len(since) >= LEAST_COMPARED else None
    per_year = _per_year(found, len(since)) if found else None
    return Drift(
        per_year,
        found is not None and found.seen,
        _band(found, since[0].day, record[-1].day) if found else (),
        _crosses(found, left, record[-1].expanded_c, most) if found else None,
        control_limits(record),
        _says(found, per_year, len(since), jumped),
        left,
        abs(left) > most,
        allowed_c,
        jumped,
        len(since),
    )


def _per_year(found: Trend, compared: int) -> Figure:
    half = found.factor * found.u_slope
    return Figure(
        "drift of the sensor in a year",
        found.slope * YEAR_DAYS,
        Kind.DIFFERENCE,
        formula="weighted least squares",
        inputs=(
            Input("comparisons", compared, Kind.COUNT, "n", "its record"),
            Input("coverage factor", found.factor, Kind.RATIO, "t", f"{compared - 2} degrees of freedom"),
        ),
        reason="Its error without any offset, against time; what it wanders beside the line makes it less sure.",
        low=(found.slope - half) * YEAR_DAYS,
        high=(found.slope + half) * YEAR_DAYS,
    )


def _crosses(found: Trend, left_c: float, expanded_c: float, most: float) -> float | None:
    ahead = np.arange(0.0, AHEAD_DAYS + 1.0)
    off, wide = found.ahead(left_c, expanded_c, ahead)
    beyond = np.abs(off) + wide > most
    return float(ahead[int(np.argmax(beyond))]) if bool(beyond.any()) else None


def _band(found: Trend, first: float, newest: float) -> tuple[BandPoint, ...]:
    days = np.linspace(first, newest + AHEAD_DAYS / 2, 25)
    mid, wide = found.band(days, newest)
    return tuple(
        BandPoint(float(d), float(m - w), float(m), float(m + w)) for d, m, w in zip(days, mid, wide, strict=True)
    )


def _says(found: Trend | None, per_year: Figure | None, compared: int, jumped: Jump | None) -> str:
    since = " since it jumped" if jumped else ""
    if compared < LEAST_COMPARED:
        missing = LEAST_COMPARED - compared
        return f"{missing} more comparison{'s' if missing > 1 else ''} of this sensor show whether it drifts{since}."
    if found is None or per_year is None:
        return "All its comparisons are of one day: they show no drift."
    half = difference(found.factor * found.u_slope * YEAR_DAYS, ".2g")
    if found.seen:
        way = "upwards" if per_year.value > 0 else "downwards"
        return f"Its reading drifts {way} by {difference(abs(per_year.value), '.2g')} ± {half} a year{since}."
    return f"No drift is seen{since}: {difference(per_year.value, '+.2g')} ± {half} a year."


def said_of_jump(jumped: Jump, counted: int, before: date, after: date) -> str:
    """What a jump between the comparisons of two days means, with so many ``counted`` since."""
    by = f"{difference(jumped.by_c, '+.2g')} ± {difference(jumped.expanded_c, '.2g')}"
    when = f"Between {before:%-d %B %Y} and {after:%-d %B %Y} it jumped by {by}"
    if counted == 1:
        return f"{when}, if the newest comparison is right: compare once more, with another reference, before anything is entered."
    return (
        f"{when}, and stood still before and after: look in the Book for what happened in between – a knock, another place, an "
        "over-temperature, another reference."
    )


def control_limits(record: tuple[Aged, ...]) -> ControlLimits | None:
    """Of a chart of single values (NIST/SEMATECH e-Handbook, 6.3.2.2); ``None`` before five comparisons."""
    if len(record) < LEAST_CHARTED:
        return None
    errors = np.array([a.error_c for a in record])
    centre, half = float(errors.mean()), SINGLE_RANGE * float(np.abs(np.diff(errors)).mean())
    outside = tuple(int(i) for i in np.flatnonzero(np.abs(errors - centre) > half))
    return ControlLimits(centre, centre - half, centre + half, outside)
