"""A profile as the file of somebody's own firmware, written and read by a template the user edits.

A line that begins with a word in brackets says how one kind of segment is written: ``[ramp_rate]``, ``[ramp_time]``, ``[soak]``,
``[step]``, ``[wait]`` (for a person), ``[end]`` and ``[end_hold]``. ``[point]`` instead writes every ramp, step and soak as the time and
temperature at its end, ``[start]`` where it begins, ``[between]`` what stands after each of these lines but the last. Every other line
stands as it is, before or after. In braces stand the values of :data:`VALUES`, with a factor and a form where wanted:
``{target_c*10:.0f}`` is tenths of a degree. Other braces are left alone.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

from ..errors import Problem, Refused, refuse, refuse_all
from ..messages import temperature
from ..slots import MOST_DECIMALS, NUMBER, SLOT, factor_of
from ..units import FAHRENHEIT_PER_KELVIN, celsius_from_fahrenheit, fahrenheit_from_celsius
from .apart import Keeps, apart, keeps
from .controller_table import NO_HOLDBACK, Loss, beyond_the_course
from .profile import (
    MOST_SEGMENTS,
    MOVES,
    RAMPS,
    Corner,
    EndAction,
    Holdback,
    Profile,
    Segment,
    SegmentKind,
    Side,
    StartFrom,
    WaitFor,
    check_profile,
    commanded,
    segment_problems,
)

MOST_TEMPLATE, MOST_FILE = 8_000, 200_000
PER = {"s": 1.0, "min": 60.0, "h": 3600.0}
HOLDING_END = "end_hold"
KINDS = (*(k.value for k in SegmentKind), HOLDING_END)
VALUES = {
    "number": "of the line, from 1",
    "target_c": "temperature at its end, also target_f",
    "from_c": "temperature at its beginning, also from_f",
    "rate_c_per_min": "how fast, never negative; also _per_s, _per_h, rate_f_…",
    "time_s": "how long it lasts, also time_min, time_h",
    "at_s": "when it ends, from the start, also at_min, at_h",
    "holdback_c": "band it waits in, 0 without; also holdback_f",
    "name": "of the profile",
    "segments": "how many lines there are",
}
"""What can stand in braces, and what it is."""
WHOLE = ("name", "segments")
"""What can be said before and after."""
WHOLE_SAID = "{name} or {segments}"
_SLOT = re.compile(SLOT)
_QUANTITY = re.compile(
    r"(target|from|holdback)_([cf])|rate_([cf])_per_(s|min|h)|(time|at)_(s|min|h)|number|segments|name"
)
_OWN = re.compile(r"\[([a-z_]+)\]\s?(.*)")
_WORDS = ("point", "start", "between", *KINDS)

USUAL = """\
; {name}: {segments} lines, degrees C, seconds from the start
[start] T{at_s:.0f} S{target_c:.1f}
[point] T{at_s:.0f} S{target_c:.1f}
[end] END
"""


@dataclass(frozen=True)
class Line:
    """One line of a template: ``word`` in its brackets, empty for one that stands as it is."""

    word: str
    text: str


@dataclass(frozen=True)
class Template:
    """Lines of its own by their word, and what stands before and after them."""

    head: tuple[str, ...]
    own: dict[str, str]
    foot: tuple[str, ...]


@dataclass(frozen=True)
class FirmwareFile:
    """The file, what cannot be said in it, the profile that is read from it again, and how far that is from what was meant: ``apart_c``
    of set-point at the most, ``late_s`` of its end."""

    text: str
    losses: tuple[Loss, ...]
    runs: Profile
    apart_c: float
    late_s: float
    keeps: Keeps


def template_from(text: str) -> Template:
    """The template, checked: raises ``Refused`` naming its line for a word or a value that is none, or a form that cannot be read back."""
    if len(text) > MOST_TEMPLATE:
        raise refuse("template", "too long", f"up to {MOST_TEMPLATE} characters")
    head: list[str] = []
    own: dict[str, str] = {}
    foot: list[str] = []
    problems: list[Problem] = []
    for number, line in enumerate(text.splitlines(), 1):
        found = _OWN.fullmatch(line.strip())
        if found is None or found[1] not in _WORDS:
            if found is not None and any(m[1] not in WHOLE for m in _SLOT.finditer(found[2])):
                known = ", ".join(f"[{w}]" for w in _WORDS)
                problems.append(_problem(number, f"there is no [{found[1]}]", known))
                continue
            (foot if own else head).append(line)
            problems += _slots(number, line, whole=True)
            continue
        word, form = found[1], found[2]
        if word in own:
            problems.append(_problem(number, f"[{word}] is there twice", "each once"))
        own[word] = form
        problems += _slots(number, form, whole=False)
        problems += _needs(number, word, form)
    refuse_all(problems)
    if not own.keys() & {"point", *KINDS}:
        raise refuse("template", "no line says how a segment is written", "[point], or [ramp_rate], [soak] and so on")
    if "point" in own and own.keys() & {k.value for k in (*MOVES, SegmentKind.SOAK)}:
        raise refuse("template", "[point] writes every ramp, step and soak already", "either [point], or those lines")
    return Template(tuple(head), own, tuple(foot))


def _problem(line: int, reason: str, accepted: str) -> Problem:
    return Problem("template", f"line {line}: {reason}", accepted)


def _slots(number: int, text: str, whole: bool) -> list[Problem]:
    found = []
    if text.count("{name") > 1:
        found.append(_problem(number, "{name} is there twice", "once in a line"))
    for name, factor, decimals in _SLOT.findall(text):
        if not _QUANTITY.fullmatch(name):
            found.append(_problem(number, f"{{{name}}} is no value", ", ".join(VALUES)))
        elif whole and name not in WHOLE:
            found.append(_problem(number, f"{{{name}}} belongs to a segment's own line", WHOLE_SAID))
        elif not whole and name in WHOLE:
            found.append(_problem(number, f"{{{name}}} is of the whole file", "in a line before or after"))
        if factor and not factor_of(factor):
            found.append(_problem(number, f"{factor} is no factor", "a number more than 0"))
        if decimals and int(decimals) > MOST_DECIMALS:
            found.append(_problem(number, f"{decimals} decimals", f"up to {MOST_DECIMALS}"))
    return found


_NEEDED: dict[str, tuple[tuple[str, ...], ...]] = {
    "point": (("target",), ("time", "at")),
    "start": (("target",),),
    SegmentKind.RAMP_RATE: (("target",), ("rate",)),
    SegmentKind.RAMP_TIME: (("target",), ("time", "at")),
    SegmentKind.SOAK: (("time", "at"),),
    SegmentKind.STEP: (("target",),),
}


def _needs(number: int, word: str, form: str) -> list[Problem]:
    names = [m[0].split("_")[0] for m in _SLOT.findall(form)]
    missing = [one for one in _NEEDED.get(word, ()) if not set(one) & set(names)]
    found = [
        _problem(number, f"[{word}] does not say its {' or '.join(m)}", "so that it can be read back") for m in missing
    ]
    if word == "between" and names:
        found.append(_problem(number, "[between] stands as it is", "no values in it"))
    if word not in ("between", *_NEEDED) and not form.strip():
        found.append(_problem(number, f"[{word}] is written as nothing", "a word of your firmware"))
    return found


def written(profile: Profile, template: Template, name: str, start_c: float) -> FirmwareFile:
    """The profile by a template, loops counted out, its first ramp from ``start_c``; held against what is read from it again.

    What a value's decimals leave of a length of time is carried on. Raises ``Refused`` where nothing can be read of it again."""
    corners = commanded(profile, start_c)
    body = list(_body(profile, template, corners, start_c))
    lines: list[str] = []
    carried = 0.0
    for word, at in body:
        form = template.own[word]
        values = replace(at, number=len(lines) + 1, time_s=max(at.time_s + carried, 0.0))
        line = _filled(form, values)
        if any(slot[1].startswith("time_") for slot in _SLOT.finditer(form)) and word != "start":
            carried = values.time_s - (_read_line(form, line, "") or {}).get("time", values.time_s)
        lines.append(line)
    between = template.own.get("between", "")
    lines = [*(line + between for line in lines[:-1]), *lines[-1:]]
    around = [
        [_SLOT.sub(lambda m: _stated(m, name, len(lines)), line) for line in part]
        for part in (template.head, template.foot)
    ]
    text = "\n".join((*around[0], *lines, *around[1])) + "\n"
    try:
        runs = replace(_parsed(template, text), after_power=profile.after_power)
        refuse_all(segment_problems(runs))
    except Refused as refused:
        raise refuse(
            "template", f"what it writes cannot be read back: {refused}", "more decimals, or other words"
        ) from None
    losses = tuple(dict.fromkeys(_losses(profile, template, start_c)))
    if len(runs.segments) > MOST_SEGMENTS:
        losses += (
            Loss(
                0,
                "its loops",
                f"counted out: as a file it has {len(runs.segments)} segments, more than can be read here",
            ),
        )
    after = commanded(runs, start_c)
    apart_c, late_s = apart(corners, after, start_c), after[-1].time_s - corners[-1].time_s
    return FirmwareFile(text, losses, runs, apart_c, late_s, keeps(losses, apart_c, late_s))


