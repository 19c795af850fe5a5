"""A controller that is set in its source text: a block of constants filled from the sheet, and read back when it is pasted.

The block is the user's own: any text with places in braces. A place names a parameter of the dictionary, or one of the three gains ``kp``,
``ki``, ``kd`` in the firmware's own way of counting; ``*`` with a number rescales it, and ``.2f`` behind a colon says how many
digits: ``const long WINDOW_MS = {period_s*1000:.0f};``. Braces of the language itself are doubled, or left alone where they hold no place.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from math import inf, isfinite

from ..calibration.corrections import offset_from_unit, offset_in_unit
from ..control.languages import Form, Language, Proportional, Rate, spoken, understood
from ..control.pid import PID
from ..errors import Problem, refuse, refuse_all
from ..form import cannot_be
from ..messages import of_kind
from ..slots import MOST_DECIMALS, NUMBER, SLOT, factor_of
from ..units import from_unit, in_unit
from .dictionary import BY_NAME
from .dictionary.control import PID_NAMES
from .dictionary.parameter import ANYTHING, Value
from .parameters import Sheet, half_corrected

GAINS = ("kp", "ki", "kd")
FIRMWARE = Language(Form.PARALLEL, Proportional.GAIN, rate=Rate.SECOND, full=255.0)
"""How most firmware counts: three gains of their own, per second, the output to 255 (common practice, no source)."""
MOST_LOST = 0.01
"""Share of a value that the digits of its place may lose without being told (our choice)."""
MOST_TEXT = 20_000
"""Letters of a block (our choice)."""
_PLACE = re.compile(r"\{\{|\}\}|" + SLOT)
_COMMENT = re.compile(r"//[^\n]*|/\*.*?\*/|^[ \t]*#(?!define\b)[^\n]*", re.DOTALL | re.MULTILINE)
TEMPLATE = """\
const float SET_POINT  = {setpoint_c:.1f};
const float SET_MOST   = {setpoint_high_c:.1f};
const float GAIN       = {gain_correction:.4f};
const float OFFSET     = {offset_c:.2f};
const float KP         = {kp:.4f};
const float KI         = {ki:.6f};
const float KD         = {kd:.3f};
const long  WINDOW_MS  = {period_s*1000:.0f};"""
"""A block to begin with."""


@dataclass(frozen=True)
class TextBlock:
    """``template`` with places; ``unit`` of its temperatures; ``language`` of its gains; ``words``: by parameter, how the block writes each
    choice (``mode``: ``pid`` is ``1``). ``tune``: what is sent to make it tune itself; ``tuned``: the line it prints then, with places."""

    template: str = TEMPLATE
    unit: str = "C"
    language: Language = FIRMWARE
    words: dict[str, dict[str, str]] = field(default_factory=dict)
    tune: str = ""
    tuned: str = ""


@dataclass(frozen=True)
class Place:
    """One place of a template: which value, rescaled by ``scale``, with so many digits (``None``: as many as it takes)."""

    name: str
    scale: float = 1.0
    digits: int | None = None


@dataclass(frozen=True)
class ReadBack:
    """What a pasted block says. ``missing``: places whose line is not in it; ``odd``: what stands where a value ought to, and is none."""

    values: Sheet
    missing: tuple[str, ...]
    odd: tuple[Problem, ...]


def places(template: str) -> tuple[Place, ...]:
    """The places of a template, in order.

    >>> places("W = {period_s*1000:.0f}; {{x}}")
    (Place(name='period_s', scale=1000.0, digits=0),)
    """
    return tuple(_place(m) for m in _PLACE.finditer(template) if m[1])


def check_block(block: TextBlock) -> None:
    """Raises ``Refused`` naming every place that is no parameter, and whatever else cannot be."""
    refuse_all(_problems(block))


def sets_of(block: TextBlock) -> frozenset[str]:
    """The parameters that a block sets."""
    names = {p.name for p in places(block.template)}
    return frozenset((names - set(GAINS)) | (set(PID_NAMES) if names & set(GAINS) else set()))


def filled(block: TextBlock, sheet: Sheet) -> str:
    """The block with the values of a sheet. Raises ``Refused`` for a place that the sheet has no value for, or that it cannot say."""
    check_block(block)
    has = sets_of(block)
    if "offset_c" in has and (why := half_corrected(sheet, has)):
        raise refuse("offset_c", why, "a place for it in the block, as {gain_correction:.4f}")
    gains = _gains(block, sheet)
    gain = _gain(block, sheet)

    def said(match: re.Match[str]) -> str:
        if not match[1]:
            return match[0][0]
        place = _place(match)
        value = gains[GAINS.index(place.name)] if place.name in GAINS else sheet.get(place.name, _without(place.name))
        return _written(block, place, value, gain)

    return _PLACE.sub(said, block.template)


def read_back(block: TextBlock, text: str, template: str = "") -> ReadBack:
    """The values that a pasted text has where the template (or another ``template``: the line that tells of a tuning) has its places. Lines
    may stand in any order with anything between them; spaces do not count. Raises ``Refused`` for far too much of it.

    Gains come back as band and times only where all three are there: two of them say nothing of the third.
    """
    if len(text) > MOST_TEXT:
        raise refuse("text", f"{len(text)} letters", f"up to {MOST_TEXT}")
    check_block(block)
    code, text = _tight(_code(text)), _tight(text)
    values, missing, odd = dict[str, Value](), list[str](), list[Problem]()
    gains: dict[str, float] = {}
    for line in (template or block.template).splitlines():
        held = places(line)
        if not held:
            continue
        bare = _code(line)
        said = set(_pattern(bare).findall(code) if places(bare) == held else _pattern(line).findall(text))
        if len(said) != 1:
            missing += [p.name for p in held] if not said else []
            odd += [Problem(p.name, "stands there more than once, with different values", "once") for p in held if said]
            continue
        written_there = said.pop()
        for place, written in zip(
            held, (written_there,) if isinstance(written_there, str) else written_there, strict=True
        ):
            if place.name in GAINS:
                if _number(written) is None:
                    odd.append(Problem(place.name, f"{written!r} is no number", "a number"))
                else:
                    gains[place.name] = float(written) / place.scale
                continue
            value = _meant(block, place, written)
            if value is None:
                odd.append(Problem(place.name, f"{written!r} is not one of its values", _accepted(block, place.name)))
            else:
                values[place.name] = value
    if all(g in gains for g in GAINS):
        values |= _pid(block, gains)
    if "offset_c" in values and "gain_correction" in values:  # beside a gain it is another number in another unit
        counted = in_unit(float(values["offset_c"]), BY_NAME["offset_c"].kind, block.unit)
        values["offset_c"] = offset_from_unit(counted, float(values["gain_correction"]), block.unit)
    return ReadBack(values, tuple(dict.fromkeys(missing)), tuple(odd))


def rounded(block: TextBlock, sheet: Sheet) -> tuple[Problem, ...]:
    """Places whose digits lose more of a value of the sheet than a hundredth of it: what the block would really set. Raises ``Refused`` as
    :func:`filled` does."""
    again = read_back(block, filled(block, sheet)).values
    found = []
    for name, value in again.items():
        wanted = sheet.get(name)
        if isinstance(value, str) or isinstance(wanted, str) or wanted is None:
            continue
        if abs(value - wanted) > max(MOST_LOST * abs(wanted), 1e-9):
            kind = BY_NAME[name].kind
            found.append(
                Problem(
                    name,
                    f"its digits make {of_kind(wanted, kind)} {of_kind(value, kind)}",
                    "more digits behind the point",
                )
            )
    return tuple(found)


# ── how a value is written ───────────────────────────────────────────────────────────────────────────────────────────────────────────────


def _place(match: re.Match[str]) -> Place:
    return Place(match[1], factor_of(match[2]) if match[2] else 1.0, int(match[3]) if match[3] else None)


def _gain(block: TextBlock, sheet: Sheet) -> float:
    """The gain as the block's digits make it: the offset beside it is counted with that one."""
    gain = float(sheet.get("gain_correction", 1.0))
    place = next((p for p in places(block.template) if p.name == "gain_correction"), None)
    return float(_written(block, place, gain, gain)) / place.scale if place else gain


