"""What a mistake looks like: true against displayed temperature for every usual error of a sensor's connection.

Each curve is computed from the reference functions. With the load at T, the probe's head (where its own wire ends) at
T_head and the instrument's terminals at T_cj, a thermocouple hook-up gives the instrument the voltage of its circuit; the
instrument adds E(T_cj) and inverts. Source: NIST Monograph 175 for E; the circuits are Kirchhoff's.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import Problem, refuse_all
from ..messages import difference, quantity, temperature
from ..units import fahrenheit_from_celsius
from . import resistance
from .circuits import CIRCUITS, emf_of, shown_by
from .older_types import OLDER
from .reading import Shown, from_emf, from_resistance
from .sensors import NOMINAL_OHM, is_thermocouple, standard_range
from .thermocouples import TYPES, emf, temperature_range

MOST_ERROR_C, MOST_LEAD_OHM = 100.0, 500.0
"""Error of a cold junction, and a loop of leads, that can be (our choice)."""
COLDEST_HEAD_C, HOTTEST_HEAD_C = -40.0, 200.0
"""Where terminals or a probe's head can be, °C (our choice)."""

Array = NDArray[np.float64]

LINEAR_MV_PER_C = 0.041276
"""Slope assumed by linear type K converters, mV/°C."""


@dataclass(frozen=True)
class Circumstances:
    """Temperatures in °C of the probe's head and the instrument's terminals; how much warmer the terminals are than the
    instrument takes them for (°C, either sign); loop resistance of the two leads of a 2-wire hook-up, and how much more one lead of
    three has than its fellow, Ω."""

    head_c: float = 60.0
    terminals_c: float = 25.0
    junction_error_c: float = 10.0
    lead_ohm: float = 1.0
    lead_difference_ohm: float = 0.1


@dataclass(frozen=True)
class Mistake:
    """``display`` maps true temperatures in °C to what is shown; ``test`` is how to tell it from the others."""

    key: str
    title: str
    says: str
    test: str
    display: Callable[[Array], Shown]


def mistakes(sensor: str, at: Circumstances) -> tuple[Mistake, ...]:
    """The right hook-up first, then every mistake that can happen to this sensor. Raises ``Refused`` for circumstances
    no instrument stands in."""
    problems = [
        Problem(name, f"{temperature(value)} is not a place for terminals or a probe's head", "{-40…200 °C}")
        for name, value in (("head_c", at.head_c), ("terminals_c", at.terminals_c))
        if not COLDEST_HEAD_C <= value <= HOTTEST_HEAD_C
    ]
    if not -MOST_ERROR_C <= at.junction_error_c <= MOST_ERROR_C:
        problems.append(
            Problem("junction_error_c", f"{difference(at.junction_error_c)} is no error of terminals", "{-100…100 Δ°C}")
        )
    if not 0 <= at.lead_ohm <= MOST_LEAD_OHM:
        problems.append(Problem("lead_ohm", f"{quantity(at.lead_ohm, 'Ω')} is not the resistance of leads", "0…500 Ω"))
    if not -MOST_LEAD_OHM <= at.lead_difference_ohm <= MOST_LEAD_OHM:
        reason = f"{quantity(at.lead_difference_ohm, 'Ω')} is no difference of leads"
        problems.append(Problem("lead_difference_ohm", reason, "-500…500 Ω"))
    refuse_all(problems)
    standard_range(sensor)
    return _thermocouple(sensor, at) if is_thermocouple(sensor) else _platinum(sensor, at)


def _thermocouple(letter: str, at: Circumstances) -> tuple[Mistake, ...]:
    def e(t: float | Array) -> Array:
        return emf(letter, t)

    cold = max(at.terminals_c, temperature_range(letter)[0])
    head = max(at.head_c, temperature_range(letter)[0])
    e_cold = float(e(cold))

    taken = dict.fromkeys(CIRCUITS, emf_of(letter, cold)) | {
        "warm_terminals": emf_of(letter, cold - at.junction_error_c)
    }

    def shown(key: str) -> Callable[[Array], Shown]:
        return lambda true: shown_by(letter, key, e(true), emf_of(letter, cold), emf_of(letter, head), taken[key])

    found = [
        Mistake("right", "Connected rightly", "The display follows the load.", "", shown("right")),
        Mistake(
            "reversed",
            "Reversed at the terminals",
            "The reading falls as the load heats, and soon is under-range.",
            "Warm the tip by hand: the reading falls.",
            shown("reversed"),
        ),
        Mistake(
            "reversed_head",
            "Reversed at the head only",
            "As reversed, but shifted by twice what the head is warmer than the terminals.",
            "Warm the tip: the reading falls. Warm the head: it rises by twice as much.",
            shown("reversed_head"),
        ),
        Mistake(
            "copper",
            "Copper instead of extension wire",
            "Reads low by what the head is warmer than the terminals.",
            "Warm the head: about {−1 Δ°C} for each degree.",
            shown("copper"),
        ),
        Mistake(
            "crossed",
            "Extension crossed over at both ends",
            "As copper, but twice as much; the polarity test at the tip passes.",
            "Warm the head: about {−2 Δ°C} for each degree.",
            shown("crossed"),
        ),
        Mistake(
            "no_compensation",
            "Cold-junction compensation off",
            "Shows the difference from the terminals, not the temperature.",
            "Link the input: a right one shows its own terminals, this one {0 °C}.",
            shown("no_compensation"),
        ),
        Mistake(
            "warm_terminals",
            f"Terminals {difference(at.junction_error_c, '+g')} from what the instrument takes them for",
            "Reads low where they are warmer, by that times the slope at the terminals over the slope at the load.",
            "Link the input: it does not show the temperature of its terminals.",
            shown("warm_terminals"),
        ),
    ]
    for other in TYPES:
        if other != letter:
            found.append(_wrong_type(letter, other, e_cold, cold))
    if letter == "K":
        found.append(
            Mistake(
                "linear",
                "Converted linearly",
                "The converter takes {41.276 µV/°C} everywhere instead of the reference function.",
                "Compare near {400 °C}, {800 °C} and {1200 °C}: about {−2 Δ°C}, {+7 Δ°C} and {−16 Δ°C}.",
                lambda true: _as_is(cold + (e(true) - e_cold) / LINEAR_MV_PER_C),
            )
        )
    if letter in OLDER:
        found.append(_older(letter, e_cold, cold))
    return (*found, *_broken(letter, head, cold), _fahrenheit())


