"""What is behind an error: every cause computed over all pairs, how likely each is, and the one test that tells the first two apart.

A cause predicts what the display shows for each true temperature, given one circumstance nobody measured (the head's temperature, the
ohms of a lead). Its likelihood is averaged over what that circumstance can be, so that one which fits only by a lucky value does not win;
the sensor's own error within its class is common to all pairs. Connections are those of :mod:`rellux.core.sensing.mistakes`.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial
from math import isfinite

import numpy as np
import scipy
from numpy.typing import NDArray

from ..messages import difference, temperature
from ..sensing.circuits import emf_of, swept
from ..sensing.mistakes import Circumstances, Mistake, mistakes
from ..sensing.reading import from_emf
from ..sensing.sensors import NTC, is_thermocouple, standard_range
from ..sensing.suspects import FREE, own_error
from ..sensing.thermocouples import TYPES, emf, temperature_range
from ..units import celsius_from_fahrenheit

Array = NDArray[np.float64]

NODES, GRID = 9, 121
"""Values of a circumstance that are computed, and to which they are interpolated."""
_BETWEEN = (GRID - 1) // (NODES - 1)
_SHARES = np.linspace(0.0, 1.0, GRID)
_BELOW = np.minimum(np.arange(GRID) // _BETWEEN, NODES - 2)
_BEYOND = np.arange(GRID) / _BETWEEN - _BELOW
NONE_FITS = 0.01
"""Probability below which the best cause is none: what is seen would be too rare with it (our choice)."""
CLEARLY = 3.0
"""How many times likelier the first must be than the second to be named alone (our choice)."""
MOST_NAMED = 4
"""Causes that are shown (our choice)."""
LEAST_SHARE = 0.02
"""Causes less likely than this are not shown (our choice)."""
SHUNTS_C, SHUNT_GROWS_C = 600.0, 120.0
"""From where a hot cable's insulation leaks, and by how much warmer it leaks e times more (common practice, no source)."""
MOST_PLACE, MOST_CONSTANT_C, MOST_AGED_C, LEAST_SHUNT_C, MOST_SHUNT_C = 0.3, 30.0, 40.0, 1.0, 60.0
"""What is found at rigs (our choice): share of the way to the room that places differ; a constant
error; ageing and shunting at 1000 °C."""
TERMINALS_C = (0.0, 60.0)
"""Where an instrument's terminals are taken to be, °C."""
ASKED = 41
"""Temperatures tried for one more pair."""
APART = 2.0
"""Uncertainties two curves must be apart at some temperature to be told apart there."""
COMMONER = {
    "right": 3.0,
    "place": 3.0,
    "sign": 2.0,
    "constant": 2.0,
    "copper": 2.0,
    "warm_terminals": 2.0,
    "fahrenheit": 2.0,
    "two_wire": 2.0,
    "aged": 1.5,
    "digit": 0.3,
    "shunting": 0.5,
}
"""How often a cause is met, against 1 for the others (common practice, no source)."""
ANOTHER_PROBE = 0.3
"""The same of a probe that is not of the type the rig is said to have (our choice: rarer than an input that is set wrong)."""


@dataclass(frozen=True)
class Cause:
    """``likely``: its share of all causes, 0…1; ``residual_c``: rms of what is left with it, °C; ``fits``: what is seen would not be
    too rare with it. ``reason``: what it would show; ``test``: how to see it."""

    key: str
    title: str
    likely: float
    residual_c: float
    fits: bool
    reason: str
    test: str


@dataclass(frozen=True)
class Causes:
    """The likeliest first; ``says``: one sentence on what to make of them, ``test``: the cheap test that tells the first two apart."""

    ranked: tuple[Cause, ...]
    says: str
    test: str


@dataclass(frozen=True)
class Seen:
    """Pairs of shape (n,): what the sensor shows without offset, and the true temperature, °C; standard uncertainty of one; the offset in
    the controller, as added to the reading; the room, and the hottest it may be."""

    raw_c: Array
    true_c: Array
    u_c: float
    offset_c: float
    room_c: float
    highest_c: float


