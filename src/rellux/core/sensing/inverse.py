"""Compiled evaluation of the reference functions and their inverse.

Each type is laid out once as flat arrays. The inverse starts from a table of equally spaced EMF values (found by
bisection) and refines with Newton steps; because a step may leave the bracket where the curve is flat (the cold ends,
the bottom of type B), every step is kept inside the bracket of its table cell. Newton converges quadratically with a
factor below 1/K for every type, so after a step under 1 mK the answer is good to about 1 µK. Numerically hard places:
type B just above 42 °C and the last kelvins above −270 °C, where 1 mK is a few nanovolts.
"""

from functools import cache
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .thermocouple_data import SEGMENTS

Array = NDArray[np.float64]

CELLS = 4096
TYPE_B_ROOT_C = 42.13


class Compiled(NamedTuple):
    """A reference function as flat arrays: segment bounds (n+1), coefficients (n, 15) and exponentials (n, 3)."""

    bounds: Array
    coefficients: Array
    derivatives: Array
    exponentials: Array


class InverseTable(NamedTuple):
    """Temperatures in °C at ``CELLS + 1`` equally spaced EMF values starting at ``start`` mV."""

    start: float
    step: float
    temperatures: Array


@njit(cache=True)
def _value_and_slope(bounds, coefficients, derivatives, exponentials, t):
    segment = 0
    while segment < len(bounds) - 2 and t > bounds[segment + 1]:
        segment += 1
    value = 0.0
    for i in range(coefficients.shape[1] - 1, -1, -1):
        value = value * t + coefficients[segment, i]
    slope = 0.0
    for i in range(derivatives.shape[1] - 1, -1, -1):
        slope = slope * t + derivatives[segment, i]
    a0 = exponentials[segment, 0]
    if a0 != 0.0:
        a1 = exponentials[segment, 1]
        away = t - exponentials[segment, 2]
        term = a0 * np.exp(a1 * away * away)
        value += term
        slope += 2.0 * a1 * away * term
    return value, slope


@njit(cache=True)
def _emf(bounds, coefficients, derivatives, exponentials, temperatures, out):
    for i in range(temperatures.size):
        out[i] = _value_and_slope(bounds, coefficients, derivatives, exponentials, temperatures[i])[0]


@njit(cache=True)
def _solve(bounds, coefficients, derivatives, exponentials, e, low, high, guess):
    t = guess
    for _ in range(60):
        value, slope = _value_and_slope(bounds, coefficients, derivatives, exponentials, t)
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


@njit(cache=True)
def _invert(bounds, coefficients, derivatives, exponentials, start, step, table, emf, out):
    last = len(table) - 2
    for i in range(emf.size):
        place = (emf[i] - start) / step
        cell = min(max(int(place), 0), last)
        low = table[cell]
        high = table[cell + 1]
        guess = low + (place - cell) * (high - low)
        out[i] = _solve(bounds, coefficients, derivatives, exponentials, emf[i], low - 1e-4, high + 1e-4, guess)


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
    derivatives = coefficients[:, 1:] * np.arange(1, width)
    bounds = np.array([segments[0].low, *(s.high for s in segments)])
    return Compiled(bounds, coefficients, derivatives, exponentials)


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
