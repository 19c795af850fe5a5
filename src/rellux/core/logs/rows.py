"""One row of a log at a time, as it is appended: when it was taken, and the live values in it."""

from dataclasses import dataclass, field
from math import isfinite

import numpy as np

from .dialect import divide
from .guess import UNIX_MS, UNIX_S
from .lines import VALUES, GarbledError, value_in
from .mapping import Mapping
from .stamps import taken_apart
from .times import CLOCK, COUNTS, DATED, DAY_S, of_day, seconds_of
from .values import number


@dataclass
class RowReader:
    """Rows in their order. ``width``: the cells of a whole row."""

    mapping: Mapping
    width: int
    _days: int = field(default=0, init=False)
    _clock_s: float = field(default=-np.inf, init=False)

    def row(self, line: str) -> dict[str, float | None] | None:
        """Its live values by name, °C and %, with ``clock_s``, seconds from some beginning; ``None`` for what is no whole row."""
        cells = divide(line, self.mapping.delimiter)
        if len(cells) != self.width:
            return None
        at = self._time(cells)
        if at is None or not isfinite(at):
            return None
        found: dict[str, float | None] = {"clock_s": at}
        try:
            for role, column in self.mapping.columns.items():
                if role in VALUES:
                    m = self.mapping
                    found[VALUES[role]] = value_in(cells[column], role, m.decimal, m.unit, m.output_scale or "percent")
        except GarbledError:
            return None
        return found

    def _time(self, cells: list[str]) -> float | None:
        m = self.mapping
        cell = cells[m.columns["time"]]
        if m.time_format in COUNTS:
            found = number(cell, m.decimal)
            if found is None:
                return None
            if m.time_format == "seconds" and found.value > UNIX_S:  # counted from 1970 all the same
                return found.value / 1000.0 if found.value > UNIX_MS else found.value
            return found.value * COUNTS[m.time_format]
        if m.time_format in DATED:
            dated = f"{cells[m.columns['date']]} {cell}" if "date" in m.columns else cell
            return float(seconds_of(taken_apart([dated]), m.time_format)[0])
        return self._over_midnight(_clock(cell, m.time_format))

    def _over_midnight(self, clock_s: float | None) -> float | None:
        """A clock that runs on: a step back of more than half a day is midnight."""
        if clock_s is None:
            return None
        if clock_s < self._clock_s - DAY_S / 2:
            self._days += 1
        self._clock_s = clock_s
        return clock_s + self._days * DAY_S


def _clock(cell: str, form: str) -> float | None:
    found = CLOCK.fullmatch(cell)
    if found is None:
        return None
    hours, minutes, seconds = (float((found[k] or "0").replace(",", ".")) for k in "hms")
    if form == "minsec":
        return hours * 60.0 + minutes
    half = np.nan if not found["half"] else float(found["half"][0] in "Pp")
    return float(of_day(*(np.array([x]) for x in (hours, minutes, seconds, half)))[0])
