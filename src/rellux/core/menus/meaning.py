"""What the pages of a controller mean: a sheet of neutral parameters as counts of its pages, and back.

The unit of temperature is the sheet's ``display_unit``; PID numbers are in the controller's own language.
"""

import re
from collections.abc import Mapping, Set
from dataclasses import dataclass, replace
from math import inf, isclose, isfinite

from ..calibration.corrections import offset_from_unit, offset_in_unit
from ..control.languages import spoken, understood
from ..control.pid import PID
from ..errors import Refused, refuse
from ..messages import render
from ..setup.dictionary import BY_NAME
from ..setup.dictionary.control import PID_NAMES
from ..setup.dictionary.parameter import ANYTHING, Value
from ..setup.parameters import Sheet, half_corrected, spoken_value
from ..units import Kind, from_unit, in_unit
from .description import Description, Page, Values, counts_of, may_show, shown
from .machine import kind_of


@dataclass(frozen=True)
class Unheld:
    """A parameter that this controller does not hold as it is wanted, and why. ``has_page``: it could hold another value of it;
    ``idle``: with the rest as wanted it is not in force anyway."""

    name: str
    why: str
    has_page: bool = True
    idle: bool = False


@dataclass(frozen=True)
class Wanted:
    """``counts`` by page. ``unheld``: what has no page, no choice, or no room; ``rounded``: what its last digit makes of a value."""

    counts: dict[str, int]
    unheld: tuple[Unheld, ...]
    rounded: tuple[Unheld, ...]


def wanted_counts(description: Description, sheet: Sheet) -> Wanted:
    """A sheet in this controller's pages. Parameters that several pages set are wanted on all of them."""
    counts: dict[str, int] = {}
    unheld, rounded = [], []
    unit = str(sheet.get("display_unit", "C"))
    numbers = _spoken(description, sheet, unit)
    has_page = {name for p in description.pages for name in p.sets}
    has_page |= {"correction"} if "point_1_at_c" in has_page else set()
    unheld += [
        Unheld(n, "there is no page for it", False)
        for n in sheet
        if n not in has_page and _is_missed(n, sheet, has_page)
    ]
    for page in description.pages:
        names = [n for n in page.sets if n in sheet]
        if not names:
            continue
        if page.choices:
            found = [i for i, c in enumerate(page.choices) if not c.guarded and _means(page, c.values, sheet)]
            if found:
                counts[page.key] = found[0]
            else:
                asked = ", ".join(render(spoken_value(n, sheet[n])) for n in names)
                unheld.append(Unheld(names[0], f"{page.code} has no choice for {asked}"))
            continue
        name = _name(page, sheet)
        if name not in sheet:
            continue
        if name == "offset_c" and (why := half_corrected(sheet, has_page)):
            unheld.append(Unheld(name, why))
            continue
        value = _number(page, name, sheet[name], unit, _held_gain(description, sheet))
        if name in PID_NAMES:
            value = numbers[name] / page.scale if name in numbers else None
        if value is None or not isfinite(value):
            unheld.append(Unheld(name, "its language cannot say it"))
            continue
        at = round(value * 10**page.decimals)
        if not page.low <= at <= page.high:
            least, most = shown(page, page.low), shown(page, page.high)
            unheld.append(Unheld(name, f"{page.code} takes {least}…{most}, not {value:.4g}"))
            continue
        if not isclose(at / 10**page.decimals, value, rel_tol=1e-9, abs_tol=1e-9):
            rounded.append(Unheld(name, f"{page.code} shows {shown(page, at)} for {value:.4g}"))
        counts[page.key] = at
    return Wanted(counts, tuple(unheld), tuple(rounded))


def worth_setting(description: Description, found: Values, counts: Mapping[str, int]) -> dict[str, int]:
    """Of what is wanted, what is in force in the end: a page that is hidden once everything else stands (the integral time of one that is
    set to on/off) is left as it is. An access code hides nothing for good."""
    index = description.index
    goal = [counts.get(p.key, v) for p, v in zip(description.pages, found, strict=True)]

    def hidden(page: Page) -> bool:
        lasting = (c for c in page.shown_when if not description.page(c.page).forgets)
        return any(goal[index[c.page]] not in c.counts for c in lasting)

    pages = (description.page(key) for key in counts)
    return {p.key: counts[p.key] for p in pages if not p.forgets and not hidden(p)}


def sheet_of(description: Description, values: Values) -> Sheet:
    """What the counts of all pages mean, as far as a page is a parameter's. Where two pages say different things, the last one counts."""
    found: Sheet = {}
    for page, at in zip(description.pages, values, strict=True):
        if page.choices and 0 <= at < len(page.choices):
            found.update({n: v for n, v in zip(page.sets, page.choices[at].values, strict=False) if v})
    unit = str(found.get("display_unit", "C"))
    numbers: dict[str, float] = {}
    gain_first = sorted(zip(description.pages, values, strict=True), key=lambda pair: "offset_c" in pair[0].sets)
    for page, at in gain_first:
        if page.choices or not page.sets:
            continue
        value = at / 10**page.decimals
        if page.sets[0] in PID_NAMES:
            numbers[page.sets[0]] = value * page.scale
        else:
            name = _name(page, found)
            plain = _plain(page, name, value, unit, _gain(found))
            if not isinstance(plain, str) or plain in dict(BY_NAME[name].choices):
                found[name] = plain
    adds = [v for n, v in found.items() if n.startswith("point_") and n.endswith("_add_c")]
    if adds and "correction" not in found:
        found["correction"] = "points" if any(adds) else "offset"
    if all(n in numbers for n in PID_NAMES):
        try:
            found.update(_understood(description, numbers, unit))
        except Refused:
            return found
    return found


