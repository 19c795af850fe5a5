"""What a course uses: energy, what that costs by day and by night, and the highest power a meter for the quarter of an hour sees."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..errors import Problem, refuse_all
from ..units import J_PER_KWH
from .predict import Course

QUARTER_S = 900.0
HOURS = 24.0
DEAREST = 1e6
"""A price of a kWh beyond it is a slip in any currency (our choice)."""


@dataclass(frozen=True)
class Tariff:
    """Price of a kWh by day and by night; the night from and to hours of the clock."""

    day: float
    night: float
    night_from_h: float = 22.0
    night_to_h: float = 6.0


@dataclass(frozen=True)
class Use:
    """Energy in kWh, its price where prices are known, and the highest mean power over a quarter of an hour, W."""

    energy_kwh: float
    price: float | None
    peak_w: float


def check_prices(tariff: Tariff | None, **hours_h: float | None) -> None:
    """Raises ``Refused`` for prices that cannot be, and for hours of the clock, h, beyond a day."""
    refuse_all(_problems(tariff, hours_h))


def _problems(tariff: Tariff | None, hours_h: dict[str, float | None]) -> Iterator[Problem]:
    if tariff is not None:
        hours_h = {**hours_h, "tariff.night_from_h": tariff.night_from_h, "tariff.night_to_h": tariff.night_to_h}
        for name, price in (("day", tariff.day), ("night", tariff.night)):
            if not 0 <= price <= DEAREST:
                yield Problem(f"tariff.{name}", "no price of a kWh", f"0…{DEAREST:g}")
    for name, hour in hours_h.items():
        if hour is not None and not 0 <= hour <= HOURS:
            yield Problem(name, "a day has 24 hours", "0…24 h")


def use_of(c: Course, power_w: float, tariff: Tariff | None = None, begins_h: float = 0.0) -> Use:
    """What a course uses when it begins at ``begins_h`` of the clock."""
    step = np.diff(c.time_s, append=c.time_s[-1])
    kwh = step * c.output / 100.0 * power_w / J_PER_KWH
    price = None
    if tariff is not None:
        hour = (begins_h + c.time_s / 3600.0) % HOURS
        a, b = tariff.night_from_h, tariff.night_to_h
        night = (hour >= a) & (hour < b) if a <= b else (hour >= a) | (hour < b)
        price = float((kwh * np.where(night, tariff.night, tariff.day)).sum())
    used = np.concatenate(([0.0], np.cumsum(kwh)))
    edges = np.append(c.time_s, c.time_s[-1])
    later = np.interp(c.time_s + QUARTER_S, edges, used, right=used[-1])
    peak = float((later - used[:-1]).max()) * J_PER_KWH / QUARTER_S
    return Use(float(kwh.sum()), price, peak)
