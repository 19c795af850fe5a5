"""Conductor colours of thermocouple cable: which standards fit what is seen, which leg is positive, what settles it.

The standards contradict each other: red is negative in one and positive in another. All values from memory of the
standards; check them against the cable's own print or a second source where one is at hand.
"""

from dataclasses import dataclass

from ..conductor_colours import CONDUCTOR_COLOURS
from ..errors import refuse
from ..messages import quantity
from .thermocouples import emf

COLOURS = tuple(c.name for c in CONDUCTOR_COLOURS.values() if not c.stripe)


@dataclass(frozen=True)
class Standard:
    """``legs``: (positive, negative) by type; ``sheaths``: outer colour of extension cable by type."""

    name: str
    legs: dict[str, tuple[str, str]]
    sheaths: dict[str, str]


IEC_60584_3 = {
    "K": ("green", "white"),
    "J": ("black", "white"),
    "T": ("brown", "white"),
    "E": ("violet", "white"),
    "N": ("pink", "white"),
    "R": ("orange", "white"),
    "S": ("orange", "white"),
    "B": ("grey", "white"),
}

ANSI_E230 = {
    "K": ("yellow", "red"),
    "J": ("white", "red"),
    "T": ("blue", "red"),
    "E": ("violet", "red"),
    "N": ("orange", "red"),
    "R": ("black", "red"),
    "S": ("black", "red"),
    "B": ("grey", "red"),
}

BS_1843 = {
    "K": ("brown", "blue"),
    "J": ("yellow", "blue"),
    "T": ("white", "blue"),
    "E": ("brown", "blue"),
    "N": ("orange", "blue"),
    "R": ("white", "blue"),
    "S": ("white", "blue"),
}

# The German "J" and "T" are types L and U with tables of their own, never J and T.
DIN_43710 = {
    "K": ("red", "green"),
    "L": ("red", "blue"),
    "U": ("red", "brown"),
    "E": ("red", "black"),
    "R": ("red", "white"),
    "S": ("red", "white"),
    "B": ("red", "grey"),
}

STANDARDS = (
    Standard("IEC 60584-3", IEC_60584_3, {t: legs[0] for t, legs in IEC_60584_3.items()}),
    Standard(
        "ANSI / ASTM E230",
        ANSI_E230,
        {
            "K": "yellow",
            "J": "black",
            "T": "blue",
            "E": "violet",
            "N": "orange",
            "R": "green",
            "S": "green",
            "B": "grey",
        },
    ),
    Standard(
        "old British, BS 1843",
        BS_1843,
        {"K": "red", "J": "black", "T": "blue", "E": "brown", "N": "orange", "R": "green", "S": "green"},
    ),
    Standard(
        "old German, DIN 43710",
        DIN_43710,
        {"K": "green", "L": "blue", "U": "brown", "E": "black", "R": "white", "S": "white", "B": "grey"},
    ),
)


@dataclass(frozen=True)
class Fit:
    """One reading of the colours: standard, type and legs. ``sheath_agrees`` is None where no sheath was given."""

    standard: str
    type: str
    positive: str
    negative: str
    sheath: str
    sheath_agrees: bool | None


@dataclass(frozen=True)
class Settling:
    """A test that tells the remaining readings apart, and what each outcome means."""

    name: str
    how: str
    outcomes: tuple[str, ...]


@dataclass(frozen=True)
class ColourVerdict:
    """Every reading that fits, best first, and the tests that settle what is left open."""

    fits: tuple[Fit, ...]
    certain_positive: str
    tests: tuple[Settling, ...]


def which_is_positive(first: str, second: str, sheath: str = "") -> ColourVerdict:
    """From the two colours seen, in any order, and the sheath where there is one (a brown ANSI jacket is the probe's own
    cable). Raises ``Refused`` for colours that are no conductor's, or twice the same."""
    for field, colour in (("first", first), ("second", second), ("sheath", sheath)):
        if colour not in COLOURS and not (field == "sheath" and colour == ""):
            raise refuse(field, f"{colour!r} is not a conductor's colour here", ", ".join(COLOURS))
    if first == second:
        raise refuse("second", "both legs have the same colour", "two different colours, as seen")
    seen = {first, second}
    fits = [
        Fit(s.name, letter, *legs, s.sheaths.get(letter, ""), _sheath_agrees(s, letter, sheath))
        for s in STANDARDS
        for letter, legs in s.legs.items()
        if set(legs) == seen
    ]
    fits.sort(key=lambda f: f.sheath_agrees is False)
    likely = [f for f in fits if f.sheath_agrees is not False] or fits
    positives = {f.positive for f in likely}
    tests = []
    if len(positives) > 1:
        tests.append(_polarity(sorted(positives)))
    types = sorted({f.type for f in likely})
    if len(types) > 1:
        tests.extend(_type_tests(types))
    return ColourVerdict(tuple(fits), positives.pop() if len(positives) == 1 else "", tuple(tests))


def _sheath_agrees(standard: Standard, letter: str, sheath: str) -> bool | None:
    if not sheath:
        return None
    if sheath == "brown" and standard.name.startswith("ANSI"):
        return True  # thermocouple-grade cable: the probe itself
    return standard.sheaths.get(letter) == sheath


def _polarity(positives: list[str]) -> Settling:
    return Settling(
        "Warm the tip",
        "Connect the legs to a meter set to millivolts, or to the input, and warm the tip with a hand or hot air.",
        (
            *(f"If the reading rises with {colour} on plus, {colour} is the positive leg." for colour in positives),
            "Useless by hand for type B, whose voltage is nothing below {50 °C}.",
        ),
    )


def _type_tests(types: list[str]) -> list[Settling]:
    tests = []
    magnetic = {
        "J": "the positive leg is iron: strongly drawn",
        "L": "the positive leg is iron: strongly drawn",
        "K": "the negative leg is weakly drawn",
    }
    if len({magnetic.get(t, "") for t in types}) > 1:
        outcomes = tuple(f"Type {t}: {magnetic.get(t, 'neither leg is drawn')}." for t in types)
        tests.append(Settling("A magnet", "Hold a small magnet to each bare leg.", outcomes))
    known = [t for t in types if t not in ("L", "U")]
    if len(known) > 1:
        values = tuple(f"Type {t}: {quantity(boiling_water_mv(t), 'mV', '.2f')}." for t in known)
        note = ("R and S cannot be told apart so.",) if {"R", "S"} <= set(known) else ()
        tests.append(
            Settling(
                "Boiling water", "Tip in boiling water, terminals at {20 °C}, a meter set to millivolts.", values + note
            )
        )
    return tests


def boiling_water_mv(letter: str) -> float:
    """Millivolts with the tip at 100 °C and the terminals at 20 °C."""
    return float(emf(letter, 100.0) - emf(letter, 20.0))
