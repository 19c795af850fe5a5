"""The input by itself, fed by a decade box or a millivolt source in place of the sensor: what of an error is the instrument's, and what is
left for the sensor."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import hypot, inf, sqrt

import numpy as np
from numpy.typing import NDArray

from ..errors import Problem, refuse, refuse_all
from ..explain import Figure, Input
from ..messages import difference, span, temperature
from ..sensing import feed_table, resistance
from ..sensing.feed_table import Lead
from ..sensing.sensors import NOMINAL_OHM, NTC, is_thermocouple
from ..sensing.thermocouples import emf, emf_range, seebeck
from ..sensing.thermocouples import temperature as from_emf
from ..units import ABSOLUTE_ZERO_C, Kind
from .certificates import HOTTEST_C, NEARBY_C
from .corrections import Correction
from .coverage import coverage_factor

MOST_FED = 20
"""Values fed at once (our choice)."""
SLOPE_C = 0.5
"""Half the step a slope is taken over, °C."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Fed:
    """What was fed (mV, Ω, or °C into a simulator) and what the display showed, °C."""

    feed: float
    display_c: float


@dataclass(frozen=True)
class Source:
    """How it is joined; the temperature of the instrument's terminals, or of the source's where extension wire joins them, ± ``known_c``;
    how far what it feeds may be off, ± in its own unit."""

    lead: Lead = Lead.COPPER
    junction_c: float = 25.0
    known_c: float = 1.0
    accuracy: float = 0.01


@dataclass(frozen=True)
class InputPoint:
    """``means_c``: the temperature that what was fed stands for; ``error``: what the input shows too much there."""

    feed: float
    means_c: float
    error: Figure


@dataclass(frozen=True)
class InputAlone:
    """``at_work``: the input's error at the working temperature, ``None`` where nothing was fed near it; ``sensor``: what is left of the
    last comparison's error for the sensor, its wires and its place. All with 95.45 % either side."""

    unit: str
    points: tuple[InputPoint, ...]
    at_work: Figure | None
    sensor: Figure | None
    says: str


@dataclass(frozen=True)
class Whole:
    """What sensor and input together show too much without any correction near the working temperature, ± expanded, °C."""

    error_c: float
    expanded_c: float


def input_alone(
    sensor: str,
    fed: tuple[Fed, ...],
    source: Source,
    in_force: Correction,
    digit_c: float,
    working_c: float,
    whole: Whole | None,
) -> InputAlone:
    """From what was fed and shown; ``whole`` of the last comparison, where there is one. Raises ``Refused`` for nothing fed, what no
    sensor of the type gives, and a thermistor, whose table is its maker's."""
    _check(sensor, fed, source, digit_c)
    points = tuple(sorted((_point(sensor, f, source, in_force, digit_c) for f in fed), key=lambda p: p.means_c))
    at_work = _at_work(points, working_c)
    left = _left(at_work, whole) if at_work and whole else None
    return InputAlone(unit_of(sensor, source.lead), points, at_work, left, _says(at_work, left, whole, working_c))


def unit_of(sensor: str, lead: Lead) -> str:
    """In which what is fed is counted: mV or Ω, or °C into a simulator."""
    if not is_thermocouple(sensor):
        return "Ω"
    return "°C" if lead is Lead.SIMULATOR else "mV"


def _means(sensor: str, feed: float, source: Source) -> tuple[float, float]:
    """The temperature it stands for, and its half-width for what the source and the junction may be off by, combined as standard
    uncertainty, °C."""
    if not is_thermocouple(sensor):
        own = NOMINAL_OHM[sensor]
        at = float(resistance.temperature(feed, own))
        low, high = (float(np.clip(at + by, *resistance.RANGE_C)) for by in (-SLOPE_C, SLOPE_C))
        slope = float(resistance.resistance(high, own) - resistance.resistance(low, own)) / (high - low)
        return at, source.accuracy / slope / sqrt(3.0)
    if source.lead is Lead.SIMULATOR:
        return feed, source.accuracy / sqrt(3.0)
    at = float(from_emf(sensor, feed + float(emf(sensor, source.junction_c))))
    slope = seebeck(sensor, at)
    junction = source.known_c * seebeck(sensor, source.junction_c) / slope
    return at, hypot(source.accuracy / slope, junction) / sqrt(3.0)


def _point(sensor: str, fed: Fed, source: Source, in_force: Correction, digit_c: float) -> InputPoint:
    means, u = _means(sensor, fed.feed, source)
    raw = in_force.raw(fed.display_c)
    half = coverage_factor(inf) * hypot(u, digit_c / sqrt(12.0))
    inputs = (
        Input("display without its correction", raw, Kind.TEMPERATURE, "raw", "computed"),
        Input("what was fed stands for", means, Kind.TEMPERATURE, "T", "its table"),
    )
    return InputPoint(
        fed.feed,
        means,
        Figure(
            f"the input shows too much at {temperature(means, '.0f')}",
            raw - means,
            Kind.DIFFERENCE,
            formula="raw − T",
            inputs=inputs,
            reason="What the source, the junction and the digit may be off by is in its interval.",
            source="IEC 60584-1" if is_thermocouple(sensor) else "IEC 60751",
            low=raw - means - half,
            high=raw - means + half,
        ),
    )


