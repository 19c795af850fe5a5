"""Whether an error is within what is allowed, when it is only known to ± U (JCGM 106:2012): with a guard band of U by default, and the
risk of the decision beside it."""

from dataclasses import dataclass
from enum import StrEnum

import scipy

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference, percent
from ..units import Kind


class Conforms(StrEnum):
    """``unsure``: the limit lies within the uncertainty."""

    YES = "yes"
    NO = "no"
    UNSURE = "unsure"


WHOLE_U, WIDEST = 1.0, 2.0
"""The guard band in expanded uncertainties: by default all of it (the safer school, JCGM 106:2012, 8.3.2); the widest that is taken (our
choice)."""


def check_guard(guard: float) -> None:
    """Raise ``Refused`` for a guard band that is none."""
    if not 0.0 <= guard <= WIDEST:
        raise refuse("guard", f"{guard:g} U is no guard band", f"0 (simple acceptance)…{WIDEST:g} U")


def _risk(band_c: float, u_c: float, tolerance_c: float) -> float:
    """Probability that an error which is just accepted is outside after all (JCGM 106:2012, 9.3)."""
    shown = max(tolerance_c - band_c, 0.0)
    if not u_c > 0:
        return 0.0
    inside = scipy.special.ndtr((tolerance_c - shown) / u_c) - scipy.special.ndtr((-tolerance_c - shown) / u_c)
    return float(1.0 - inside)


@dataclass(frozen=True)
class Conformity:
    """``inside``: probability that the true error is within the tolerance; ``accept_to``: what may be shown and is still taken."""

    conforms: Conforms
    inside: Figure
    accept_to: Figure
    says: str


def conformity(error_c: float, u_c: float, expanded_c: float, tolerance_c: float, guard: float = WHOLE_U) -> Conformity:
    """Of an error found with standard uncertainty ``u_c`` and expanded ``expanded_c`` against ± ``tolerance_c``, all °C; the guard band is
    ``guard`` × U. Normal law, nothing known before (JCGM 106:2012, 7.2 and 8.3.2). Raises ``Refused`` for a tolerance or a guard band that
    is none."""
    if not tolerance_c > 0:
        raise refuse("tolerance_c", "must be more than zero", "more than {0 Δ°C}")
    check_guard(guard)
    band = guard * expanded_c
    if u_c > 0:
        inside = float(
            scipy.special.ndtr((tolerance_c - error_c) / u_c) - scipy.special.ndtr((-tolerance_c - error_c) / u_c)
        )
    else:
        inside = 1.0 if abs(error_c) <= tolerance_c else 0.0
    to = max(tolerance_c - band, 0.0)
    if abs(error_c) + band <= tolerance_c:
        conforms = Conforms.YES
    elif abs(error_c) - band > tolerance_c:
        conforms = Conforms.NO
    else:
        conforms = Conforms.UNSURE
    about = (
        Input("error", error_c, Kind.DIFFERENCE, "e", "computed"),
        Input("tolerance", tolerance_c, Kind.DIFFERENCE, "T", "its class"),
        Input("uncertainty", u_c, Kind.DIFFERENCE, "u", "computed"),
    )
    probability = Figure(
        "probability that it is within what is allowed",
        100.0 * inside,
        Kind.PERCENT,
        formula="Φ((T − e)/u) − Φ((−T − e)/u)",
        inputs=about,
        reason="What speaks for it when the error is only known so well.",
        source="JCGM 106:2012, 7.2",
        symbol="p",
    )
    limit = Figure(
        "accepted up to",
        to,
        Kind.DIFFERENCE,
        formula="T − U" if guard == WHOLE_U else "T − g U",
        inputs=(
            about[1],
            Input("expanded uncertainty", expanded_c, Kind.DIFFERENCE, "U", "computed"),
            *(() if guard == WHOLE_U else (Input("guard band", guard, Kind.RATIO, "g", "chosen"),)),
        ),
        reason=_of_band(guard, _risk(band, u_c, tolerance_c)),
        source="JCGM 106:2012, 8.3.2",
        school="guarded acceptance",
    )
    return Conformity(conforms, probability, limit, _says(conforms, error_c, expanded_c, tolerance_c, guard))


def _of_band(guard: float, risk: float) -> str:
    if guard == WHOLE_U:
        return "A guard band as wide as the uncertainty: what is taken as good seldom is not."
    return f"A guard band of {guard:g} U, as chosen: just accepted, it is outside with a probability of {percent(risk, '.2g')}."


def _says(conforms: Conforms, error_c: float, expanded_c: float, tolerance_c: float, guard: float) -> str:
    found = f"{difference(error_c, '+.2g')} ± {difference(expanded_c, '.2g')}"
    allowed = f"± {difference(tolerance_c, '.2g')}"
    if conforms is Conforms.YES:
        if guard < WHOLE_U:
            return f"{found} is taken as within {allowed}, with a guard band of {guard:g} U as chosen."
        return f"{found} is within {allowed}, its uncertainty included."
    if conforms is Conforms.NO:
        with_it = "whatever the uncertainty" if guard >= WHOLE_U else f"with a guard band of {guard:g} U as chosen"
        return f"{found} is outside {allowed}, {with_it}."
    return f"{found} against {allowed}: not decided."
