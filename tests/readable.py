"""What the core says, held to the form of a message in both units."""

import re
from collections.abc import Iterator
from dataclasses import fields, is_dataclass

from rellux.core.errors import Refused
from rellux.core.messages import render, spoken
from rellux.core.units import ABSOLUTE_ZERO_C


def said_by(thing: object) -> Iterator[str]:
    """Every text in an answer, a finding, a refusal."""
    if isinstance(thing, str):
        yield thing
    elif isinstance(thing, Refused):
        yield from said_by(thing.problems)
    elif is_dataclass(thing):
        for field in fields(thing):
            yield from said_by(getattr(thing, field.name))
    elif isinstance(thing, tuple | list):
        for one in thing:
            yield from said_by(one)


def check_readable(thing: object) -> int:
    """Assert that everything said reads in °C and in °F; the number of quantities in it."""
    count = 0
    for message in said_by(thing):
        celsius, fahrenheit = render(message, "C"), render(message, "F")
        assert not re.search(r"\d ?°C", fahrenheit) and not re.search(r"\d ?°F", celsius), message
        assert not re.search(r"Δ°|\{[~+−-]?\d", celsius + fahrenheit), message
        for one in spoken(message):
            count += 1
            if one.unit == "°C":
                assert min(float(n.replace("−", "-")) for n in one.numbers) >= ABSOLUTE_ZERO_C - 0.01, message
    return count