Predict = Callable[[Array, Array], Array]
"""What is shown for true temperatures of shape (n,), by values of the circumstance that broadcast with them."""


@dataclass(frozen=True)
class _Suspect:
    """``predict``: what is shown for true temperatures, by the circumstance, which lies between ``low`` and ``high``."""

    key: str
    title: str
    test: str
    predict: Predict
    low: float = 0.0
    high: float = 0.0
    told: str = ""

    @property
    def commoner(self) -> float:
        """How often it is met, against 1 for the others."""
        return COMMONER.get(self.key, ANOTHER_PROBE if self.key.startswith("is_") else 1.0)


@dataclass(frozen=True)
class _Weighed:
    suspect: _Suspect
    evidence: float
    best: float
    chi2: float

    def shows(self, true_c: Array) -> Array:
        """At its best value, shape (n,), °C."""
        return self.suspect.predict(true_c, np.array([self.best]))


def ranked_causes(sensor: str, seen: Seen) -> Causes:
    """Every cause that can be at this sensor, weighed against the pairs. Pairs outside the sensor's table are left out by the caller."""
    own = max(own_error(sensor, float(t)) for t in (np.min(seen.true_c), np.max(seen.true_c))) / 2.0
    n = len(seen.raw_c)
    inverse = np.asarray(np.linalg.inv(np.eye(n) * max(seen.u_c, 1e-3) ** 2 + own**2), dtype=np.float64)
    found = _weighed(list(suspects(sensor, seen)), seen, inverse)
    total = sum(w.evidence for w in found)
    if not total > 0:
        return Causes(
            (), "None of the known causes shows anything like this: read both again, and look at the wiring.", ""
        )
    ordered = sorted(found, key=lambda w: -w.evidence)
    shares = ((w, w.evidence / total) for w in ordered[:MOST_NAMED])
    named = tuple(_cause(w, likely, seen) for w, likely in shares if likely >= LEAST_SHARE)
    return _told(named, ordered, seen, own)


def _weighed(found: list[_Suspect], seen: Seen, inverse: Array) -> list[_Weighed]:
    """Evidence: the likelihood averaged over the circumstance, times how often the cause is met; χ² at its best value."""
    free, fixed = [s for s in found if s.low != s.high], [s for s in found if s.low == s.high]
    return [*_fixed(fixed, seen, inverse), *_free(free, seen, inverse)]


def _fixed(found: list[_Suspect], seen: Seen, inverse: Array) -> Iterator[_Weighed]:
    if found:
        left = np.array([s.predict(seen.true_c, np.array([s.low])) for s in found]) - seen.raw_c
        chi2 = _finite(np.sum((left @ inverse) * left, axis=1))
        for s, value, likely in zip(found, chi2.tolist(), np.exp(-chi2 / 2.0).tolist(), strict=True):
            yield _Weighed(s, likely * s.commoner, s.low, value)


def _free(found: list[_Suspect], seen: Seen, inverse: Array) -> Iterator[_Weighed]:
    """What is left lies on a line between two computed values of the circumstance, and χ² is its square."""
    if found:
        nodes = _SHARES[::_BETWEEN, None]
        left = np.array([s.predict(seen.true_c, s.low + nodes * (s.high - s.low)) for s in found]) - seen.raw_c
        weighed = left @ inverse
        own, next_to = np.sum(weighed * left, axis=2), np.sum(weighed[:, :-1] * left[:, 1:], axis=2)
        low, high = 1.0 - _BEYOND, _BEYOND
        between = low * low * own[:, _BELOW] + 2.0 * low * high * next_to[:, _BELOW] + high * high * own[:, _BELOW + 1]
        chi2 = _finite(between)
        best = np.argmin(chi2, axis=1)
        likely = np.mean(np.exp(-chi2 / 2.0), axis=1)
        for i, s in enumerate(found):
            k = int(best[i])
            at = s.low + float(_SHARES[k]) * (s.high - s.low)
            yield _Weighed(s, float(likely[i]) * s.commoner, at, float(chi2[i, k]))


