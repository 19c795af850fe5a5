"""What a controller is set to: the settings the simulator, the proposals and the stand-in device share."""

from dataclasses import dataclass, field
from enum import StrEnum

from ..errors import Problem, refuse_all
from .pid import PID

FULL_OUTPUT = 100
"""Full output, %."""
LONGEST_CLIMB_S = 48 * 3600.0
"""How long a ramp of the set-point is followed at the most, s (our choice)."""


def climb_s(by_c: float, ramp_c_per_s: float) -> float:
    """How long a set-point takes to move by ``by_c`` along its ramp, s: 0 without one, and no longer than is followed."""
    return min(abs(by_c) / ramp_c_per_s, LONGEST_CLIMB_S) if ramp_c_per_s else 0.0


class Mode(StrEnum):
    """Control mode. ``manual`` holds ``manual_output``; ``off`` keeps the output at 0 %."""

    OFF = "off"
    ON_OFF = "on_off"
    PID = "pid"
    MANUAL = "manual"


class HysteresisSchool(StrEnum):
    """One-sided: off at the set-point, on again H below. Centred: off at +H/2, on at −H/2."""

    ONE_SIDED = "one_sided"
    CENTRED = "centred"


class AntiWindup(StrEnum):
    """What the integral does while the output is at its limit. Stops: it does not move further out. Tracks: it is drawn back to what the
    output really gives (back-calculation). Limits: it goes on, as far as the output's own limits."""

    STOPS = "stops"
    TRACKS = "tracks"
    LIMITS = "limits"


@dataclass(frozen=True)
class CoolingBand:
    """When a cooler beside the heater is on, °C: from ``above_c`` above the set-point until ``hysteresis_c`` below that. Between the
    set-point and where it goes off neither acts. A compressor stays off, and on, at least ``rest_s`` and ``run_s``; it begins as just
    stopped."""

    above_c: float
    hysteresis_c: float
    rest_s: float = 0.0
    run_s: float = 0.0

    def __post_init__(self) -> None:
        problems = []
        if not (self.rest_s >= 0 and self.run_s >= 0):
            problems.append(Problem("minimum_off_s", "cannot be negative", "0 s or more"))
        if not self.above_c >= 0:
            problems.append(Problem("cool_above_c", "it would cool what is still too cold", "{0 Δ°C} or more"))
        if not self.hysteresis_c >= 0:
            problems.append(Problem("cool_hysteresis_c", "cannot be negative", "{0 Δ°C} or more"))
        refuse_all(problems)

    @property
    def off_above_c(self) -> float:
        """Where it goes off, °C above the set-point."""
        return self.above_c - self.hysteresis_c


@dataclass(frozen=True)
class InnerLoop:
    """A loop round a second sensor at the heater, that the one round the rig's own asks: ``gain`` in % for each °C, ``low_c`` to ``high_c``
    is what 0 to 100 % of the other ask of it. The heater is asked for no more than ``high_c``."""

    gain: float
    integral_time_s: float
    low_c: float
    high_c: float

    def __post_init__(self) -> None:
        problems = []
        if not self.gain > 0:
            problems.append(Problem("inner_band_c", "must be more than zero", "> {0 Δ°C}"))
        if not self.integral_time_s >= 0:
            problems.append(Problem("inner_integral_s", "cannot be negative", "0 s (none) or more"))
        if not self.low_c < self.high_c:
            problems.append(
                Problem(
                    "inner_high_c", "what is asked for at full output lies above what is at none", "above the low end"
                )
            )
        refuse_all(problems)

    @property
    def span_c(self) -> float:
        """From nothing asked to all, °C."""
        return self.high_c - self.low_c

    @property
    def band_c(self) -> float:
        """Its proportional band, °C."""
        return FULL_OUTPUT / self.gain


@dataclass(frozen=True)
class ControllerSettings:
    """Settings in °C, s and %. ``period_s`` 0 means a continuous output instead of a time-proportioned one. ``cools``: more output when
    too warm. ``integrates_within_c``: farther from the set-point the integral stands still (0: it never does). ``rest_s``, ``run_s``: a
    compressor stays off, and on, at least so long; it begins as just stopped. ``alive_after_s``, ``alive_s``: a fire that was off for so
    long (0: never mind) gets a breath of its fan so long. ``ramp_c_per_s``: what it works towards moves to the set-point no
    faster (0: it is there at once), and begins at the reading where control begins. ``cooling``: of a cooler beside the heater.
    ``soft_start_s``: after power comes on PID is let up to its highest output over so long. ``inner``: PID asks a loop at the heater
    instead of giving an output."""

    setpoint_c: float
    mode: Mode = Mode.ON_OFF
    hysteresis_c: float = 1.0
    hysteresis_school: HysteresisSchool = HysteresisSchool.ONE_SIDED
    pid: PID = field(default_factory=lambda: PID(gain=5.0, integral_time_s=300.0))
    period_s: float = 20.0
    minimum_on_s: float = 0.0
    output_low: float = 0.0
    output_high: float = 100.0
    manual_output: float = 0.0
    sample_s: float = 0.25
    offset_c: float = 0.0
    cools: bool = False
    anti_windup: AntiWindup = AntiWindup.STOPS
    integrates_within_c: float = 0.0
    rest_s: float = 0.0
    run_s: float = 0.0
    alive_after_s: float = 0.0
    alive_s: float = 0.0
    ramp_c_per_s: float = 0.0
    cooling: CoolingBand | None = None
    soft_start_s: float = 0.0
    inner: InnerLoop | None = None

    def __post_init__(self) -> None:
        problems = []
        if not self.hysteresis_c >= 0:
            problems.append(Problem("hysteresis_c", "cannot be negative", "{0 Δ°C} or more"))
        if not 0 <= self.output_low < self.output_high <= FULL_OUTPUT:
            problems.append(Problem("output_high", "output limits must rise within 0…100 %", "0 ≤ low < high ≤ 100"))
        if not self.integrates_within_c >= 0:
            problems.append(Problem("integrates_within_c", "cannot be negative", "{0 Δ°C} (everywhere) or more"))
        if not self.period_s >= 0:
            problems.append(Problem("period_s", "cannot be negative", "0 s (continuous) or more"))
        if not (self.rest_s >= 0 and self.run_s >= 0):
            problems.append(Problem("rest_s", "cannot be negative", "0 s or more"))
        if not (self.alive_after_s >= 0 and self.alive_s >= 0):
            problems.append(Problem("alive_after_s", "cannot be negative", "0 s or more"))
        if not self.ramp_c_per_s >= 0:
            problems.append(Problem("ramp_c_per_s", "cannot be negative", "{0 °C/min} (at once) or more"))
        if not self.soft_start_s >= 0:
            problems.append(Problem("soft_start_s", "cannot be negative", "0 s (at once) or more"))
        if not self.sample_s > 0:
            problems.append(Problem("sample_s", "must be more than zero", "> 0 s"))
        if self.inner is not None and self.cools:
            problems.append(Problem("inner_band_c", "a compressor has no loop at a heater", "none"))
        refuse_all(problems)

    @property
    def in_cascade(self) -> bool:
        """Whether two loops are at work."""
        return self.inner is not None and self.mode is Mode.PID

    @property
    def switch_off_offset(self) -> float:
        """Where it switches off, °C beyond the set-point: above it when heating, below it when cooling."""
        return self.hysteresis_c / 2 if self.hysteresis_school is HysteresisSchool.CENTRED else 0.0

    @property
    def switch_on_offset(self) -> float:
        """Where it switches on, °C beyond the set-point (negative: short of it)."""
        return self.switch_off_offset - self.hysteresis_c
