"""Time stamps as loggers write them: recognised, taken apart, and turned into seconds."""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import quantity

Array = NDArray[np.float64]

COUNTED = {"milliseconds": 1e-3, "seconds": 1.0, "minutes": 60.0, "hours": 3600.0, "days": 86_400.0}
"""Formats that count from some beginning, and what one of them is in seconds."""
COUNTS = {"unix": 1.0, "unix_ms": 1e-3, **COUNTED}
"""Formats that are a number, and what one of them is in seconds."""
DATED = ("iso", "dmy", "mdy")
FORMATS = {
    "seconds": "seconds",
    "milliseconds": "milliseconds",
    "minutes": "minutes",
    "hours": "hours",
    "days": "days",
    "unix": "seconds since 1970",
    "unix_ms": "milliseconds since 1970",
    "iso": "year-month-day",
    "dmy": "day.month.year",
    "mdy": "month/day/year",
    "clock": "hours:minutes[:seconds]",
    "minsec": "minutes:seconds",
}
"""Every time format and its words."""

_DATE = r"(?P<a>\d{1,4})[-./ ]{1,2}(?P<b>\d{1,2}|[^\W\d_]{3,9})\.?[-./ ,]{1,2}(?P<c>\d{1,4})"
_CLOCK = r"(?P<h>\d{1,4}):(?P<m>\d{1,2})(?::(?P<s>\d{1,2}(?:[.,]\d+)?))?"
_HALF = r"(?: ?(?P<half>[AaPp]\.?[Mm]\.?))?"
_ZONE = r" ?(?P<zone>Z|UTC|GMT|[-+]\d{2}:?\d{2}|[-+]\d{2})?"
DATE = re.compile(_DATE)
STAMP = re.compile(f"{_DATE}\\.?(?:[T ,]{{1,3}}{_CLOCK}{_HALF}{_ZONE})?")
"""A date with the time of day behind it; without one it is midnight."""
CLOCK = re.compile(_CLOCK + _HALF)
CENTURY = 2000
"""Two-digit years are of this century (our choice: no log is older)."""
MONTHS = (
    "jan ene gen", "feb fev fév", "mar mär mrz maa", "apr avr abr", "may mai mag maj mei", "jun giu",
    "jul lug", "aug aoû aou ago", "sep set", "oct okt ott out", "nov", "dec dez déc dic",
)  # fmt: skip
"""Beginnings of the months' names in English, German, French, Italian, Spanish, Dutch and Danish."""
_MONTH_OF = {word: i + 1 for i, words in enumerate(MONTHS) for word in words.split()}
LONGEST_S = 366 * 86_400.0
"""The longest log, s (our choice: a year; beyond it the time format is wrong)."""
HOUR_S = 3600.0
DAY_S = 24 * HOUR_S
YEARS = (1970, 2199)
MONTHS_A_YEAR = 12
DAYS_A_MONTH = 31
HOURS_OF_HALF_A_DAY = 12
LAST_MINUTE = 59
LEAP_S = 60.99
"""A minute may have a leap second."""
NIGHT_S = 4 * HOUR_S
"""Summer time ends before this time of day, s (everywhere in Europe and North America by 3:00)."""


def month_of(word: str) -> int | None:
    """The number of a month by its name, or ``None``."""
    word = word.lower()
    if word.startswith("jui"):
        return 6 if word.startswith("juin") else 7
    return _MONTH_OF.get(word[:3])


@dataclass(frozen=True)
class Stamps:
    """Time stamps taken apart, each an array of equal length: the three numbers of the date as written, the time of day in s,
    and what is to be taken off for the zone in s (NaN where none is given)."""

    a: Array
    b: Array
    c: Array
    of_day_s: Array
    zone_s: Array


