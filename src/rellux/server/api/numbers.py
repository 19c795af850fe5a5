"""Numbers out of a query."""

from math import isfinite

from rest_framework.request import Request

from rellux.core.errors import refuse


def number_from(request: Request, name: str, otherwise: float | None) -> float | None:
    """A number from the query. Raises ``Refused`` for anything else."""
    text = request.query_params.get(name)
    if text in (None, ""):
        return otherwise
    try:
        value = float(text)
    except ValueError:
        raise refuse(name, f"{text!r} is not a number", "a number") from None
    if not isfinite(value):
        raise refuse(name, f"{text!r} is not a number", "a number")
    return value