def _without(name: str) -> Value | None:
    """What a sheet of before the parameter existed is taken to say: that it does nothing."""
    without = BY_NAME[name].without
    return None if without == ANYTHING else without


def _written(block: TextBlock, place: Place, value: Value | None, gain: float) -> str:
    if value is None:
        raise refuse(place.name, "the sheet has no value for it", "a value under Values")
    if isinstance(value, str):
        return block.words.get(place.name, {}).get(value, value)
    if place.name in GAINS:
        shown = value
    elif place.name == "offset_c":
        shown = offset_in_unit(value, gain, block.unit)
    else:
        shown = in_unit(value, BY_NAME[place.name].kind, block.unit)
    if not isfinite(shown):
        raise refuse(place.name, "has no number", "a number")
    return f"{shown * place.scale:.{place.digits}f}" if place.digits is not None else f"{shown * place.scale:.10g}"


def _meant(block: TextBlock, place: Place, written: str) -> Value | None:
    parameter = BY_NAME[place.name]
    if parameter.choices:
        words = block.words.get(place.name, {})
        return next((v for v, _ in parameter.choices if words.get(v, v) == written), None)
    number = _number(written)
    return None if number is None else from_unit(number / place.scale, parameter.kind, block.unit)


def _number(written: str) -> float | None:
    try:
        value = float(written)
    except ValueError:
        return None
    return value if isfinite(value) else None


