"""Compiled evaluation of the reference functions and their inverse.

Each type is laid out once as flat arrays. The inverse starts from a table of equally spaced EMF values (found by
bisection) and corrects with the reference function itself: along the chord of the table's cell where the correction is
below half a millikelvin, else with Newton steps. Because a step may leave the bracket where the curve is flat (the cold ends,
the bottom of type B), every step is kept inside the bracket of its table cell. Newton converges quadratically with a
factor below 1/K for every type, so after a step under 1 mK the answer is good to about 1 µK. Numerically hard places:
type B just above 42 °C and the last kelvins above −270 °C, where 1 mK is a few nanovolts.
"""

from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from .thermocouple_data import SEGMENTS

Array = NDArray[np.float64]

CELLS = 4096
TYPE_B_ROOT_C = 42.13


class Compiled(NamedTuple):
    """A reference function as arrays: segment bounds (n+1), coefficients (n, 15), how many count (n), exponentials (n, 3)."""

    bounds: Array
    coefficients: Array
    lengths: NDArray[np.int64]
    exponentials: Array


class InverseTable(NamedTuple):
    """Temperatures in °C at ``CELLS + 1`` equally spaced EMF values starting at ``start`` mV."""

    start: float
    step: float
    temperatures: Array


@compiled(fastmath={"contract"})
def _value_and_slope(bounds, coefficients, lengths, exponentials, t):
    segment = 0
    while segment < len(bounds) - 2 and t > bounds[segment + 1]:
        segment += 1
    value = 0.0
    slope = 0.0
    for i in range(lengths[segment] - 1, -1, -1):  # Horner for the polynomial and its derivative together
        slope = slope * t + value
        value = value * t + coefficients[segment, i]
    a0 = exponentials[segment, 0]
    if a0 != 0.0:
        a1 = exponentials[segment, 1]
        away = t - exponentials[segment, 2]
        exponent = a1 * away * away
        if exponent > -60.0:
            term = a0 * np.exp(exponent)
            value += term
            slope += 2.0 * a1 * away * term
    return value, slope


@compiled(fastmath={"contract"})
def _value(bounds, coefficients, lengths, exponentials, t):
    segment = 0
    while segment < len(bounds) - 2 and t > bounds[segment + 1]:
        segment += 1
    value = 0.0
    for i in range(lengths[segment] - 1, -1, -1):
        value = value * t + coefficients[segment, i]
    a0 = exponentials[segment, 0]
    if a0 != 0.0:
        away = t - exponentials[segment, 2]
        exponent = exponentials[segment, 1] * away * away
        if exponent > -60.0:
            value += a0 * np.exp(exponent)
    return value


@compiled()
def _emf(bounds, coefficients, lengths, exponentials, temperatures, out):
    for i in range(temperatures.size):
        out[i] = _value(bounds, coefficients, lengths, exponentials, temperatures[i])


@compiled(fastmath={"contract"})
def _solve(bounds, coefficients, lengths, exponentials, e, low, high, guess):
    t = guess
    for _ in range(60):
        value, slope = _value_and_slope(bounds, coefficients, lengths, exponentials, t)
        error = value - e
        if error > 0.0:
            high = t
        else:
            low = t
        step = error / slope if slope > 0.0 else 0.0
        following = t - step
        if slope <= 0.0 or following < low or following > high:
            t = 0.5 * (low + high)
            if high - low < 1e-6:
                return t
        elif abs(step) < 1e-3:
            return following
        else:
            t = following
    return t


@compiled(fastmath={"contract"})
def _invert(bounds, coefficients, lengths, exponentials, start, step, table, emf, out):
    last = len(table) - 2
    per_step = 1.0 / step
    for i in range(emf.size):
        place = (emf[i] - start) * per_step
        cell = min(max(int(place), 0), last)
        low = table[cell]
        width = table[cell + 1] - low
        guess = low + (place - cell) * width
        # one step along the cell's chord: its slope is within a percent of the tangent where the step is this small
        correction = (emf[i] - _value(bounds, coefficients, lengths, exponentials, guess)) * width * per_step
        if abs(correction) < 5e-4:
            out[i] = guess + correction
        else:
            low, high = low - 1e-4, low + width + 1e-4
            out[i] = _solve(bounds, coefficients, lengths, exponentials, emf[i], low, high, guess)


@cache
def _compiled(letter: str) -> Compiled:
    segments = SEGMENTS[letter]
    width = max(len(s.coefficients) for s in segments)
    coefficients = np.zeros((len(segments), width))
    exponentials = np.zeros((len(segments), 3))
    for row, segment in enumerate(segments):
        coefficients[row, : len(segment.coefficients)] = segment.coefficients
        if segment.exponential is not None:
            exponentials[row] = segment.exponential
    lengths = np.array([len(s.coefficients) for s in segments])
    bounds = np.array([segments[0].low, *(s.high for s in segments)])
    return Compiled(bounds, coefficients, lengths, exponentials)


@cache
def _table(letter: str) -> InverseTable:
    reference = _compiled(letter)
    low, high = float(reference.bounds[0]), float(reference.bounds[-1])
    if letter == "B":
        low = TYPE_B_ROOT_C - 0.01
    ends = emf_array(letter, np.array([low, high]))
    start, step = float(ends[0]), float(ends[1] - ends[0]) / CELLS
    temperatures = np.empty(CELLS + 1)
    temperatures[0], temperatures[-1] = low, high
    for i in range(1, CELLS):
        temperatures[i] = _solve(*reference, start + i * step, low, high, 0.5 * (low + high))
    return InverseTable(start, step, temperatures)


def emf_array(letter: str, temperature_c: Array) -> Array:
    """EMF in mV for temperatures already known to be in range; same shape."""
    flat = np.ascontiguousarray(temperature_c, dtype=np.float64).ravel()
    out = np.empty_like(flat)
    _emf(*_compiled(letter), flat, out)
    return out.reshape(np.shape(temperature_c))


def invert_array(letter: str, emf_mv: Array) -> Array:
    """Temperatures in °C for EMF values in mV already known to be in range; same shape."""
    flat = np.ascontiguousarray(emf_mv, dtype=np.float64).ravel()
    out = np.empty_like(flat)
    _invert(*_compiled(letter), *_table(letter), flat, out)
    return out.reshape(np.shape(emf_mv))