@dataclass(frozen=True)
class _At:
    """What can be said of one line; °C, °C/min, s."""

    number: int
    target_c: float
    from_c: float
    rate_c_per_min: float
    time_s: float
    at_s: float
    holdback_c: float

    def value(self, name: str) -> float:
        if name == "number":
            return float(self.number)
        if name.startswith("rate_"):
            return self.rate_c_per_min * PER[name.split("_per_")[1]] / 60.0 * _scale(name)
        quantity, unit = name.split("_")
        if quantity in ("time", "at"):
            return (self.time_s if quantity == "time" else self.at_s) / PER[unit]
        celsius: float = getattr(self, f"{quantity}_c")
        if unit == "c":
            return celsius
        return celsius * FAHRENHEIT_PER_KELVIN if quantity == "holdback" else fahrenheit_from_celsius(celsius)


def _body(
    profile: Profile, template: Template, corners: tuple[Corner, ...], start_c: float
) -> Iterator[tuple[str, _At]]:
    """The lines to write: by which form, and what is to be said."""
    if "start" in template.own:
        yield "start", _At(0, start_c, start_c, 0.0, 0.0, 0.0, 0.0)
    was = Corner(0.0, start_c, 0)
    for corner in corners:
        s = profile.segments[corner.segment]
        lasts, way = corner.time_s - was.time_s, abs(corner.celsius - was.celsius)
        word = _word_of(s, template, way, lasts)
        rate = s.rate_c_per_min if s.kind is SegmentKind.RAMP_RATE else None
        rate = rate if rate is not None else way / lasts * 60.0 if lasts else 0.0
        if word is not None:
            held = s.holdback.band_c if s.holdback else 0.0
            yield word, _At(0, corner.celsius, was.celsius, rate, lasts, corner.time_s, held)
        was = corner


