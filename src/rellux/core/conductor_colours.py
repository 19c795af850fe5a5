"""Colours of conductors: their letter codes, and how they are shown on paper and screens."""

from dataclasses import dataclass


@dataclass(frozen=True)
class ConductorColour:
    """``code``: letters by IEC 60757, from memory; ``shown``: as #rrggbb; ``stripe``: of a second colour, or empty."""

    name: str
    code: str
    shown: str
    stripe: str = ""


CONDUCTOR_COLOURS = {
    c.name: c
    for c in (
        ConductorColour("black", "BK", "#22262a"),
        ConductorColour("blue", "BU", "#2f6fc1"),
        ConductorColour("brown", "BN", "#7a4a21"),
        ConductorColour("green", "GN", "#3f9a3f"),
        ConductorColour("green-yellow", "GNYE", "#3f9a3f", "#f2d21b"),
        ConductorColour("grey", "GY", "#8d9296"),
        ConductorColour("orange", "OG", "#ee7f1a"),
        ConductorColour("pink", "PK", "#ee8fae"),
        ConductorColour("red", "RD", "#c8281e"),
        ConductorColour("violet", "VT", "#7d4bab"),
        ConductorColour("white", "WH", "#ffffff"),
        ConductorColour("yellow", "YE", "#f2d21b"),
    )
}
UNKNOWN = ConductorColour("unknown", "?", "#8d9296")


def colour_of(name: str) -> ConductorColour:
    """The colour of this name, or one that says it is unknown."""
    return CONDUCTOR_COLOURS.get(name, UNKNOWN)
