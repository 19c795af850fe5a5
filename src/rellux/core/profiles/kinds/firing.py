"""Firing by heat-work: temperature and time together, as pyrometric cones sum them up. No cone table is shipped: the two rows (the same
bending at two rates) come from the sheet that came with the cones.

``∫e^(−E/RT) dt`` while rising at a rate r to T is about ``(R T²/(E r)) e^(−E/RT)``; equal work at two rates gives
``ln(T²/r) − E/(R T)`` equal, and so E.
"""

from dataclasses import dataclass
from math import log

import scipy

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import difference, quantity, temperature
from ...units import ABSOLUTE_ZERO_C, Kind
from ..profile import Profile
from ..scoring import Score, Seen, Span, score
from .cure import GAS, equivalent_span, speed
from .kind import OFF, PRACTICE, Places, ProfileKind, ramp, soak

SLOW_UNTIL_C, LAST_C = 600.0, 120.0
"""Slow through water, binder and quartz; the last so many degrees go at the rate that counts (common practice, no source)."""
LEAST_E, MOST_E = 100_000.0, 2_000_000.0
"""J/mol that two rows of a sheet may give (our choice: beyond, a row was mistyped)."""


@dataclass(frozen=True)
class Firing:
    """Two rows of the cones' sheet, and how it is fired here."""

    first_c: float = number("By the sheet: bends at", Kind.TEMPERATURE, 500, 1500, 1046.0)
    first_c_per_min: float = number("when rising at", Kind.RATE, 0.05, 20, 1.0)
    second_c: float = number("and at", Kind.TEMPERATURE, 500, 1500, 1060.0)
    second_c_per_min: float = number("when rising at", Kind.RATE, 0.05, 20, 2.5)
    last_c_per_min: float = number("Fired here, at last, at", Kind.RATE, 0.05, 20, 1.5)
    early_c_per_min: float = number("before that at", Kind.RATE, 0.05, 20, 2.0)
    soak_s: float = number("held at the top for", Kind.TIME, 0, 6 * 3600, 600.0)
    near_c: float = number("right within", Kind.DIFFERENCE, 1, 30, 6.0)


def activation(g: Firing) -> float:
    """E in J/mol from the two rows. Raises ``Refused`` for rows that no body has."""
    a, b = g.first_c - ABSOLUTE_ZERO_C, g.second_c - ABSOLUTE_ZERO_C
    if g.first_c == g.second_c or (a < b) != (g.first_c_per_min < g.second_c_per_min):
        raise refuse("second_c", "rising faster it bends hotter", "two rows of one cone")
    found = GAS * (log(a * a / g.first_c_per_min) - log(b * b / g.second_c_per_min)) / (1.0 / a - 1.0 / b)
    if not LEAST_E <= found <= MOST_E:
        reason = f"{quantity(found / 1000, form='.0f')} kJ/mol follows from the two rows: no body is like that"
        raise refuse("second_c", reason, "temperatures at two rates for the same cone")
    return found


def work(top_c: float, rate_c_per_min: float, reference_c: float, energy: float) -> float:
    """Heat-work of a rise at a rate to a temperature, in s at ``reference_c``: the integral, not its approximation."""
    rate = rate_c_per_min / 60.0
    low = max(top_c - BELOW_C, ABSOLUTE_ZERO_C + 1.0)
    return float(scipy.integrate.quad(speed, low, top_c, (reference_c, energy), epsrel=1e-10, limit=200)[0]) / rate


BELOW_C = 700.0
"""So far below the top nothing of it happens."""


def as_if(done_s: float, g: Firing, energy: float) -> float:
    """To which temperature a rise at the first row's rate does as much, °C."""
    low, high = g.first_c - BELOW_C, g.first_c + BELOW_C

    def more(celsius: float) -> float:
        return log(work(celsius, g.first_c_per_min, g.first_c, energy)) - log(max(done_s, TINY_S))

    return float(scipy.optimize.brentq(more, low, high, xtol=1e-6)) if more(low) < 0 < more(high) else low


TINY_S = 1e-9


def _work_done(seen: Seen, g: Firing, energy: float) -> Span:
    return equivalent_span(seen, g.first_c, energy)


