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
BLOWER = Driven("fan", "blows", "blow", "heat")
COOLING, BLOWING = ("compressor",), ("fire_fan",)
"""Kinds of part that take heat out, and that bring up a fire."""


def driven_of(kinds: Iterable[str]) -> Driven:
    """The words for loads of these kinds: a cooler's where all of them cool, a fan's where all bring up a fire."""
    found = set(kinds)
    if found and found <= set(COOLING):
        return COOLER
    return BLOWER if found and found <= set(BLOWING) else HEATER