def _finite(chi2: Array) -> Array:
    return np.where(np.isfinite(chi2), chi2, np.inf)


def _cause(w: _Weighed, likely: float, seen: Seen) -> Cause:
    would = w.shows(seen.true_c)
    residual = float(np.sqrt(np.mean((would - seen.raw_c) ** 2)))
    fits = isfinite(w.chi2) and float(scipy.special.chdtrc(len(seen.raw_c), w.chi2)) >= NONE_FITS
    shown = ", ".join(temperature(float(v), ".1f") for v in dict.fromkeys(np.round(would[:3], 1)) if np.isfinite(v))
    told = w.suspect.told.format(w.best) if w.suspect.told else ""
    return Cause(
        w.suspect.key,
        w.suspect.title,
        likely,
        residual,
        fits,
        f"{told}It would show {shown}: {difference(residual, '.1f')} from what was seen.",
        w.suspect.test,
    )


def _told(named: tuple[Cause, ...], ordered: list[_Weighed], seen: Seen, own: float) -> Causes:
    if not named or not named[0].fits:
        says = (
            "None of the known causes explains it: read both again, and look at the wiring before anything is entered."
        )
        return Causes(named, says, named[0].test if named else "")
    first = named[0]
    if first.key == "right":
        says = "No wrong connection stands out: a sensor far out of its class, or a reference that is wrong, would look like this."
        return Causes(named, says, "Compare with another reference, then with another sensor.")
    if len(named) == 1:
        return Causes(named, f"{first.title} explains it.", first.test)
    second = named[1]
    if first.likely >= CLEARLY * second.likely:
        return Causes(
            named, f"Most likely: {_lower(first.title)}.", _separates(ordered[0], ordered[1], seen, own) or first.test
        )
    test = _separates(ordered[0], ordered[1], seen, own)
    says = f"{first.title}, or {_lower(second.title)}: these pairs do not tell them apart."
    return Causes(named, says, test or first.test or second.test)


def _lower(title: str) -> str:
    return title[:1].lower() + title[1:]


def _separates(one: _Weighed, other: _Weighed, seen: Seen, own: float) -> str:
    """One more pair at the temperature where the two differ most, if that is enough; empty where no temperature tells them apart."""
    at = np.linspace(seen.room_c, seen.highest_c, ASKED)
    gap = np.abs(one.shows(at) - other.shows(at))
    gap = np.where(np.isfinite(gap), gap, 0.0)
    k = int(np.argmax(gap))
    if gap[k] <= APART * (seen.u_c**2 + own**2) ** 0.5:
        return ""
    shows = [float(w.shows(at[k : k + 1])[0]) for w in (one, other)]
    return (
        f"Compare once more at {temperature(float(at[k]), '.0f')}: the first would show {temperature(shows[0], '.0f')} without offset, "
        f"the second {temperature(shows[1], '.0f')}."
    )


def suspects(sensor: str, seen: Seen) -> Iterator[_Suspect]:
    """Every cause that can be at this sensor."""
    if sensor != NTC:
        yield from _connections(sensor, seen)
    else:
        yield _Suspect("right", "Connected rightly", "", lambda true, _: true)
    yield from _others(sensor, seen)


def _connections(sensor: str, seen: Seen) -> Iterator[_Suspect]:
    usual = replace(Circumstances(), terminals_c=min(max(seen.room_c, TERMINALS_C[0]), TERMINALS_C[1]))
    for m in mistakes(sensor, usual):
        if m.key in FREE:
            name, low, high, told = FREE[m.key]
            yield _Suspect(
                m.key, m.title if told else _untold(m), m.test, _with(sensor, m.key, name, usual), low, high, told
            )
        else:
            yield _Suspect(m.key, m.title, m.test, lambda true, _, m=m: m.display(true).celsius)  # type: ignore[misc]