def top_for(g: Firing) -> float:
    """The top that, at the rate it is fired here and with its soak, does the cone's work; °C."""
    energy = activation(g)
    wanted = work(g.first_c, g.first_c_per_min, g.first_c, energy)

    def over(celsius: float) -> float:
        held = g.soak_s * float(speed(celsius, g.first_c, energy))
        return work(celsius, g.last_c_per_min, g.first_c, energy) + held - wanted

    return float(scipy.optimize.brentq(over, g.first_c - 300.0, g.first_c + 300.0, xtol=1e-4))


def _build(g: Firing) -> Profile:
    top = round(top_for(g), 1)
    slow = min(SLOW_UNTIL_C, top - LAST_C)
    segments = [
        ramp(slow, g.early_c_per_min / 2.0, "water, binder, quartz"),
        ramp(top - LAST_C, g.early_c_per_min),
        ramp(top, g.last_c_per_min),
    ]
    if slow >= top - LAST_C:
        del segments[1]
    if g.soak_s:
        segments.append(soak(g.soak_s))
    return Profile((*segments, OFF))


def _judge(g: Firing, places: Places) -> tuple[Score, ...]:
    energy = activation(g)
    found = []
    ends = (
        [("coldest", places.coldest)]
        if places.coldest is places.hottest
        else [("coldest", places.coldest), ("hottest", places.hottest)]
    )
    for name, seen in ends:
        done = _work_done(seen, g, energy)
        bent = Span(*(as_if(v, g, energy) for v in (done.value, done.low, done.high)))
        where = f": {name} place" if len(ends) > 1 else ""
        said = f"heat-work, as if it had risen by the sheet{where}"
        found.append(score(name, said, "cone", Kind.TEMPERATURE, bent, g.first_c - g.near_c, g.first_c + g.near_c))
    return tuple(found)


def _figures(g: Firing) -> tuple[Figure, ...]:
    energy = activation(g)
    return (
        Figure(
            "top",
            top_for(g),
            Kind.TEMPERATURE,
            formula="∫e^(−E/RT) dt as much as by the sheet;  ln(T₁²/r₁) − E/RT₁ = ln(T₂²/r₂) − E/RT₂",
            inputs=(
                Input("first row", g.first_c, Kind.TEMPERATURE, "T₁", "sheet of the cones"),
                Input("its rate", g.first_c_per_min, Kind.RATE, "r₁", "sheet of the cones"),
                Input("second row", g.second_c, Kind.TEMPERATURE, "T₂", "sheet of the cones"),
                Input("its rate", g.second_c_per_min, Kind.RATE, "r₂", "sheet of the cones"),
            ),
            reason=f"{quantity(energy / 1000, form='.0f')} kJ/mol follows from the rows. Fired at another rate, or held, it gets there at "
            f"another temperature than {temperature(g.first_c)}.",
            source="Arrhenius",
        ),
    )


BEYOND, SURE_C = 2.0, 15.0
"""Fired at less or more than the sheet's rates by such a factor, the two rows tell the top to within so many °C only (a maker's chart of
sixteen cones, its third rate from its other two; tests/core/profiles/test_kinds)."""


def _findings(g: Firing) -> tuple[Finding, ...]:
    slow, fast = sorted((g.first_c_per_min, g.second_c_per_min))
    if slow / BEYOND <= g.last_c_per_min <= fast * BEYOND:
        return ()
    return (
        Finding(
            "profiles.firing-rate",
            Severity.ADVICE,
            title="Fired at a rate the sheet does not tell of",
            reason=f"Its rows are of {quantity(slow, '°C/min', '.3g')} and {quantity(fast, '°C/min', '.3g')}. So far from them the top is "
            f"known to {difference(SURE_C, '.0f')} or so either way.",
            fix="Fire the last part at a rate of the sheet, or let a witness cone judge it.",
            subjects=("last_c_per_min",),
        ),
    )


KIND = ProfileKind(
    "firing",
    "Firing by heat-work",
    Firing,
    _build,
    _judge,
    source=f"the two rows of the cones' own sheet; {PRACTICE}",
    figures=_figures,
    findings=_findings,
    caution="Do not open above a dull red; never look in without glasses for it. Put a witness cone beside the load: it is the judge.",
)
