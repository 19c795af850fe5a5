"""Which conductor and which breaker for a load that runs for hours, at the temperature and in the company it is laid.

The one place of this rule: the parts chain, the circuits Rellux lays out, the wiring rules and the bench question all use it.

Two schools. IEC 60364: ``I_b ≤ I_n ≤ I_z``, with I_z the table's ampacity times correction for ambient and grouping. NEC:
breaker and conductor (before derating, at the column of its terminals) at least 125 % of the load; after derating at
least the load; the breaker not above the derated ampacity (next standard size up allowed) nor the small-conductor rule.
Ambient correction is ``√((T − T_a)/(T − 30))`` at the next five degrees up, which is what both codes' tables print; colder than
their coldest row gives nothing more. Insulation that stands more heat than the tables know lets a wire survive a hotter place
(scaled by its heat balance), and under both schools the ends decide too: no insulation makes a wire thinner than its terminals
allow. Values from memory of the
codes; the local code overrules.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from math import ceil, inf, sqrt

from ..errors import refuse
from ..messages import quantity, temperature
from .conductor_tables import (
    BREAKERS,
    IEC_B1,
    IEC_CORD,
    IEC_INSIDE,
    IEC_TOGETHER,
    INSIDE_AMBIENT_C,
    NEC_310_16,
    NEC_CORD,
    NEC_FIXTURE,
    NEC_FIXTURE_TAP,
    NEC_SMALL,
    NEC_TOGETHER,
    Conductor,
    Practice,
)
from .run_of_wire import CORD_LIMIT_C, ENDS_C, TABLE_AMBIENT_C, Laying, Run, insulation_limit, unmarked_ends
from .short_circuit import short_circuit_fault
from .wire import COPPER_PER_KELVIN, area_of, ohm_per_metre

COLDEST_ROW_C = 10.0
"""Ambient temperature of the coldest row of both codes' correction tables."""
ROW_C = 5.0
"""Step of those tables."""
CONTINUOUS_FACTOR = {Practice.IEC: 1.0, Practice.NEC: 1.25}
"""Breaker and conductor against a load that runs for hours: NEC 210.20(A), 210.19(A); IEC asks no more than the load."""
SAME = 1e-9
"""Relative slack of comparisons, for numbers that are equal on paper."""
HOTTEST_COLUMN_C = 90


@dataclass(frozen=True)
class Size:
    """One conductor for one load: A it may carry in the table (``base_a``), at its ends (``ends_a``) and here
    (``allowed_a``), how hot it gets, drop in V, heat in W per metre of run. ``wrong``: why it will not do, empty when it does."""

    label: str
    area_mm2: float
    base_a: float
    ends_a: float
    factor: float
    allowed_a: float
    conductor_c: float
    drop_v: float
    heat_w_m: float
    wrong: tuple[str, ...]


@dataclass(frozen=True)
class Sizing:
    """The breaker, every size of the table in order, and the place of the chosen (smallest right) one, if there is."""

    run: Run
    breaker_a: float
    sizes: tuple[Size, ...]
    chosen: int | None
    limit_c: float

    @property
    def best(self) -> Size | None:
        return None if self.chosen is None else self.sizes[self.chosen]


def ambient_factor(limit_c: float, ambient_c: float) -> float:
    """``√((T − T_a)/(T − 30))`` to two places as the tables print it, with T_a the next row up: what is left of the ampacity at
    ``ambient_c``; 0 at the limit itself.

    >>> ambient_factor(70, 40), ambient_factor(90, 45), ambient_factor(70, -20)
    (0.87, 0.87, 1.22)
    """
    row = max(ceil(ambient_c / ROW_C - SAME) * ROW_C, COLDEST_ROW_C)
    return round(sqrt(max(limit_c - row, 0.0) / (limit_c - TABLE_AMBIENT_C)), 2)


def grouping_factor(practice: Practice, together: int) -> float:
    """What bundling leaves, as a share. Raises ``Refused`` beyond the table."""
    table = IEC_TOGETHER if practice is Practice.IEC else NEC_TOGETHER
    for most, factor in table:
        if together <= most:
            return factor
    raise refuse("together", f"{together} together is beyond the table", f"up to {table[-1][0]}")


def breaker_for(current_a: float, practice: Practice) -> float:
    """Smallest standard breaker for a continuous load in A. Raises ``Refused`` beyond the list.

    >>> breaker_for(13.9, Practice.IEC), breaker_for(13.9, Practice.NEC)
    (16.0, 20.0)
    """
    if not current_a > 0:
        raise refuse("current_a", "must be more than zero", "more than {0 A}")
    needed = current_a * CONTINUOUS_FACTOR[practice]
    found = next((r for r in BREAKERS[practice] if r >= needed - SAME), None)
    if found is None:
        most = quantity(BREAKERS[practice][-1], "A")
        reason = f"{quantity(current_a, 'A', '.1f')} is beyond the breakers here"
        raise refuse("current_a", reason, f"up to {most}; have it designed")
    return float(found)