_INSTEAD: dict[str, tuple[str, ...]] = {
    SegmentKind.RAMP_RATE: ("ramp_rate", "ramp_time", "point"),
    SegmentKind.RAMP_TIME: ("ramp_time", "ramp_rate", "point"),
    SegmentKind.SOAK: ("soak", "ramp_time", "point"),
    SegmentKind.STEP: ("step", "point"),
    SegmentKind.WAIT: ("wait",),
    SegmentKind.END: ("end",),
}


def _word_of(s: Segment, template: Template, way: float, lasts: float) -> str | None:
    """By which form a segment is written, ``None`` where it cannot be, or lasts no time and goes nowhere."""
    if s.kind is SegmentKind.END and s.end is EndAction.HOLD:
        return HOLDING_END if HOLDING_END in template.own else None
    if s.kind is SegmentKind.WAIT and s.wait is not WaitFor.PERSON:
        return None
    if s.kind in RAMPS and not way:
        return next((w for w in _INSTEAD[SegmentKind.SOAK] if w in template.own), None) if lasts else None
    return next((w for w in _INSTEAD[s.kind] if w in template.own), None)


def _losses(profile: Profile, template: Template, start_c: float) -> Iterator[Loss]:
    was_c, first = start_c, True
    if profile.start is StartFrom.VALUE and "start" not in template.own:
        yield Loss(0, "where it starts", "it starts at the reading of the moment")
    for i in profile.order():
        s = profile.segments[i]
        yield from beyond_the_course(s, i)
        way = abs((s.target_c if s.kind in MOVES and s.target_c is not None else was_c) - was_c)
        word = _word_of(s, template, way, s.time_s or way)
        if word is None and (way or s.kind not in RAMPS):
            if not (s.kind is SegmentKind.END and s.end is EndAction.OFF):
                yield Loss(i, *_WITHOUT[s.kind])
        elif word is not None and s.holdback is not None:
            if "{holdback_" not in template.own[word]:
                yield Loss(i, *NO_HOLDBACK)
            elif s.holdback.side is not Side.BELOW:
                yield Loss(i, "on which side it waits", "below the set-point only")
        if first and s.kind is SegmentKind.RAMP_RATE and word != "ramp_rate" and profile.start is not StartFrom.VALUE:
            yield Loss(
                i,
                "its rate from anywhere",
                f"it is counted from {temperature(start_c, '.1f')}: begun elsewhere it is another rate",
            )
        if s.kind in MOVES and s.target_c is not None:
            was_c, first = s.target_c, False


