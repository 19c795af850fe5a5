"""Profiles as tables other programs write and read: CSV both ways, and what is pasted from a spreadsheet.

A heading names every column and its unit: ``kind, target_c, rate_c_per_min, time_s, holdback_c, side, wait, end, events, says, pid_set``;
``target_f``, ``rate_f_per_h``, ``time_min`` and so on are read too, one unit of temperature in a table. Without ``kind`` a row with a
rate is a ramp, one with a target and a time a ramp in that time, one with a time alone a soak, one with all three a ramp and a soak, as
ramp-and-hold tables are written. Lines that begin with ``#`` hold what is no segment: ``# start, room`` · ``# loop, 1, 4, 10`` ·
``# after_power, 5, 50, 3600, abort``. ``docs/profiles.md`` describes it for other programs.
"""

import csv
import re
from collections.abc import Iterable
from dataclasses import replace
from enum import StrEnum
from typing import TypeVar

from ..errors import Problem, Refused, refuse, refuse_all
from ..units import FAHRENHEIT_PER_KELVIN, celsius_from_fahrenheit
from .profile import (
    AfterCut,
    AfterPower,
    EndAction,
    EventOutput,
    Holdback,
    Loop,
    Profile,
    Segment,
    SegmentKind,
    Side,
    StartFrom,
    WaitFor,
    check_profile,
)

MOST_BYTES = 200_000
SECONDS = {"s": 1.0, "min": 60.0, "h": 3600.0}
HEADING = (
    "kind",
    "target_c",
    "rate_c_per_min",
    "time_s",
    "holdback_c",
    "side",
    "wait",
    "end",
    "events",
    "says",
    "pid_set",
    "alarms",
)
_COLUMN = re.compile(r"(target|holdback)_([cf])|rate_([cf])_per_(s|min|h)|time_(s|min|h)")
_SPOKEN = (
    (re.compile(r"°\s*([CF])", re.I), r"\1"),
    (re.compile(r"^(temperature|temp|set-?point|level)\b", re.I), "target"),
    (re.compile(r"^(ramp|speed|slope)\b", re.I), "rate"),
    (re.compile(r"^(hold|soak|dwell|duration)\b(?!back)", re.I), "time"),
    (re.compile(r"\bhours?\b|\bhr\b", re.I), "h"),
    (re.compile(r"\bminutes?\b", re.I), "min"),
    (re.compile(r"\bseconds?\b|\bsec\b", re.I), "s"),
    (re.compile(r"/"), "_per_"),
    (re.compile(r"[\s()\[\],]+"), "_"),
)
Choice = TypeVar("Choice", bound=StrEnum)


def as_csv(profile: Profile) -> str:
    """The profile as CSV; :func:`from_csv` makes the same of it."""
    p = profile.after_power
    start = [] if profile.start_c is None else [repr(profile.start_c)]
    rows: list[list[str]] = [
        ["# start", profile.start.value, *start],
        ["# after_power", repr(p.resume_c), repr(p.ramp_back_c), repr(p.longest_s), p.beyond.value],
        *(["# loop", str(loop.first), str(loop.last), str(loop.times)] for loop in profile.loops),
        list(HEADING),
    ]
    for s in profile.segments:
        numbers = (s.target_c, s.rate_c_per_min, s.time_s, s.holdback.band_c if s.holdback else None)
        words = (s.holdback.side if s.holdback else "", s.wait or "", s.end or "", " ".join(s.events), s.says)
        alarms = "all" if s.alarms is None else " | ".join(s.alarms)
        told = ("" if v is None else repr(v) for v in numbers)
        rows.append([s.kind.value, *told, *map(str, words), str(s.pid_set), alarms])
    return "".join(",".join(map(_quoted, row)) + "\n" for row in rows)


def _quoted(cell: str) -> str:
    return '"' + cell.replace('"', '""') + '"' if any(c in cell for c in ',"\n\r;\t') or cell != cell.strip() else cell