def highest_breaker(practice: Practice, ampacity_a: float, label: str = "") -> float:
    """Largest breaker in A that protects a conductor of this ampacity: the ampacity itself (IEC 60364-4-43), or the next standard
    size above it (NEC 240.4(B)), but no more than the small-conductor rule gives (NEC 240.4(D))."""
    if practice is Practice.IEC:
        return ampacity_a
    ratings = BREAKERS[practice]
    above = next((float(r) for r in ratings if r >= ampacity_a - SAME), float(ratings[-1]))
    return min(above, NEC_SMALL.get(label, above))


def size(current_a: float, run: Run) -> Sizing:
    """Every size for this load. Raises ``Refused`` for what the tables do not cover."""
    breaker, limit = _breaker(current_a, run), insulation_limit(run)
    factor = ambient_factor(limit, run.ambient_c) * grouping_factor(run.practice, run.together)
    column = {
        Laying.CORD: CORD_LIMIT_C,
        Laying.CONDUIT: int(min(limit, HOTTEST_COLUMN_C)),
        Laying.INSIDE: ENDS_C[run.practice],
    }[run.laying]
    survives = _hotter(column, limit)
    table = {k: a * survives for k, a in _table(run, column).items()}
    ends = _at_ends(run)
    sizes = tuple(_size(k, base, ends[k], factor, limit, current_a, breaker, run) for k, base in table.items())
    chosen = next((i for i, s in enumerate(sizes) if not s.wrong), None)
    return Sizing(run, breaker, sizes, chosen, limit)


def _breaker(current_a: float, run: Run) -> float:
    if run.behind is None:
        return breaker_for(current_a, run.practice)
    most = run.behind.breaker_a / CONTINUOUS_FACTOR[run.practice]
    if current_a > most + SAME:
        reason = f"a {quantity(run.behind.breaker_a, 'A')} breaker carries {quantity(most, 'A', '.1f')} for hours"
        raise refuse("current_a", reason, f"up to {quantity(most, 'A', '.1f')}, or a larger breaker")
    return run.behind.breaker_a


def highest_breaker_of(run: Run, label: str, allowed_a: float) -> float:
    """Largest breaker in A that protects this size, laid as it is and carrying ``allowed_a`` here, against an overload."""
    if run.practice is Practice.NEC and run.laying is Laying.INSIDE:
        most, length = NEC_FIXTURE_TAP[label]
        return most if run.length_m <= length else highest_breaker(run.practice, allowed_a, label)
    return highest_breaker(run.practice, allowed_a, label if run.laying is Laying.CONDUIT else "")


@cache
def conductors(practice: Practice, cores: int = 2) -> tuple[Conductor, ...]:
    """Conductors of a practice at 30 °C, not bundled, thinnest first, with ``cores`` loaded (3 for three-phase).

    IEC: flexible cord, and above it insulated wires in conduit (method B1, 70 °C). NEC: the 60 °C column under the
    small-conductor rule.
    """
    if practice is Practice.NEC:
        ends = {k: unmarked_ends(practice, area_of(k)) for k in NEC_310_16[ENDS_C[practice]]}
        table = {k: min(NEC_310_16[c][k], NEC_SMALL.get(k, inf)) for k, c in ends.items()}
        return tuple(Conductor(k, float(f"{area_of(k):.3g}"), a) for k, a in table.items())
    cord = IEC_CORD[cores]
    thicker = {k: a for k, a in IEC_B1[(ENDS_C[practice], cores)].items() if k > max(cord)}
    return tuple(Conductor(_metric(k), float(k), a) for k, a in {**cord, **thicker}.items())


def conductor_of(area_mm2: float, practice: Practice, cores: int = 2) -> Conductor | None:
    """The largest listed conductor not thicker than ``area_mm2``; None below all."""
    return next((c for c in reversed(conductors(practice, cores)) if c.area_mm2 <= area_mm2 * ROUNDED), None)


def ampacity(area_mm2: float, practice: Practice, cores: int = 2) -> float:
    """Current in A a conductor of ``area_mm2`` may carry at 30 °C, not bundled: that of the listed size not above it, else 0."""
    listed = conductor_of(area_mm2, practice, cores)
    return listed.ampacity if listed else 0.0


ROUNDED = 1.006
"""Cross-sections of AWG sizes are kept to three digits: half a percent, and the next size is a quarter away."""


def _metric(area_mm2: float) -> str:
    return "1.0 mm²" if area_mm2 == 1.0 else f"{area_mm2:g} mm²"