def typed(description: Description, key: str, text: str, sheet: Sheet) -> Sheet:
    """What a page that shows ``text`` makes of a sheet: the values that change, in the sheet's own units. Of one that counts its three PID
    numbers apart, another gain is another integral time too. Raises ``Refused`` for a page that is not there, a value it cannot show, and
    PID numbers that are none."""
    if key not in description.index:
        raise refuse("page", f"there is no page {key[:20]!r}", "a page of it")
    page = description.page(key)
    at = counts_of(page, text)
    if at is None:
        raise refuse("shows", f"{page.code} cannot show {text[:20]!r}", may_show(page))
    if page.choices:
        return {n: v for n, v in zip(page.sets, page.choices[at].values, strict=False) if v}
    unit, value = str(sheet.get("display_unit", "C")), at / 10**page.decimals
    if page.sets and page.sets[0] in PID_NAMES:
        numbers = {**_spoken(description, sheet, unit), page.sets[0]: value * page.scale}
        if not all(n in numbers for n in PID_NAMES):
            raise refuse("shows", "the other two PID numbers are not in the sheet yet", "enter those first")
        told = _understood(description, numbers, unit)
        return {n: v for n, v in told.items() if n == page.sets[0] or not isclose(v, float(sheet[n]), rel_tol=1e-9)}
    return {name: _plain(page, name, value, unit, _gain(sheet)) for name in (_name(page, sheet) for _ in page.sets[:1])}


def _understood(description: Description, numbers: Mapping[str, float], unit: str) -> dict[str, float]:
    """Three numbers in the controller's own words, as the sheet has them."""
    language = replace(description.language, fahrenheit=unit == "F")
    pid = understood(language, (numbers[PID_NAMES[0]], numbers[PID_NAMES[1]], numbers[PID_NAMES[2]]))
    integral = 0.0 if pid.integral_time_s == inf else pid.integral_time_s
    return dict(zip(PID_NAMES, (100.0 / pid.gain, integral, pid.derivative_time_s), strict=True))


def _is_missed(name: str, sheet: Sheet, has_page: Set[str]) -> bool:
    """Whether a parameter without a page is wanted otherwise than such a controller behaves. What hangs on another one that has no page
    either goes without saying."""
    parameter = BY_NAME.get(name)
    if parameter is None or not parameter.applies_in(sheet) or parameter.without in (ANYTHING, sheet[name]):
        return False
    return not parameter.applies or any(a.name in has_page for a in parameter.applies)


def _means(page: Page, values: tuple[str, ...], sheet: Mapping[str, Value]) -> bool:
    """Whether a choice is what the sheet says; parts of it that the sheet or the choice leaves open fit anything."""
    pairs = [(sheet.get(n), v) for n, v in zip(page.sets, values, strict=False)]
    return any(v for _, v in pairs) and all(not v or asked is None or str(asked) == v for asked, v in pairs)


def _held_gain(description: Description, sheet: Mapping[str, Value]) -> float:
    """The gain as its page holds it: the offset beside it is counted with that one."""
    page = next((p for p in description.pages if p.sets == ("gain_correction",)), None)
    return round(_gain(sheet) / page.scale, page.decimals) * page.scale if page else _gain(sheet)


def _gain(sheet: Mapping[str, Value]) -> float:
    return float(sheet.get("gain_correction", 1.0))


def _number(page: Page, name: str, value: Value, unit: str, gain: float) -> float | None:
    """What stands on a page with a number. A choice of numbers (baud, decimals) may stand on one too; an offset beside a gain is another
    number in another unit."""
    if isinstance(value, str):
        return float(value) / page.scale if _NUMBER.fullmatch(value) else None
    if name == "offset_c":
        return offset_in_unit(value, gain, unit) / page.scale
    return in_unit(value, _kind(page, name), unit) / page.scale


def _plain(page: Page, name: str, value: float, unit: str, gain: float) -> Value:
    if name == "offset_c":
        return offset_from_unit(value * page.scale, gain, unit)
    plain = from_unit(value * page.scale, _kind(page, name), unit)
    return f"{plain:g}" if name in BY_NAME and BY_NAME[name].choices else plain


def _kind(page: Page, name: str) -> Kind | None:
    """A page that stands for one parameter or another counts as the one that applies does."""
    return BY_NAME[name].kind if len(page.sets) > 1 and name in BY_NAME else kind_of(page)


def _name(page: Page, sheet: Mapping[str, Value]) -> str:
    """The parameter that a page with a number stands for beside the others: an alarm's value is one or the other by its type."""
    fits = (n for n in page.sets if n in BY_NAME and BY_NAME[n].applies_in(sheet))
    return next(fits, page.sets[0])


_NUMBER = re.compile(r"\d{1,6}", re.ASCII)


def _spoken(description: Description, sheet: Sheet, unit: str) -> dict[str, float]:
    """The three PID numbers in the controller's own words; nothing where they are not all there, or it cannot say them."""
    numbers = [sheet.get(n) for n in PID_NAMES]
    if not all(isinstance(n, int | float) for n in numbers):
        return {}
    band, integral, derivative = (float(n) for n in numbers if n is not None)
    try:
        said = spoken(
            replace(description.language, fahrenheit=unit == "F"),
            PID(100.0 / band, integral if integral > 0 else inf, derivative),
        )
    except Refused:
        return {}
    return dict(zip(PID_NAMES, said, strict=True))
