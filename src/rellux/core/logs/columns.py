"""What each column of a log is: from its heading, its unit and what stands in it."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from .times import CLOCK, DATE, STAMP, month_of
from .values import is_missing, number, on_off
from .words import Heading

PERCENT = (-0.5, 100.5)
"""What a percentage may hold, %: half a digit beyond both ends (our choice)."""
ELECTRICAL = {"A": "current", "V": "voltage", "W": "power"}
TEMPERATURE_UNITS = ("C", "F", "K")
ZONE = re.compile(r"zone[ _-]?([1-4])(?!\d)")
BYTE = 255.0
"""Full on, in steps of an eight-bit output."""


@dataclass(frozen=True)
class Cells:
    """What a sample of a column holds: ``kind`` is "stamp", "date", "clock", "number", "state", "empty" or "text"."""

    kind: str
    values: tuple[float, ...] = ()

    @property
    def two_valued(self) -> bool:
        return self.kind == "state" or (self.kind == "number" and set(self.values) <= {0.0, 1.0})

    @property
    def rising(self) -> bool:
        """The values never fall, and rise at least once."""
        return (
            self.kind == "number"
            and len(self.values) > 1
            and self.values == tuple(sorted(self.values))
            and self.spread > 0
        )

    @property
    def spread(self) -> float:
        return max(self.values) - min(self.values)


def is_stamp(cell: str) -> bool:
    found = STAMP.fullmatch(cell)
    return bool(found and found["h"] and (found["b"].isdigit() or month_of(found["b"])))


def is_date(cell: str) -> bool:
    found = DATE.fullmatch(cell.rstrip("."))
    return bool(found and (found["b"].isdigit() or month_of(found["b"])) and not found["b"].startswith("."))


def cells(column: Sequence[str], decimal: str) -> Cells:
    """Judge a sample of a column by what the most of its cells are; one odd cell in ten does not decide."""
    given = [c.strip() for c in column if not is_missing(c.strip())]
    if not given:
        return Cells("empty")
    enough = 0.85 * len(given)
    values = [n.value for c in given if (n := number(c, decimal)) is not None]
    if len(values) >= enough:
        return Cells("number", tuple(values))
    for kind, test in (("stamp", is_stamp), ("clock", CLOCK.fullmatch), ("date", is_date)):
        if sum(bool(test(c)) for c in given) >= enough:
            return Cells(kind)
    if sum(on_off(c) is not None for c in given) >= enough:
        return Cells("state", tuple(v for c in given if (v := on_off(c)) is not None))
    return Cells("text")


def roles(headings: Sequence[Heading], found: Sequence[Cells]) -> tuple[dict[str, int], list[str]]:
    """Columns by role, and the roles that more than one column could have as well."""
    columns = list(zip(range(len(headings)), headings, found, strict=True))
    taken = _times(columns)
    unsure: list[str] = []
    for role, score in (("setpoint", _setpoint), ("output", _output), ("switch", _switch), ("reading", _reading)):
        scored = sorted(((score(h, c), -i) for i, h, c in columns if i not in taken.values()), reverse=True)
        if scored and scored[0][0] > 0:
            taken[role] = -scored[0][1]
            if len(scored) > 1 and scored[1][0] == scored[0][0]:
                unsure.append(role)
    if "reading" not in taken:
        free = [
            i
            for i, h, c in columns
            if i not in taken.values() and c.kind == "number" and not h.hints & {"electrical", "index"}
        ]
        if free:
            taken["reading"] = free[0]
            unsure.append("reading")
    return {**taken, **_channels(columns, taken)}, unsure


def _channels(columns: list[tuple[int, Heading, Cells]], taken: dict[str, int]) -> dict[str, int]:
    """What the columns that are left are, where their headings say so: each role for the first that has it. Temperatures in another
    unit than the reading's are left alone."""
    found: dict[str, int] = {}
    unit = next((h.unit for i, h, _ in columns if i == taken.get("reading") and h.unit in TEMPERATURE_UNITS), "")
    for i, h, c in columns:
        if i in taken.values() or not (role := _channel(h, c)) or role in found:
            continue
        if h.unit in TEMPERATURE_UNITS and unit and h.unit != unit:
            continue
        found[role] = i
    return found


