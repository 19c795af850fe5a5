"""NTC thermistors: beta and Steinhart–Hart equations, fits from measured pairs, and the divider in front of an ADC.

Beta: ``1/T = 1/T₀ + ln(R/R₀)/B``. Steinhart–Hart: ``1/T = a + b ln R + c (ln R)³`` (Steinhart & Hart, Deep-Sea Research
15, 1968). T in kelvin inside; everything public is in °C and Ω.
"""

from dataclasses import dataclass
from math import log

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..errors import Problem, refuse, refuse_all
from ..messages import quantity, span, temperature
from ..units import ABSOLUTE_ZERO_C

COLDEST_C, HOTTEST_C = -100.0, 400.0
"""Where thermistors work, °C (data sheets, from memory)."""

Array = NDArray[np.float64]
ZERO_K = -ABSOLUTE_ZERO_C


@dataclass(frozen=True)
class Beta:
    """``r0`` Ω at ``t0_c`` °C, and B in kelvin; good to a degree or so over 50 °C."""

    r0: float
    beta: float
    t0_c: float = 25.0

    def temperature(self, ohms: ArrayLike) -> Array:
        inverse = 1.0 / (self.t0_c + ZERO_K) + np.log(np.asarray(ohms, dtype=np.float64) / self.r0) / self.beta
        return np.asarray(1.0 / inverse - ZERO_K)

    def resistance(self, celsius: ArrayLike) -> Array:
        kelvin = np.asarray(celsius, dtype=np.float64) + ZERO_K
        return np.asarray(self.r0 * np.exp(self.beta * (1.0 / kelvin - 1.0 / (self.t0_c + ZERO_K))))


@dataclass(frozen=True)
class SteinhartHart:
    """The three coefficients; good to hundredths over 100 °C where fitted well."""

    a: float
    b: float
    c: float

    def temperature(self, ohms: ArrayLike) -> Array:
        x = np.log(np.asarray(ohms, dtype=np.float64))
        return np.asarray(1.0 / (self.a + self.b * x + self.c * x**3) - ZERO_K)

    def resistance(self, celsius: ArrayLike) -> Array:
        """The real root of the cubic in ln R; for c = 0 the line."""
        y = self.a - 1.0 / (np.asarray(celsius, dtype=np.float64) + ZERO_K)
        if self.c == 0.0:
            return np.asarray(np.exp(-y / self.b))
        p, q = self.b / self.c, y / self.c
        root = np.sqrt((q / 2.0) ** 2 + (p / 3.0) ** 3)
        return np.asarray(np.exp(np.cbrt(root - q / 2.0) - np.cbrt(root + q / 2.0)))


@dataclass(frozen=True)
class Fitted:
    """A fit to measured pairs, with what it leaves at each of them in °C."""

    curve: SteinhartHart
    beta: Beta
    residuals_c: tuple[float, ...]
    worst_c: float


def fit(pairs: tuple[tuple[float, float], ...]) -> Fitted:
    """Steinhart–Hart through (ohms, °C) pairs: exact for three, least squares in 1/T for more; and the beta between the
    coldest and the hottest. Raises ``Refused`` for fewer than three, or resistances that do not fall with temperature."""
    problems = []
    if len(pairs) < 3:
        problems.append(Problem("pairs", f"{len(pairs)} pairs", "at least three, spread over the range you need"))
    for i, (r, t) in enumerate(pairs):
        if not r > 0:
            problems.append(Problem(f"pairs[{i}].ohms", quantity(r, "Ω"), "more than 0 Ω"))
        if not COLDEST_C <= t <= HOTTEST_C:
            problems.append(
                Problem(f"pairs[{i}].celsius", f"{temperature(t)} is not where thermistors work", "{-100…400 °C}")
            )
    refuse_all(problems)
    ordered = sorted(pairs, key=lambda p: p[1])
    ohms = np.array([p[0] for p in ordered])
    celsius = np.array([p[1] for p in ordered])
    if not (np.all(np.diff(ohms) < 0) and np.all(np.diff(celsius) > 0)):
        raise refuse(
            "pairs", "the resistance does not fall from each temperature to the next", "an NTC's pairs, each once"
        )
    x = np.log(ohms)
    basis = np.column_stack((np.ones_like(x), x, x**3))
    coefficients, *_ = np.linalg.lstsq(basis, 1.0 / (celsius + ZERO_K), rcond=None)
    if (
        coefficients[1] <= 0.0 or coefficients[2] <= 0.0
    ):  # no thermistor bends that way: the pairs carry only two coefficients
        two, *_ = np.linalg.lstsq(basis[:, :2], 1.0 / (celsius + ZERO_K), rcond=None)
        coefficients = np.array([*two, 0.0])
    curve = SteinhartHart(*(float(v) for v in coefficients))
    residuals = curve.temperature(ohms) - celsius
    cold, hot = ordered[0], ordered[-1]
    beta = log(cold[0] / hot[0]) / (1.0 / (cold[1] + ZERO_K) - 1.0 / (hot[1] + ZERO_K))
    around = curve.resistance(25.0)
    return Fitted(
        curve, Beta(float(around), beta), tuple(float(r) for r in residuals), float(np.max(np.abs(residuals)))
    )