def _accepted(block: TextBlock, name: str) -> str:
    words = block.words.get(name, {})
    return ", ".join(words.get(v, v) for v, _ in BY_NAME[name].choices) or "a number"


def _pattern(line: str) -> re.Pattern[str]:
    """A line of the template as a pattern: its text with any spaces, a value at each place. What stands behind its last place (a comment)
    does not count, and what stands before its first must begin a word of its own."""
    parts, at = list[str](), 0
    for match in _PLACE.finditer(line):
        parts.append(_loose(line[at : match.start()]))
        at = match.end()
        if not match[1]:
            parts.append(re.escape(match[0][0]))
        elif match[1] in GAINS or not BY_NAME[match[1]].choices:
            parts.append(f"({NUMBER})")
        else:
            parts.append(r"(\S+?)")
    rest = re.match(r"\s*([^\w\s]?)", line[at:])
    end = re.escape(rest[1]) if rest and rest[1] and rest[1] not in "/#" else r"(?![\w.])"
    return re.compile(r"(?<!\w)" + "".join(parts).removeprefix(r"\s*") + r"\s*" + end)


def _code(text: str) -> str:
    """Text without what is commented out."""
    return _COMMENT.sub(" ", text)


def _tight(text: str) -> str:
    """Text with one space, or one end of a line, where there are more."""
    return re.sub(r"\s+", lambda m: "\n" if "\n" in m[0] else " ", text)


def _loose(text: str) -> str:
    """Text with any spaces between its words and signs."""
    return r"\s*".join(["", *(re.escape(t) for t in re.findall(r"\w+|[^\w\s]", text)), ""])


# ── gains ────────────────────────────────────────────────────────────────────────────────────────────────────────────────────────────────


def _gains(block: TextBlock, sheet: Sheet) -> tuple[float, float, float]:
    if not any(p.name in GAINS for p in places(block.template)):
        return (inf, inf, inf)
    numbers = [sheet.get(n) for n in PID_NAMES]
    if not all(isinstance(n, int | float) for n in numbers):
        raise refuse("kp", "the sheet has no band, integral and derivative time", "values under Values")
    band, integral, derivative = (float(n) for n in numbers if n is not None)
    language = replace(block.language, fahrenheit=block.unit == "F")
    return spoken(language, PID(100.0 / band, integral if integral > 0 else inf, derivative))


def _pid(block: TextBlock, gains: Mapping[str, float]) -> Sheet:
    language = replace(block.language, fahrenheit=block.unit == "F")
    found = understood(language, (gains["kp"], gains["ki"], gains["kd"]))
    integral = 0.0 if found.integral_time_s == inf else found.integral_time_s
    return dict(zip(PID_NAMES, (100.0 / found.gain, integral, found.derivative_time_s), strict=True))


def _problems(block: TextBlock) -> Iterator[Problem]:
    known = ", ".join((*GAINS, *BY_NAME))
    if len(block.template) > MOST_TEXT:
        yield Problem("template", f"{len(block.template)} letters", f"up to {MOST_TEXT}")
        return
    for where, text in (("template", block.template), ("tuned", block.tuned)):
        names = [p.name for p in places(text)]
        for place in places(text):
            if place.name not in GAINS and place.name not in BY_NAME:
                yield Problem(where, f"{{{place.name}}} is no parameter", known)
            if not place.scale:
                yield Problem(where, f"the factor of {{{place.name}}} is none", "a number above 0")
            if place.digits is not None and place.digits > MOST_DECIMALS:
                yield Problem(where, f"{place.digits} decimals", f"up to {MOST_DECIMALS}")
        for name in {n for n in names if names.count(n) > 1}:
            yield Problem(where, f"{{{name}}} stands there twice: which one counts is not said", "once")
    if not places(block.template):
        yield Problem("template", "there is no place for a value in it", "a parameter in braces, as {setpoint_c:.1f}")
    if block.unit not in ("C", "F", "K"):
        yield Problem("unit", f"{block.unit!r} is no unit of temperature", "C, F, K")
    yield from cannot_be(block.language, "language.")
    for name, words in block.words.items():
        choices = [v for v, _ in BY_NAME[name].choices] if name in BY_NAME else []
        if not choices or set(words) - set(choices):
            yield Problem(f"words.{name}", "is no choice of the sheet", ", ".join(choices) or known)
        elif len(set(words.values())) < len(words) or any(not w or re.search(r"\s", w) for w in words.values()):
            yield Problem(
                f"words.{name}", "each choice needs a word of its own, without spaces", "as it stands in the text"
            )
