"""A second sensor at the heater, round which an inner loop holds what the rig's own loop asks: two loops in a row (a cascade)."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..errors import Problem
from ..messages import difference, span, temperature

SPARE_C = 20.0
"""A heater's sensor that holds nearer to its limit leaves nothing to control with, °C (our choice)."""
HOTTER_C = (2.0, 1000.0)
"""How much hotter than the rig a heater is while that is held, °C (our choice: less is not told from its errors)."""
LAG_S = (1.0, 5000.0)
"""How slowly a heater comes down to what it heats, s (our choice)."""


@dataclass(frozen=True)
class HeaterSensor:
    """``most_c``: what it may show at the most. While the rig holds its working temperature it is ``hotter_c`` above that; heat off, it
    comes down to it with ``lag_s``. ``None``: as rigs of the kind have it."""

    most_c: float
    hotter_c: float | None = None
    lag_s: float | None = None


def heater_sensor_problems(sensor: HeaterSensor, working_c: float, hottest_c: float) -> Iterator[Problem]:
    """What of it cannot be; no sensor reads higher than ``hottest_c``."""
    if sensor.hotter_c is not None and not HOTTER_C[0] <= sensor.hotter_c <= HOTTER_C[1]:
        reason = f"no heater holds a rig by being {difference(sensor.hotter_c)} hotter"
        yield Problem("heater_sensor.hotter_c", reason, f"{{{HOTTER_C[0]:g} Δ°C}} to {{{HOTTER_C[1]:g} Δ°C}}")
    if sensor.lag_s is not None and not LAG_S[0] <= sensor.lag_s <= LAG_S[1]:
        yield Problem("heater_sensor.lag_s", "no heater follows so", span(*LAG_S, "s"))
    least = holds_c(sensor, working_c) + SPARE_C
    if not sensor.most_c <= hottest_c:
        accepted = f"{temperature(least, '.0f')} to {temperature(hottest_c)}"
        yield Problem("heater_sensor.most_c", "no sensor here reads so high", accepted)
    elif sensor.most_c < least:
        yield Problem("heater_sensor.most_c", *too_low(working_c, least))


def holds_c(sensor: HeaterSensor, working_c: float) -> float:
    """What it shows at work, as far as that was said, °C."""
    return working_c + (sensor.hotter_c or 0.0)


def too_low(working_c: float, least_c: float) -> tuple[str, str]:
    """Why a limit below ``least_c`` will not do, and what will."""
    reason = (
        f"to hold {temperature(working_c)} the heater’s sensor shows {temperature(least_c - SPARE_C, '.0f')} already, and something must "
        "be left to control with"
    )
    return reason, f"{temperature(least_c, '.0f')} or more"