def _at_work(points: tuple[InputPoint, ...], working_c: float) -> Figure | None:
    """Straight between the points on either side; the nearest one where all lie on one side and near."""
    at = np.array([p.means_c for p in points])
    if np.min(np.abs(at - working_c)) > NEARBY_C and not at[0] <= working_c <= at[-1]:
        return None
    error, half = (np.array(column) for column in zip(*((p.error.value, _half(p.error)) for p in points), strict=True))
    value, u = (float(np.interp(working_c, at, column)) for column in (error, half))
    return Figure(
        "the input, at the working temperature",
        value,
        Kind.DIFFERENCE,
        formula="straight between what was fed",
        inputs=(Input("working temperature", working_c, Kind.TEMPERATURE, "T", "purpose"),),
        reason="An input’s error changes little from one point to the next.",
        low=value - u,
        high=value + u,
    )


def _half(of: Figure) -> float:
    assert of.low is not None and of.high is not None
    return (of.high - of.low) / 2.0


def _left(at_work: Figure, whole: Whole) -> Figure:
    value, half = whole.error_c - at_work.value, hypot(whole.expanded_c, _half(at_work))
    return Figure(
        "sensor, wires and place",
        value,
        Kind.DIFFERENCE,
        formula="all − input",
        inputs=(
            Input("sensor and input together", whole.error_c, Kind.DIFFERENCE, "all", "the last comparison"),
            at_work.as_input("input"),
        ),
        reason="What the input does not show belongs to what was taken off it.",
        low=value - half,
        high=value + half,
    )


def _says(at_work: Figure | None, left: Figure | None, whole: Whole | None, working_c: float) -> str:
    if at_work is None:
        return f"Feed it what {temperature(working_c, '.0f')} stands for too: nothing was fed near the work."
    own = f"{difference(at_work.value, '+.2g')} ± {difference(_half(at_work), '.2g')}"
    seen = abs(at_work.value) > _half(at_work)
    mine = f"The input shows {own}" if seen else f"The input is right within {difference(_half(at_work), '.2g')}"
    if left is None or whole is None:
        return f"{mine}. Compare the display with a reference to tell the sensor’s share."
    rest = f"{difference(left.value, '+.2g')} ± {difference(_half(left), '.2g')}"
    if abs(left.value) > _half(left):
        return f"{mine}; {rest} is left for the sensor, its wires and its place."
    if abs(whole.error_c) <= whole.expanded_c:
        return f"{mine}, and nothing is left to explain."
    if seen:
        return f"{mine}, which explains all of {difference(whole.error_c, '+.2g')}: the sensor is not to blame."
    return (
        f"{mine}, and the sensor within {difference(_half(left), '.2g')}: what is left is between them, not told apart."
    )


def _check(sensor: str, fed: tuple[Fed, ...], source: Source, digit_c: float) -> None:
    if sensor == NTC:
        raise refuse(
            "sensor", "a thermistor’s table is its maker’s: what ohms stand for is not known here", "another sensor"
        )
    refuse_all(_problems(sensor, fed, source, digit_c))


def _problems(sensor: str, fed: tuple[Fed, ...], source: Source, digit_c: float) -> Iterator[Problem]:
    if not 1 <= len(fed) <= MOST_FED:
        yield Problem("fed", f"{len(fed)} values", f"1…{MOST_FED}")
    if not feed_table.COLDEST_C <= source.junction_c <= feed_table.HOTTEST_C:
        yield Problem(
            "source.junction_c", f"{temperature(source.junction_c)} is not a place for terminals", "{-40…100 °C}"
        )
        return
    for name in ("known_c", "accuracy"):
        if not 0.0 <= getattr(source, name) < inf:
            yield Problem(f"source.{name}", "cannot be less than nothing", "0 or more")
    if not 0.0 <= digit_c < inf:
        yield Problem("digit_c", "cannot be less than nothing", "{0 Δ°C} or more")
    low, high, unit = _fed_range(sensor, source)
    for i, f in enumerate(fed):
        if not low <= f.feed <= high:
            yield Problem(f"fed[{i}].feed", "stands for no temperature of this sensor", span(low, high, unit, ".4g"))
        if not ABSOLUTE_ZERO_C < f.display_c < HOTTEST_C:
            yield Problem(
                f"fed[{i}].display_c", f"{temperature(f.display_c)} is not a temperature here", "{-273…2000 °C}"
            )


def _fed_range(sensor: str, source: Source) -> tuple[float, float, str]:
    if not is_thermocouple(sensor):
        low, high = (float(r) for r in resistance.resistance(np.array(resistance.RANGE_C), NOMINAL_OHM[sensor]))
        return low, high, "Ω"
    volts = emf_range(sensor)
    if source.lead is Lead.SIMULATOR:
        low, high = (float(v) for v in from_emf(sensor, np.array([volts[0] + 1e-6, volts[1]])))
        return low, high, "°C"
    junction = float(emf(sensor, source.junction_c))
    return volts[0] + 1e-6 - junction, volts[1] - junction, "mV"