def _older(letter: str, e_cold: float, cold: float) -> Mistake:
    older = OLDER[letter]

    def display(true: Array) -> Shown:
        inside = np.clip(true, *older.range_c)
        shown = from_emf(letter, older.emf(inside) - float(older.emf(np.array(cold))) + e_cold)
        return Shown(np.where(inside == true, shown.celsius, np.nan), shown.side)

    return Mistake(
        f"is_{older.letter}",
        f"The probe is an older type {older.letter}",
        f"Its wires are those of DIN 43710, sold as type {letter}; the tables differ more the hotter it is.",
        f"Colours {older.colours}: older German. In boiling water, with the terminals at {{20 °C}}, {older.boiling_mv:.2f} mV.",
        display,
    )


def _broken(letter: str, head: float, cold: float) -> tuple[Mistake, ...]:
    def steady(celsius: float) -> Callable[[Array], Shown]:
        return lambda true: _as_is(np.full(true.shape, celsius))

    return (
        Mistake(
            "shorted_head",
            "Shorted at the probe's head",
            "Shows the temperature of the short, whatever the load does.",
            "Warm the tip: nothing happens. Warm the head: the reading follows it.",
            steady(head),
        ),
        Mistake(
            "shorted_terminals",
            "Shorted at the terminals",
            "Shows the terminals' own temperature, and the heater stays on.",
            "Take the sensor off: a link across the input shows the same.",
            steady(cold),
        ),
        _open(),
        Mistake(
            "grounded",
            "Junction on an earthed case, input not isolated",
            "No steady number: noise that comes and goes with the heater, or none at all.",
            "Lift the probe's case off the earthed metal, heater isolated: the reading steadies.",
            lambda true: Shown(np.full(true.shape, np.nan), np.zeros(true.shape, dtype=np.int8)),
        ),
    )


def _open() -> Mistake:
    return Mistake(
        "open",
        "Open: a broken wire or loose terminal",
        "The input drives to over-range (the safe side for heating) or, in some controllers, to under-range.",
        "Ohms at the terminals, sensor taken off: none where it is broken.",
        lambda true: Shown(np.full(true.shape, np.nan), np.ones(true.shape, dtype=np.int8)),
    )


def _wrong_type(letter: str, other: str, e_cold: float, cold: float) -> Mistake:
    return Mistake(
        f"as_{other}",
        f"Input set for type {other}",
        f"A type {letter} voltage read through the table of type {other}.",
        "Look at the input type in the controller.",
        lambda true: from_emf(other, emf(letter, true) - e_cold + emf_of(other, cold)),
    )


def _platinum(sensor: str, at: Circumstances) -> tuple[Mistake, ...]:
    def r(true: Array) -> Array:
        return resistance.resistance(true, own)

    own = NOMINAL_OHM[sensor]
    other = next(name for name in NOMINAL_OHM if name != sensor)
    low = NOMINAL_OHM[other] < own
    return (
        Mistake(
            "right",
            "Connected rightly",
            "The display follows the load.",
            "",
            lambda true: from_resistance(r(true), own),
        ),
        Mistake(
            "two_wire",
            f"Two leads of {quantity(at.lead_ohm, 'Ω')} together, not compensated",
            f"Reads high by about {difference(256.0 / own, '.2g')} for each ohm of the loop.",
            "Short the leads at the sensor and measure: the loop's ohms are the error.",
            lambda true: from_resistance(r(true) + at.lead_ohm, own),
        ),
        Mistake(
            f"as_{other.lower()}",
            f"Input set for {other}",
            f"{'Ten times' if low else 'A tenth of'} the expected resistance: far {'over' if low else 'under'}-range.",
            f"Ohms at the terminals: {1.08 * own:.0f} at room temperature is a {sensor}.",
            lambda true: from_resistance(r(true), NOMINAL_OHM[other]),
        ),
        Mistake(
            "three_wire",
            f"Three wires, one of them {quantity(at.lead_difference_ohm, 'Ω', '+g')}",
            "The input takes its two leads for alike; what one has more than the other is read as heat.",
            "Measure each lead by itself: two of the same colour within {0.05 Ω}.",
            lambda true: from_resistance(r(true) + at.lead_difference_ohm, own),
        ),
        Mistake(
            "shorted",
            "Shorted",
            "No ohms: far under-range.",
            "Ohms at the terminals, sensor taken off: near none.",
            lambda true: from_resistance(np.zeros(true.shape), own),
        ),
        _open(),
        _fahrenheit(),
    )


def _fahrenheit() -> Mistake:
    return Mistake(
        "fahrenheit",
        "Shown in °F, taken for °C",
        "The display is right, in the other unit.",
        "Look at the display unit: a room reads about 70.",
        lambda true: _as_is(fahrenheit_from_celsius(true)),
    )


def _as_is(celsius: Array) -> Shown:
    return Shown(celsius, np.zeros(celsius.shape, dtype=np.int8))