@dataclass(frozen=True)
class Divider:
    """A fixed resistor to the supply, the thermistor to ground, read by an ADC of ``bits`` over the same supply."""

    series_ohm: float
    bits: int = 10
    supply_v: float = 3.3

    def __post_init__(self) -> None:
        limits = (("series_ohm", 1, 1e7, "Ω"), ("bits", 6, 24, ""), ("supply_v", 0.5, 30, "V"))
        refuse_all(
            Problem(name, f"{quantity(getattr(self, name), unit)} is not a divider for this", span(low, high, unit))
            for name, low, high, unit in limits
            if not low <= getattr(self, name) <= high
        )

    @property
    def full_scale(self) -> int:
        return int(2**self.bits - 1)

    def counts(self, ohms: ArrayLike) -> Array:
        r = np.asarray(ohms, dtype=np.float64)
        return np.asarray(np.round(self.full_scale * r / (r + self.series_ohm)))

    def ohms(self, counts: ArrayLike) -> Array:
        """Resistance from counts. Raises ``Refused`` at the rails: an open or shorted thermistor."""
        n = np.asarray(counts, dtype=np.float64)
        if bool(np.any(n <= 0)):
            raise refuse("counts", "0 counts: the thermistor is shorted", f"1…{self.full_scale - 1}")
        if bool(np.any(n >= self.full_scale)):
            raise refuse("counts", f"{self.full_scale} counts: the thermistor is open", f"1…{self.full_scale - 1}")
        return np.asarray(self.series_ohm * n / (self.full_scale - n))

    def degrees_per_count(self, curve: Beta | SteinhartHart, celsius: ArrayLike) -> Array:
        """How many °C one count is worth at each temperature (small is good)."""
        t = np.asarray(celsius, dtype=np.float64)
        slope = (curve.resistance(t + 0.05) - curve.resistance(t - 0.05)) / 0.1
        r = curve.resistance(t)
        counts_per_ohm = self.full_scale * self.series_ohm / (r + self.series_ohm) ** 2
        return np.asarray(1.0 / np.abs(slope * counts_per_ohm))

    def self_heating(self, curve: Beta | SteinhartHart, celsius: ArrayLike, mw_per_k: float) -> Array:
        """Rise in °C by the divider's own current: V_T²/R over the dissipation constant in mW/K."""
        if not mw_per_k > 0:
            raise refuse("mw_per_k", "must be more than zero", "0.05…100 mW/K")
        r = curve.resistance(celsius)
        volts = self.supply_v * r / (r + self.series_ohm)
        return np.asarray(1000.0 * volts**2 / r / mw_per_k)


def best_series_resistor(curve: Beta | SteinhartHart, low_c: float, high_c: float) -> float:
    """The fixed resistor in Ω that makes the coarsest count between two temperatures as fine as possible.
    Raises ``Refused`` for a span in which none works.

    Searched on a logarithmic grid 2 % fine: a count is worth (R + R_s)² / (R_s |dR/dT|), flat near its best.
    """
    if not COLDEST_C <= low_c < high_c <= HOTTEST_C:
        raise refuse("high_c", "that is no rising span in which thermistors work", "{-100…400 °C}, rising")
    ends = curve.resistance(np.array([low_c, high_c]))
    trial = np.geomspace(float(ends.min()) / 3.0, float(ends.max()) * 3.0, 400)
    worst = [
        float(np.max(Divider(float(rs), 16).degrees_per_count(curve, np.linspace(low_c, high_c, 41)))) for rs in trial
    ]
    return float(trial[int(np.argmin(worst))])
