"""How what a rig drives is spoken of: a heater heats, a cooler cools, and the sentences about both are the same otherwise."""

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class Driven:
    """``noun`` what it is, ``does`` and ``do`` what it does (one, several), ``effect`` what stays on when it should not."""

    noun: str
    does: str
    do: str
    effect: str


HEATER = Driven("heater", "heats", "heat", "heat")
COOLER = Driven("cooler", "cools", "cool", "cooling")
COOLING = ("compressor",)
"""Kinds of part that take heat out."""


def driven_of(kinds: Iterable[str]) -> Driven:
    """The words for loads of these kinds: a cooler's where all of them cool."""
    found = list(kinds)
    return COOLER if found and all(k in COOLING for k in found) else HEATER
