"""How a sensor's error moves with the hours it was hot, and when it leaves what is allowed if it is used as lately. High-temperature
cleaning and long soaks age a sensor; a calendar knows nothing of them."""

from dataclasses import dataclass
from math import inf

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference, quantity, temperature
from ..units import Kind
from .drift import Aged, Drift, arrays
from .trend import LEAST_COMPARED, trend

HOT_SHARE_OF_RISE = 0.8
"""Hot is a sensor above so much of the rise from the room to its work, where nobody says another temperature (our choice)."""
LATELY_DAYS = 90.0
"""Its use of so many days is taken to go on (our choice)."""
PER_HOURS = 100.0
"""Drift is said per so many hours."""
MOST_HOURS = 20_000.0
"""How far a drift is drawn out, h (our choice: two years day and night)."""
EXPLAINS_BETTER = 4.0
"""By so much χ² must be smaller before hours are said to explain it better than the calendar (our choice: two standard deviations)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class HotUse:
    """Hours at or above ``hot_c`` in its recorded runs: ``at`` each comparison, since the first, shape (n,); ``since_h``, after the newest,
    which was ``since_days`` ago; ``a_day``, lately."""

    hot_c: float
    at: Array
    since_h: float
    since_days: float
    a_day: float


@dataclass(frozen=True)
class ByUse:
    """``per_hours``: drift in a hundred hours at or above ``hot_c``, with 95.45 % either side; ``better``: hours explain its record better
    than the calendar does. ``crosses_days``: after so many days from the newest comparison the band leaves what is allowed, if it is used
    as lately; ``None`` where it does not."""

    hot_c: float
    per_hours: Figure
    seen: bool
    better: bool
    crosses_days: float | None
    says: str


def hot_above(ambient_c: float, working_c: float) -> float:
    """Above which temperature a sensor counts as hot, where nobody says another, °C.

    >>> hot_above(20.0, 1020.0)
    820.0
    """
    return ambient_c + HOT_SHARE_OF_RISE * (working_c - ambient_c)


def check_hot(hot_c: float, lowest_c: float, highest_c: float) -> None:
    """Raise ``Refused`` for a temperature the sensor is always above, or never."""
    if not lowest_c < hot_c <= highest_c:
        raise refuse(
            "hot_c",
            f"it is always hotter than {temperature(hot_c)} here, or never so hot",
            f"above {temperature(lowest_c)}, up to {temperature(highest_c)}",
        )


def by_use(record: tuple[Aged, ...], use: HotUse, found: Drift) -> ByUse | None:
    """Of the comparisons since it jumped; ``None`` before three of them, and where it was not hot between them. ``use.at`` belongs to
    ``record``."""
    since = len(record) - found.counted
    counted, hours = record[since:], use.at[since:]
    if len(counted) < LEAST_COMPARED or not use.at[-1] > use.at[since]:
        return None
    day, error, u = arrays(counted)
    hot, calendar = trend(hours, error, u), trend(day, error, u)
    if hot is None:
        return None
    half = hot.factor * hot.u_slope * PER_HOURS
    per = Figure(
        f"drift of the sensor in {PER_HOURS:.0f} hours hot",
        hot.slope * PER_HOURS,
        Kind.DIFFERENCE,
        formula="weighted least squares",
        inputs=(
            Input("comparisons", len(counted), Kind.COUNT, "n", "its record"),
            Input("hot between them", float(hours[-1] - hours[0]) * 3600.0, Kind.TIME, "", "its recorded runs"),
            Input("hot from", use.hot_c, Kind.TEMPERATURE, "", "the plan"),
        ),
        reason="Its error without any offset, against the hours it was hot in recorded runs.",
        low=hot.slope * PER_HOURS - half,
        high=hot.slope * PER_HOURS + half,
    )
    better = hot.seen and (calendar is None or calendar.chi2 - hot.chi2 > EXPLAINS_BETTER)
    most = inf if found.allowed_c is None else found.allowed_c
    ahead = np.linspace(0.0, MOST_HOURS, 4001)
    off, wide = hot.ahead(found.left_c, record[-1].expanded_c, ahead)
    beyond = np.abs(off) + wide > most
    crosses = _days(float(ahead[int(np.argmax(beyond))]), use) if bool(beyond.any()) else None
    return ByUse(use.hot_c, per, hot.seen, better, crosses, _says(per, half, hot.seen, better, use))


def _days(hours: float, use: HotUse) -> float | None:
    """When so many hours after the newest comparison are over, in days from it."""
    left = hours - use.since_h
    if left <= 0:
        return 0.0
    return use.since_days + left / use.a_day if use.a_day > 0 else None


def _says(per: Figure, half: float, seen: bool, better: bool, use: HotUse) -> str:
    moved = f"{difference(per.value, '+.2g')} ± {difference(half, '.2g')}"
    what = f"In {quantity(PER_HOURS, 'h')} at {temperature(use.hot_c, '.0f')} and more it moves by {moved}"
    lately = f"; lately it was so hot for {quantity(use.a_day, 'h', '.2g')} a day"
    if better:
        return f"{what}, which explains its record better than the calendar{lately}."
    return f"{what}{lately}." if seen else f"{what}: none is seen{lately}."