_WITHOUT: dict[SegmentKind, tuple[str, str]] = {
    SegmentKind.RAMP_RATE: ("a ramp", "it is left out"),
    SegmentKind.RAMP_TIME: ("a ramp", "it is left out"),
    SegmentKind.SOAK: ("a soak", "it is left out"),
    SegmentKind.STEP: ("a step", "it is left out"),
    SegmentKind.WAIT: ("that it waits", "it goes on at once"),
    SegmentKind.END: ("that it holds at the end", "your firmware does at its end what it does"),
}


def _filled(form: str, values: _At) -> str:
    def told(m: re.Match[str]) -> str:
        value = values.value(m[1]) * float(m[2] or 1.0)
        return f"{value:.{int(m[3])}f}" if m[3] else f"{value:.12g}"

    return _SLOT.sub(told, form)


def _stated(m: re.Match[str], name: str, lines: int) -> str:
    return " ".join(name.split()) if m[1] == "name" else str(lines)


def read_by(template: Template, text: str) -> Profile:
    """A profile out of a file in the template's form. Raises ``Refused`` naming the line that is not, and for a profile that cannot be."""
    profile = _parsed(template, text)
    check_profile(profile)
    return profile


def _parsed(template: Template, text: str) -> Profile:
    if len(text) > MOST_FILE:
        raise refuse("text", "too long for a profile", f"up to {MOST_FILE // 1000} kB")
    made: list[Segment] = []
    start: float | None = None
    at, celsius = 0.0, None
    around = [_pattern(line, "") for line in (*template.head, *template.foot) if line.strip()]
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        if not line.strip():
            continue
        found = _own_line(template, line, first=not made and start is None)
        if found is None:
            if any(p.fullmatch(line.strip()) for p in around):
                continue
            raise refuse(
                "text", f"line {number} is in no form of the template: {line.strip()[:60]}", "a file written by it"
            )
        word, values = found
        if word == "start":
            start = celsius = values["target"]
            at = values.get("at", 0.0)
            continue
        lasts = values.get("time", values["at"] - at if "at" in values else None)
        if lasts is not None and lasts < 0:
            raise refuse("text", f"line {number} is before the line above", "times that grow")
        made.append(_segment(word, values, lasts, celsius))
        at = values.get("at", at + (lasts or 0.0))
        celsius = values.get("target", celsius)
    if made and made[-1].kind is not SegmentKind.END:
        made.append(Segment(SegmentKind.END, end=EndAction.OFF))
    where = StartFrom.READING if start is None else StartFrom.VALUE
    return Profile(tuple(made), start=where, start_c=start)


