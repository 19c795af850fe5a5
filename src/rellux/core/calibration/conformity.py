"""Whether an error is within what is allowed, when it is only known to ± U (JCGM 106:2012): with a guard band of U by default, and the
risk of the decision beside it."""

from dataclasses import dataclass
from enum import StrEnum

import scipy

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference
from ..units import Kind


class Conforms(StrEnum):
    """``unsure``: the limit lies within the uncertainty."""

    YES = "yes"
    NO = "no"
    UNSURE = "unsure"


@dataclass(frozen=True)
class Conformity:
    """``inside``: probability that the true error is within the tolerance; ``accept_to``: what may be shown and is still taken."""

    conforms: Conforms
    inside: Figure
    accept_to: Figure
    says: str


def conformity(error_c: float, u_c: float, expanded_c: float, tolerance_c: float) -> Conformity:
    """Of an error found with standard uncertainty ``u_c`` and expanded ``expanded_c`` against ± ``tolerance_c``, all °C. Normal law,
    nothing known before (JCGM 106:2012, 7.2 and 8.3.2). Raises ``Refused`` for a tolerance that is none."""
    if not tolerance_c > 0:
        raise refuse("tolerance_c", "must be more than zero", "more than {0 Δ°C}")
    if u_c > 0:
        inside = float(
            scipy.special.ndtr((tolerance_c - error_c) / u_c) - scipy.special.ndtr((-tolerance_c - error_c) / u_c)
        )
    else:
        inside = 1.0 if abs(error_c) <= tolerance_c else 0.0
    to = max(tolerance_c - expanded_c, 0.0)
    if abs(error_c) + expanded_c <= tolerance_c:
        conforms = Conforms.YES
    elif abs(error_c) - expanded_c > tolerance_c:
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
        formula="T − U",
        inputs=(about[1], Input("expanded uncertainty", expanded_c, Kind.DIFFERENCE, "U", "computed")),
        reason="A guard band as wide as the uncertainty: what is taken as good seldom is not.",
        source="JCGM 106:2012, 8.3.2",
        school="guarded acceptance",
    )
    return Conformity(conforms, probability, limit, _says(conforms, error_c, expanded_c, tolerance_c))


def _says(conforms: Conforms, error_c: float, expanded_c: float, tolerance_c: float) -> str:
    found = f"{difference(error_c, '+.2g')} ± {difference(expanded_c, '.2g')}"
    allowed = f"± {difference(tolerance_c, '.2g')}"
    if conforms is Conforms.YES:
        return f"{found} is within {allowed}, its uncertainty included."
    if conforms is Conforms.NO:
        return f"{found} is outside {allowed}, whatever the uncertainty."
    return f"{found} against {allowed}: not decided."