def from_csv(text: str) -> Profile:
    """A profile out of a table. Raises ``Refused`` naming row and column of what cannot be used; nothing of it is guessed."""
    if len(text.encode()) > MOST_BYTES:
        raise refuse("table", "too long for a profile", f"up to {MOST_BYTES // 1000} kB")
    lines = [line for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    if not lines:
        raise refuse("table", "there is nothing in it", "a heading and a row for each segment")
    head = next((line for line in lines if not line.startswith("#")), "")
    mark = max(";\t,", key=lambda m: (head.count(m), m == ","))
    rows = list(csv.reader(lines, delimiter=mark))
    notes = [r for r in rows if r and r[0].lstrip().startswith("#")]
    table = [r for r in rows if r and not r[0].lstrip().startswith("#")]
    if not table:
        raise refuse("table", "there is no heading in it", ", ".join(HEADING[:4]))
    columns = _columns(table[0])
    made: list[Segment] = []
    problems: list[Problem] = []
    for i, cells in enumerate(table[1:], 2):
        try:
            made += _segments(i, columns, cells, decimal_comma=mark != ",")
        except Refused as refused:
            problems += refused.problems
    refuse_all(problems)
    if made and made[-1].kind is not SegmentKind.END:
        made.append(Segment(SegmentKind.END, end=EndAction.OFF))
    profile = _noted(Profile(tuple(made)), notes)
    check_profile(profile)
    return profile


def _columns(heading: list[str]) -> list[str]:
    names = [_named(cell) for cell in heading]
    known = {*HEADING, "target_f", "holdback_f"}
    problems = []
    for name, cell in zip(names, heading, strict=True):
        if name in known or _COLUMN.fullmatch(name):
            continue
        unit = "say its unit" if name in ("target", "rate", "time", "holdback") else "is no column of a profile"
        problems.append(
            Problem(cell.strip() or "heading", unit, "target_c, rate_c_per_min, time_min … or target (°C), rate (°C/h)")
        )
    refuse_all(problems)
    units = {m[2] or m[3] for name in names if (m := _COLUMN.fullmatch(name)) and (m[2] or m[3])}
    if len(units) > 1:
        mixed = next(n for n in names if (m := _COLUMN.fullmatch(n)) and (m[2] or m[3]) == "f")
        raise refuse(mixed, "°C and °F are mixed in one table", "one of them throughout")
    if len(set(names)) != len(names):
        twice = next(n for n in names if names.count(n) > 1)
        raise refuse(twice, "is there twice", "each column once")
    return names


def _named(cell: str) -> str:
    name = cell.strip()
    for pattern, other in _SPOKEN:
        name = pattern.sub(other, name)
    name = re.sub(r"_+", "_", name).strip("_").lower()
    return name.replace("_per_per_", "_per_").replace("_degc", "_c").replace("_degf", "_f")


def _segments(row: int, columns: list[str], cells: list[str], decimal_comma: bool) -> list[Segment]:
    given = {name: cell.strip() for name, cell in zip(columns, cells, strict=False)}
    numbers: dict[str, float | None] = {"target": None, "rate": None, "time": None, "holdback": None}
    problems = []
    for name, cell in given.items():
        if not (m := _COLUMN.fullmatch(name)) or not cell:
            continue
        try:
            value = float(cell.replace(",", ".") if decimal_comma else cell)
        except ValueError:
            own = re.search(r"°|[CF]$|h$|min$|s$", cell)
            reason = f"row {row} holds {cell!r}" + (": a unit of its own" if own else ", which is no number")
            problems.append(Problem(name, reason, "numbers in the unit of the heading"))
            continue
        if m[1]:
            numbers[m[1]] = _in_celsius(value, m[2], m[1] == "target")
        elif m[3]:
            numbers["rate"] = _in_celsius(value, m[3], False) * 60.0 / SECONDS[m[4]]
        else:
            numbers["time"] = value * SECONDS[m[5]]
    side = _word(given, "side", Side, row, problems)
    held = Holdback(numbers["holdback"], side or Side.BELOW) if numbers["holdback"] is not None else None
    s = Segment(
        _word(given, "kind", SegmentKind, row, problems) or _inferred(numbers),
        numbers["target"],
        numbers["rate"],
        numbers["time"],
        held,
        _word(given, "wait", WaitFor, row, problems),
        _word(given, "end", EndAction, row, problems),
        says=given.get("says", ""),
    )
    events = [_choice(e, EventOutput, "events", row, problems) for e in given.get("events", "").split()]
    if (pid_set := given.get("pid_set", "")) and not pid_set.isdecimal():
        problems.append(Problem("pid_set", f"row {row} holds {pid_set!r}", "a whole number"))
    refuse_all(problems)
    alarms = given.get("alarms", "all")
    s = replace(
        s,
        events=tuple(e for e in events if e is not None),
        pid_set=int(pid_set or 1),
        alarms=None if (alarms in ("all", "") and "alarms" not in given) or alarms == "all"
        else tuple(a.strip() for a in alarms.split("|") if a.strip()),
    )  # fmt: skip
    if not given.get("kind") and None not in (numbers["target"], numbers["rate"], numbers["time"]):
        return [replace(s, time_s=None), Segment(SegmentKind.SOAK, time_s=s.time_s, holdback=held)]
    return [s]


def _inferred(numbers: dict[str, float | None]) -> SegmentKind:
    if numbers["rate"] is not None:
        return SegmentKind.RAMP_RATE
    if numbers["target"] is None:
        return SegmentKind.SOAK
    return SegmentKind.RAMP_TIME if numbers["time"] is not None else SegmentKind.STEP


def _in_celsius(value: float, unit: str, absolute: bool) -> float:
    if unit == "c":
        return value
    return celsius_from_fahrenheit(value) if absolute else value / FAHRENHEIT_PER_KELVIN


def _word(given: dict[str, str], name: str, words: type[Choice], row: int, problems: list[Problem]) -> Choice | None:
    return _choice(given[name], words, name, row, problems) if given.get(name) else None


def _choice(said: str, words: type[Choice], name: str, row: int, problems: list[Problem]) -> Choice | None:
    if said in set(words):
        return words(said)
    problems.append(Problem(name, f"row {row} holds {said!r}", ", ".join(words)))
    return None


def _noted(profile: Profile, notes: Iterable[list[str]]) -> Profile:
    loops: list[Loop] = []
    for cells in notes:
        name, *values = (c.strip() for c in cells)
        name = name.lstrip("# ")
        try:
            if name == "start":
                profile = replace(
                    profile, start=StartFrom(values[0]), start_c=float(values[1]) if len(values) > 1 else None
                )
            elif name == "loop":
                loops.append(Loop(*(int(v) for v in values)))
            elif name == "after_power":
                resume, back, longest, beyond = values
                after = AfterPower(float(resume), float(back), float(longest), AfterCut(beyond))
                profile = replace(profile, after_power=after)
        except (ValueError, IndexError, TypeError):
            raise refuse(name, f"cannot be read: {', '.join(values)}", "as in docs/profiles.md") from None
    return replace(profile, loops=tuple(loops))