def date_orders(stamps: Stamps) -> list[str]:
    """The orders of year, month and day in which every stamp is a date; the year is where it has four digits or more than 31."""
    a, b, c = (x[np.isfinite(x)] for x in (stamps.a, stamps.b, stamps.c))

    def can(year: Array, month: Array, day: Array) -> bool:
        years = ((year >= YEARS[0]) & (year <= YEARS[1])) | ((year >= 0) & (year < 100))
        return bool(
            years.all()
            and ((month >= 1) & (month <= MONTHS_A_YEAR)).all()
            and ((day >= 1) & (day <= DAYS_A_MONTH)).all()
        )

    fits = {"iso": can(a, b, c), "dmy": can(c, b, a), "mdy": can(c, a, b)}
    return [order for order, fit in fits.items() if fit]


def seconds_of(stamps: Stamps, order: str) -> Array:
    """Seconds since 1970 of dated stamps, in their own zone's UTC where one is given, else as if their clock were UTC.

    NaN where the three numbers are no date (31 February).
    """
    year, month, day = {
        "iso": (stamps.a, stamps.b, stamps.c),
        "dmy": (stamps.c, stamps.b, stamps.a),
        "mdy": (stamps.c, stamps.a, stamps.b),
    }[order]
    year = np.where(year < 100, year + CENTURY, year)
    real = np.isfinite(year + month + day) & (month >= 1) & (month <= MONTHS_A_YEAR) & (day >= 1)
    safe = [np.where(real, x, 1).astype(np.int64) for x in (year, month, day)]
    months = ((safe[0] - 1970) * 12 + safe[1] - 1).astype("datetime64[M]")
    days = months.astype("datetime64[D]") + (safe[2] - 1)
    real &= days.astype("datetime64[M]") == months
    since = days.astype(np.int64) * 86_400.0 + stamps.of_day_s - np.nan_to_num(stamps.zone_s)
    return np.where(real, since, np.nan)


def of_day(hours: Array, minutes: Array, seconds: Array, afternoon: Array) -> Array:
    """Seconds of the day; ``afternoon`` is 1 for PM, 0 for AM, NaN for a clock of 24 hours. NaN where it is no time."""
    twelve = np.isfinite(afternoon)
    wrong = (minutes > LAST_MINUTE) | (seconds > LEAP_S) | (twelve & ((hours > HOURS_OF_HALF_A_DAY) | (hours < 1)))
    hours = np.where(twelve, hours % HOURS_OF_HALF_A_DAY + HOURS_OF_HALF_A_DAY * np.nan_to_num(afternoon), hours)
    return np.where(wrong, np.nan, hours * 3600.0 + minutes * 60.0 + seconds)


def over_midnights(clock_s: Array) -> Array:
    """A clock that runs on: a step back of more than half a day is midnight. NaN stay."""
    known = np.flatnonzero(np.isfinite(clock_s))
    total = clock_s.copy()
    step = np.diff(clock_s[known])
    total[known[1:]] += np.cumsum(step < -DAY_S / 2) * DAY_S
    return total


def repeated_hour(time_s: Array, of_day_s: Array) -> int | None:
    """The row at which a log without zones puts its clock back by the hour at the end of summer time, or ``None``.

    It is one only where time goes back once, by an hour less an interval, and in the small hours: anything else is an error of the
    log and left to be refused.
    """
    step = np.diff(time_s)
    back = np.flatnonzero(step < 0)
    if len(back) != 1:
        return None
    row = int(back[0]) + 1
    usual = float(np.median(step[step > 0])) if (step > 0).any() else 0.0
    at_night = of_day_s[row] < NIGHT_S
    off = step[row - 1] + HOUR_S
    return row if at_night and -0.5 * usual <= off <= 3 * usual + 1.0 else None


def check_span(time_s: Array) -> None:
    """Raises ``Refused`` where the log is longer than a year: the format is wrong."""
    span_s = float(time_s[-1] - time_s[0]) if len(time_s) else 0.0
    if span_s > LONGEST_S:
        raise refuse(
            "time",
            f"the log spans more than a year ({quantity(span_s / HOUR_S, 'h', '.0f')}): is the time format right?",
            "up to 366 days",
        )
