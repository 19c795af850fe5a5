"""JSON as Rellux takes it: no NaN or Infinity, whole numbers a database can hold, no bottomless nesting."""

import json
import math
from typing import IO, Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import JSONParser

LARGEST_WHOLE = 2**63 - 1
DEEPEST = 40


class NotStrictError(ValueError):
    """Text that is not JSON as Rellux takes it; the message is for people."""


def loads(text: str | bytes) -> Any:
    """The value of a JSON text. Raises :class:`NotStrictError` naming what is wrong with it."""
    try:
        found = json.loads(text, parse_constant=_constant, parse_float=_float, parse_int=_whole)
    except NotStrictError:
        raise
    except RecursionError:
        raise NotStrictError("it is nested too deeply") from None
    except ValueError as error:
        raise NotStrictError(f"it is not JSON ({error})") from None
    _check_depth(found)
    return found


def _constant(name: str) -> float:
    raise NotStrictError(f"{name} is not a number")


def _float(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise NotStrictError(f"{text[:20]} is too large a number")
    return value


def _whole(text: str) -> int:
    if len(text) > 20 or abs(int(text)) > LARGEST_WHOLE:
        raise NotStrictError(f"{text[:20]}… is too large a number")
    return int(text)


def _check_depth(found: Any) -> None:
    level = [found]
    for _ in range(DEEPEST):
        level = [v for x in level if isinstance(x, dict | list) for v in (x.values() if isinstance(x, dict) else x)]
        if not level:
            return
    raise NotStrictError("it is nested too deeply")


class StrictJSONParser(JSONParser):
    """Request bodies, read the same way."""

    def parse(
        self, stream: IO[Any], media_type: str | None = None, parser_context: dict[str, Any] | None = None
    ) -> Any:
        try:
            return loads(stream.read())
        except NotStrictError as error:
            raise ParseError(str(error)) from None