def _table(run: Run, column_c: int) -> dict[str, float]:
    """Ampacity at 30 °C by size, for the way it is laid and a column of the table."""
    table: Mapping[float, float] | Mapping[str, float]
    if run.laying is Laying.CORD:
        table = IEC_CORD[run.cores] if run.practice is Practice.IEC else NEC_CORD[run.cores]
    elif run.laying is Laying.INSIDE:
        table = _inside() if run.practice is Practice.IEC else NEC_FIXTURE
    else:
        table = IEC_B1[(column_c, run.cores)] if run.practice is Practice.IEC else NEC_310_16[column_c]
    return {k if isinstance(k, str) else _metric(k): a for k, a in table.items()}


def _inside() -> dict[float, float]:
    """Wires inside equipment, brought from their table's ambient to that of the others."""
    here = ambient_factor(ENDS_C[Practice.IEC], INSIDE_AMBIENT_C)
    return {mm2: a / here for mm2, a in IEC_INSIDE.items()}


def _hotter(known_c: float, limit_c: float) -> float:
    """What insulation hotter than the table's lets a wire survive: I² R(T) carries off T − T_a, so I grows with
    ``√((T − 30)/(T₀ − 30) × R(T₀)/R(T))``."""
    resistance = (1 + COPPER_PER_KELVIN * (known_c - 20)) / (1 + COPPER_PER_KELVIN * (limit_c - 20))
    return sqrt((limit_c - TABLE_AMBIENT_C) / (known_c - TABLE_AMBIENT_C) * resistance)


def _at_ends(run: Run) -> dict[str, float]:
    """What each size may carry so that its ends stay within what they stand. Cords are rated for such ends already; inside
    equipment the ends are as warm as its table takes them to be."""
    if run.laying is Laying.CORD or run.practice is Practice.NEC:
        return {k: _table(run, _column(run.ends_c(area_of(k))))[k] for k in _table(run, HOTTEST_COLUMN_C)}
    ends = run.terminal_c or ENDS_C[run.practice]
    inside = run.laying is Laying.INSIDE
    column = ENDS_C[Practice.IEC] if inside or ends < HOTTEST_COLUMN_C else HOTTEST_COLUMN_C
    cooler = sqrt((min(ends, column) - TABLE_AMBIENT_C) / (column - TABLE_AMBIENT_C))
    warm = ambient_factor(column, INSIDE_AMBIENT_C) if inside else 1.0
    return {k: a * cooler * warm for k, a in _table(run, column).items()}


def _column(ends_c: float) -> int:
    """The hottest column of the NEC's table that is not hotter than these ends."""
    return max(c for c in NEC_310_16 if c <= max(ends_c, min(NEC_310_16)))


def _size(
    label: str, base: float, ends: float, factor: float, limit: float, load: float, breaker: float, run: Run
) -> Size:
    allowed, area = min(base * factor, ends), area_of(label)
    free = base * ambient_factor(limit, run.ambient_c)
    rise = (limit - run.ambient_c) * min((load / free) ** 2, 4.0) if free > 0 else 0.0
    hot = run.ambient_c + rise
    ohm = ohm_per_metre(label, area, hot)
    drop = (sqrt(3.0) if run.cores == 3 else 2.0) * run.length_m * load * ohm
    wrong = _wrong(label, ends, allowed, load, breaker, run)
    if run.ambient_c >= limit:
        stands, there = temperature(limit, ".0f"), temperature(run.ambient_c, ".0f")
        wrong = [f"its insulation stands {stands} and it is {there} there"]
    return Size(label, area, base, ends, factor, allowed, hot, drop, run.cores * load**2 * ohm, tuple(wrong))


def _wrong(label: str, ends: float, allowed: float, load: float, breaker: float, run: Run) -> list[str]:
    if area_of(label) * ROUNDED < run.least_mm2:
        return [f"for this use {quantity(run.least_mm2, 'mm²')} is the least, whatever it carries"]
    needed = load * CONTINUOUS_FACTOR[run.practice]
    if ends < needed - SAME:
        at = f"at its {temperature(run.ends_c(area_of(label)))} terminals it carries {quantity(ends, 'A', '.0f')}"
        nec = f"125 % of {quantity(load, 'A', '.1f')}"
        return [f"{at}, less than {nec if run.practice is Practice.NEC else quantity(load, 'A', '.1f')}"]
    if allowed < load - SAME:
        return [f"it may carry {quantity(allowed, 'A', '.1f')} here and the load is {quantity(load, 'A', '.1f')}"]
    highest = highest_breaker_of(run, label, allowed)
    if run.behind and not run.behind.overload:
        short = short_circuit_fault(run, area_of(label), ohm_per_metre(label, area_of(label), run.ambient_c))
        return [short] if short else []
    if breaker > highest + SAME:
        carries = f"it may carry {quantity(allowed, 'A', '.1f')} here"
        return [
            f"{carries}: a {quantity(breaker, 'A')} breaker does not protect it, {quantity(highest, 'A', '.3g')} would"
        ]
    return []
