"""Which conductor and which breaker for a load that runs for hours, at the temperature and in the company it is laid.

Two schools. IEC 60364: ``I_b ≤ I_n ≤ I_z``, with I_z the table's ampacity times correction for ambient and grouping. NEC:
breaker and conductor (before derating, at the column of its terminals) at least 125 % of the load; after derating at
least the load; the breaker not above the derated ampacity (next standard size up allowed) nor the small-conductor rule.
Ambient correction is ``√((T − T_a)/(T − 30))``, which both codes' tables follow. Insulation hotter than the tables is
scaled from the hottest column by its heat balance. Values from memory of the codes; the local code overrules.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import sqrt

from ..errors import refuse
from ..messages import quantity, temperature
from .protection_data import (
    BREAKERS,
    IEC_B1,
    IEC_CORD,
    IEC_TOGETHER,
    NEC_310_16,
    NEC_CORD,
    NEC_SMALL,
    NEC_TOGETHER,
    Practice,
)
from .wire import COPPER_PER_KELVIN, awg_area_mm2, ohm_per_metre

TABLE_AMBIENT_C = 30.0


class Laying(StrEnum):
    """How the conductor runs."""

    CORD = "cord"
    CONDUIT = "conduit"


class Insulation(StrEnum):
    """Insulation by the conductor temperature it stands for good."""

    PVC = "pvc"
    XLPE = "xlpe"
    SILICONE = "silicone"
    PTFE = "ptfe"
    GLASS = "glass"


LIMIT_C = {
    Practice.IEC: {Insulation.PVC: 70, Insulation.XLPE: 90},
    Practice.NEC: {Insulation.PVC: 75, Insulation.XLPE: 90},
}
HOT_LIMIT_C = {Insulation.SILICONE: 180, Insulation.PTFE: 250, Insulation.GLASS: 400}
CORD_LIMIT_C = 60


@dataclass(frozen=True)
class Run:
    """A run of wire: ``cores`` loaded (2, or 3 for three-phase), ``together`` circuits (IEC) or loaded conductors (NEC)
    in one bundle, terminals of ``terminal_c`` (NEC), ``length_m`` one way, ``voltage_v`` between the conductors."""

    practice: Practice
    laying: Laying
    insulation: Insulation
    cores: int
    ambient_c: float
    together: int
    length_m: float
    voltage_v: float
    terminal_c: int = 60


@dataclass(frozen=True)
class Size:
    """One conductor for one load: A it may carry in the table (``base``) and here (``allowed``), how hot it gets, drop in
    V, heat in W per metre of run. ``wrong``: why it will not do, empty when it does."""

    label: str
    area_mm2: float
    base_a: float
    factor: float
    allowed_a: float
    conductor_c: float
    drop_v: float
    heat_w_m: float
    wrong: tuple[str, ...]


@dataclass(frozen=True)
class Sizing:
    """The breaker, every size of the table in order, and the place of the chosen (smallest right) one, if there is."""

    breaker_a: float
    sizes: tuple[Size, ...]
    chosen: int | None
    limit_c: float


def insulation_limit(run: Run) -> float:
    """Temperature in °C the insulation stands."""
    if run.insulation in HOT_LIMIT_C:
        return HOT_LIMIT_C[run.insulation]
    if run.laying is Laying.CORD:
        return CORD_LIMIT_C
    return LIMIT_C[run.practice][run.insulation]


def ambient_factor(limit_c: float, ambient_c: float) -> float:
    """``√((T − T_a)/(T − 30))``: what is left of the ampacity at ``ambient_c``; 0 at the limit itself."""
    return sqrt(max(limit_c - ambient_c, 0.0) / (limit_c - TABLE_AMBIENT_C))


def grouping_factor(practice: Practice, together: int) -> float:
    """What bundling leaves. Raises ``Refused`` beyond the table."""
    table = IEC_TOGETHER if practice is Practice.IEC else NEC_TOGETHER
    for most, factor in table:
        if together <= most:
            return factor
    raise refuse("together", f"{together} together is beyond the table", f"up to {table[-1][0]}")


def breaker_for(current_a: float, practice: Practice) -> float:
    """Smallest standard breaker for a continuous load. Raises ``Refused`` beyond the list."""
    needed = current_a * (1.25 if practice is Practice.NEC else 1.0)
    found = next((r for r in BREAKERS[practice] if r >= needed - 1e-9), None)
    if found is None:
        raise refuse(
            "current_a",
            f"{quantity(current_a, 'A', '.1f')} is beyond the breakers here",
            f"up to {BREAKERS[practice][-1]} A",
        )
    return float(found)


def size(current_a: float, run: Run) -> Sizing:
    """Every size for this load. Raises ``Refused`` for what the tables do not cover."""
    if not current_a > 0:
        raise refuse("current_a", "must be more than zero", "> 0 A")
    breaker, limit = breaker_for(current_a, run.practice), insulation_limit(run)
    factor = ambient_factor(limit, run.ambient_c) * grouping_factor(run.practice, run.together)
    sizes = tuple(_size(label, base, factor, limit, current_a, breaker, run) for label, base in _table(run).items())
    chosen = next((i for i, s in enumerate(sizes) if not s.wrong), None)
    return Sizing(breaker, sizes, chosen, limit)


def _table(run: Run) -> dict[str, float]:
    """Ampacity at 30 °C by size, scaled for insulation hotter than the tables know."""
    known = CORD_LIMIT_C if run.laying is Laying.CORD else min(int(insulation_limit(run)), 90)
    table: Mapping[float, float] | Mapping[str, float]
    if run.practice is Practice.IEC:
        table = IEC_CORD[run.cores] if run.laying is Laying.CORD else IEC_B1[(known, run.cores)]
    else:
        table = NEC_CORD[run.cores] if run.laying is Laying.CORD else NEC_310_16[known]
    scale = _hotter(known, insulation_limit(run))
    return {k if isinstance(k, str) else f"{k:g} mm²": a * scale for k, a in table.items()}


def _hotter(known_c: float, limit_c: float) -> float:
    """Heat balance: I² R(T) carries off T − T_a, so I grows with √((T − 30)/(T₀ − 30) × R(T₀)/R(T))."""
    resistance = (1 + COPPER_PER_KELVIN * (known_c - 20)) / (1 + COPPER_PER_KELVIN * (limit_c - 20))
    return sqrt((limit_c - TABLE_AMBIENT_C) / (known_c - TABLE_AMBIENT_C) * resistance)


def area_of(label: str) -> float:
    """Cross-section in mm² of a size by its label."""
    number = label.split()[0]
    return awg_area_mm2(int(number)) if "AWG" in label else float(number)


def _size(label: str, base: float, factor: float, limit: float, load: float, breaker: float, run: Run) -> Size:
    allowed, area = base * factor, area_of(label)
    free = base * ambient_factor(limit, run.ambient_c)
    rise = (limit - run.ambient_c) * min((load / free) ** 2, 4.0) if free > 0 else 0.0
    hot = run.ambient_c + rise
    ohm = ohm_per_metre(label, area, hot)
    drop = (sqrt(3.0) if run.cores == 3 else 2.0) * run.length_m * load * ohm
    wrong = [*(_wrong_iec if run.practice is Practice.IEC else _wrong_nec)(label, base, allowed, load, breaker, run)]
    if run.ambient_c >= limit:
        wrong = [
            f"its insulation stands {temperature(limit, '.0f')} and it is {temperature(run.ambient_c, '.0f')} there"
        ]
    return Size(label, area, base, factor, allowed, hot, drop, run.cores * load**2 * ohm, tuple(wrong))


def _wrong_iec(label: str, base: float, allowed: float, load: float, breaker: float, run: Run) -> list[str]:
    if allowed < load - 1e-9:
        return [f"it may carry {quantity(allowed, 'A', '.1f')} here and the load is {quantity(load, 'A', '.1f')}"]
    if allowed < breaker - 1e-9:
        return [
            f"it may carry {quantity(allowed, 'A', '.1f')} here: a {quantity(breaker, 'A')} breaker does not protect it"
        ]
    return []


def _wrong_nec(label: str, base: float, allowed: float, load: float, breaker: float, run: Run) -> list[str]:
    wrong = []
    column = base if run.laying is Laying.CORD else min(base, NEC_310_16[run.terminal_c][label])
    if column < 1.25 * load - 1e-9:
        wrong.append(
            f"at its {temperature(run.terminal_c)} terminals it carries "
            f"{quantity(column, 'A', '.0f')}, less than 125 % of {quantity(load, 'A', '.1f')}"
        )
    if allowed < load - 1e-9:
        wrong.append(f"derated it carries {quantity(allowed, 'A', '.1f')} and the load is {quantity(load, 'A', '.1f')}")
    ratings = [float(r) for r in BREAKERS[Practice.NEC]]
    highest = next((r for r in ratings if r >= min(allowed, column)), ratings[-1])
    if run.laying is Laying.CONDUIT:
        highest = min(highest, NEC_SMALL.get(label, highest))
    if not wrong and breaker > highest:
        wrong.append(f"a {quantity(breaker, 'A')} breaker is above the {quantity(highest, 'A')} it may have")
    return wrong
