"""What a controller can hold: values are rounded to its step before they are judged, sent or compared."""

from decimal import ROUND_HALF_DOWN, Decimal

from ..errors import refuse

HALF = 0.5
"""A value is held where it differs by less than half a step from what was sent."""


def held(value: float, step: float) -> float:
    """The multiple of ``step`` nearest to ``value``, both in the same unit; halfway, the one nearer to zero, so that rounding
    never asks for more. Raises ``Refused`` for a step that is not more than zero.

    Worked: 60.25 by 0.1 is 60.2 and −4.05 is −4.0; by 0.5, 60.25 is 60.0.
    """
    if not step > 0:
        raise refuse("step", f"{step:g} is no step", "> 0")
    exact = Decimal(repr(float(value))) / Decimal(repr(float(step)))
    return float(exact.quantize(Decimal(1), ROUND_HALF_DOWN) * Decimal(repr(float(step))))


def is_held(sent: float | str, read_back: float | str, step: float) -> bool:
    """Whether what was read back is what was sent, to within half a step."""
    if isinstance(sent, str) or isinstance(read_back, str):
        return sent == read_back
    return abs(sent - read_back) < HALF * step