def _own_line(template: Template, line: str, first: bool) -> tuple[str, dict[str, float]] | None:
    """Which form a line is in, with what it says in °C, °C/min and s. ``first``: a start may still come."""
    words = [w for w in template.own if w != "between" and (w != "start" or first)]
    for word in sorted(words, key=lambda w: w != "start"):
        values = _read_line(template.own[word], line, template.own.get("between", ""))
        if values is not None:
            return word, values
    return None


@lru_cache(maxsize=256)
def _pattern(form: str, between: str) -> re.Pattern[str]:
    parts, end = [], 0
    form = form.strip()
    for m in _SLOT.finditer(form):
        parts += [_literal(form[end : m.start()]), "(.*)" if m[1] == "name" else f"((?>{NUMBER}))"]
        end = m.end()
    parts.append(_literal(form[end:]))
    if between.strip():
        parts.append(rf"(?:\s*{_literal(between.strip())})?")
    return re.compile("".join(parts))


def _literal(text: str) -> str:
    return r"\s+".join(re.escape(piece) for piece in re.split(r"\s+", text))


def _read_line(form: str, line: str, between: str) -> dict[str, float] | None:
    found = _pattern(form, between).fullmatch(line.strip())
    if found is None:
        return None
    values: dict[str, float] = {}
    for m, said in zip(_SLOT.finditer(form.strip()), found.groups(), strict=True):
        if m[1] == "name":
            continue
        name, value = m[1], float(said) / float(m[2] or 1.0)
        values.setdefault(name.split("_")[0], _plain(name, value))
    return values


def _scale(name: str) -> float:
    """Of a rate's unit of temperature."""
    return FAHRENHEIT_PER_KELVIN if name.startswith("rate_f") else 1.0


def _plain(name: str, value: float) -> float:
    """A value of that name in °C, °C/min or s."""
    if name.startswith("rate_"):
        return value * 60.0 / PER[name.split("_per_")[1]] / _scale(name)
    quantity, _, unit = name.partition("_")
    if quantity in ("time", "at"):
        return value * PER[unit]
    if unit != "f":
        return value
    return value / FAHRENHEIT_PER_KELVIN if quantity == "holdback" else celsius_from_fahrenheit(value)


def _segment(word: str, values: dict[str, float], lasts: float | None, celsius: float | None) -> Segment:
    target = values.get("target")
    held = Holdback(values["holdback"]) if values.get("holdback") else None
    if word == "point":
        kind = SegmentKind.STEP if not lasts else SegmentKind.SOAK if target == celsius else SegmentKind.RAMP_TIME
    elif word == HOLDING_END:
        kind = SegmentKind.END
    else:
        kind = SegmentKind(word)
    if kind is SegmentKind.WAIT:
        return Segment(kind, wait=WaitFor.PERSON)
    if kind is SegmentKind.END:
        return Segment(kind, end=EndAction.HOLD if word == HOLDING_END else EndAction.OFF)
    return Segment(
        kind,
        target if kind in MOVES else None,
        values.get("rate") if kind is SegmentKind.RAMP_RATE else None,
        lasts if kind in (SegmentKind.RAMP_TIME, SegmentKind.SOAK) else None,
        held if kind is not SegmentKind.STEP else None,
    )