def _channel(heading: Heading, found: Cells) -> str:
    hints = heading.hints
    if found.two_valued and (state := next((role for role in ("door", "cooler") if role in hints), "")):
        return state
    if found.kind != "number" or hints & {"setpoint", "index", "time", "date"}:
        return ""
    if heading.unit in ELECTRICAL:
        return ELECTRICAL[heading.unit]
    if heading.unit not in ("", *TEMPERATURE_UNITS) or "electrical" in hints:
        return ""
    zone = ZONE.search(heading.name.lower())
    if zone:
        return f"zone_{zone[1]}"
    if "limiter" in hints and not hints & {"degrees", "temperature"}:
        return ""  # a limit, or how often it tripped
    if "heater" in hints and (hints & {"degrees", "temperature"}):
        return "heater"
    for role in ("limiter", "cold_junction", "air", "load"):
        if role in hints and hints & {"degrees", "temperature", "place", role}:
            return role
    return "second" if hints & {"degrees", "temperature"} and "other" not in hints else ""


def _times(columns: list[tuple[int, Heading, Cells]]) -> dict[str, int]:
    """The column or the two that say when: stamps before a date with a time of day, before numbers that rise."""
    of_kind = {kind: [i for i, _, c in columns if c.kind == kind] for kind in ("stamp", "date", "clock")}
    if of_kind["stamp"]:
        return {"time": of_kind["stamp"][0]}
    if of_kind["date"] and of_kind["clock"]:
        return {"date": of_kind["date"][0], "time": of_kind["clock"][0]}
    if of_kind["clock"]:
        return {"time": of_kind["clock"][0]}
    rising = [
        (i, h) for i, h, c in columns if c.rising and "index" not in h.hints and not h.hints & {"degrees", "setpoint"}
    ]
    named = [i for i, h in rising if "time" in h.hints or h.unit in ("s", "ms", "min", "h")]
    if named:
        return {"time": named[0]}
    if rising and (rising[0][0] == 0 or (columns and "index" in columns[0][1].hints and rising[0][0] == 1)):
        return {"time": rising[0][0]}
    return {"time": of_kind["date"][0]} if of_kind["date"] else {}


def _setpoint(heading: Heading, found: Cells) -> int:
    hints = heading.hints
    if found.kind != "number" or "setpoint" not in hints or "electrical" in hints or heading.unit == "%":
        return 0
    return 4 - ("other" in hints)


def _output(heading: Heading, found: Cells) -> int:
    hints = heading.hints
    if found.kind != "number" or hints & {"degrees", "electrical", "setpoint", "other"}:
        return 0
    if not (found.values and PERCENT[0] <= min(found.values) and max(found.values) <= BYTE):
        return 0
    if "output" in hints:
        return 4 + (heading.unit == "%")
    return 2 if "state" in hints and not found.two_valued else 0


def _switch(heading: Heading, found: Cells) -> int:
    hints = heading.hints
    if not found.two_valued or hints & {"degrees", "electrical", "setpoint", "other", "index"}:
        return 0
    if found.kind == "state":
        return 4 if "state" in hints else 3 if "output" in hints else 1
    return 4 if "state" in hints and "output" not in hints else 0


def _reading(heading: Heading, found: Cells) -> float:
    hints = heading.hints
    if found.kind != "number" or hints & {"setpoint", "electrical", "index"} or heading.unit not in ("", "C", "F", "K"):
        return 0
    score = 3 * bool(hints & {"degrees", "temperature"}) + 2 * ("temperature" in hints) + ("place" in hints)
    air = 2.5 * ("air" in hints)  # it can be the chamber's air; beside an oven or a plate it is the room's
    return score - air - 4 * ("other" in hints) - 2 * bool(hints & {"state", "output"})


def scale_of(heading: Heading, values: ArrayLike) -> str:
    """How an output counts: "percent", "fraction" (0…1) or "byte" (0…255), or "" where heading and values leave it open."""
    if heading.unit == "%":
        return "percent"
    name = heading.name.lower()
    given = np.asarray(values, dtype=np.float64)
    given = given[np.isfinite(given)]
    highest = float(np.max(given, initial=0.0))
    whole = bool((given == np.round(given)).all())
    if "255" in name or highest > PERCENT[1]:
        return "byte" if highest <= BYTE and whole else ""
    if highest <= 0:
        return ""
    if highest <= 1.0:
        return "fraction"
    return "" if whole and ("pwm" in name or "byte" in name) else "percent"