def _untold(m: Mistake) -> str:
    """The title without the number of usual circumstances."""
    return {
        "two_wire": "Leads not compensated, as with two wires",
        "three_wire": "One of three wires has more ohms than its fellow",
        "warm_terminals": "Terminals are not at the temperature the instrument takes them for",
    }[m.key]


def _with(sensor: str, key: str, name: str, usual: Circumstances) -> Predict:
    return lambda true, values: swept(sensor, key, name, values, true, usual.terminals_c, usual.head_c)


def _others(sensor: str, seen: Seen) -> Iterator[_Suspect]:
    """Causes that are no connection."""
    room = seen.room_c
    yield _Suspect(
        "place",
        "The two are not equally warm: place, immersion, or the stem",
        "Exchange the places of both and compare again: what turns round is the place.",
        lambda true, share: true + share * (true - room),
        -MOST_PLACE,
        MOST_PLACE,
    )
    yield _Suspect(
        "constant",
        "An error of the same size everywhere: the input, or the sensor",
        "Put the sensor in ice, or another sensor on the input.",
        lambda true, by: true + by,
        -MOST_CONSTANT_C,
        MOST_CONSTANT_C,
    )
    if abs(seen.offset_c) > own_error(sensor, float(seen.true_c[0])) / 4:
        yield _Suspect(
            "sign",
            "The offset in it has the wrong sign, or is one of the other kind",
            "Set the offset to zero and look whether the display comes nearer.",
            lambda true, _: true + seen.offset_c,
        )
    yield _Suspect(
        "digit",
        "A decimal point has slipped",
        "Look at the decimals of the display.",
        lambda true, _: true / 10.0,
    )
    yield _Suspect(
        "reference_fahrenheit",
        "The reference was read in °F, taken for °C",
        "Look at the unit of the thermometer: a room reads about 70.",
        lambda true, _: celsius_from_fahrenheit(true),
    )
    for other in TYPES if is_thermocouple(sensor) else ():
        if other != sensor:
            yield _Suspect(
                f"is_{other}",
                f"The probe is a type {other}, not a type {sensor}",
                "Look at the colours of its leads, and measure it against its table.",
                partial(_as_another, sensor, other, room),
            )
    if sensor in ("K", "N", "E", "J"):
        yield _Suspect(
            "aged",
            "The sensor has aged with the heat",
            "Compare with a new sensor of the same type beside it.",
            lambda true, at_1000: true + at_1000 * (true / 1000.0) ** 2,
            -MOST_AGED_C,
            MOST_AGED_C,
        )
    if is_thermocouple(sensor) and float(np.max(seen.true_c)) > SHUNTS_C:
        yield _Suspect(
            "shunting",
            "The hot insulation of its cable leaks",
            "Ohms from wire to sheath, hot: some kilo-ohms leak.",
            lambda true, at_1000: true - at_1000 * np.exp((true - 1000.0) / SHUNT_GROWS_C),
            LEAST_SHUNT_C,
            MOST_SHUNT_C,
        )


def _as_another(sensor: str, other: str, room_c: float, true: Array, _: Array) -> Array:
    """What an input set for this sensor shows of a probe of another type, °C; not a number outside the other's table."""
    inside = np.clip(true, *temperature_range(other))
    shown = from_emf(sensor, emf(other, inside) - emf_of(other, room_c) + emf_of(sensor, room_c)).celsius
    return np.where(inside == true, shown, np.nan)


def usable_pairs(sensor: str, raw_c: Array, true_c: Array) -> NDArray[np.bool_]:
    """Which pairs lie in the sensor's table, shape (n,)."""
    if sensor == NTC:
        return np.ones(len(raw_c), dtype=bool)
    low, high = standard_range(sensor)
    return np.asarray((true_c >= low) & (true_c <= high) & np.isfinite(raw_c))
