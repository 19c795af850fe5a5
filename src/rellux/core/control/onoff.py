"""On/off control of a first-order process with dead time: peak, trough and period in closed form.

Exact for a pure FOPDT at any L/τ with continuous switching and constant load. A second lag (element, sensor) lets the
real swing come out 1.5…3 times smaller than these; use the simulator there.
"""

from dataclasses import dataclass
from math import exp, log

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference, quantity
from ..units import Kind
from .settings import ControllerSettings

SOURCE = "exact solution of the first-order response with dead time, switched at the thresholds"


@dataclass(frozen=True)
class FOPDT:
    """Process gain in °C per %, lag and dead time in s."""

    gain: float
    lag_s: float
    dead_time_s: float

    @property
    def full_power_rise_c(self) -> float:
        """Equilibrium rise above ambient at 100 %."""
        return 100.0 * self.gain


@dataclass(frozen=True)
class Cycle:
    """The steady on/off cycle. Temperatures are rises above ambient in °C, times in s, duty 0…1."""

    peak: float
    trough: float
    on_time_s: float
    off_time_s: float

    @property
    def period_s(self) -> float:
        return self.on_time_s + self.off_time_s

    @property
    def swing(self) -> float:
        return self.peak - self.trough

    @property
    def duty(self) -> float:
        return self.on_time_s / self.period_s


def cycle(process: FOPDT, switch_off: float, switch_on: float) -> Cycle:
    """The cycle for thresholds given as rises above ambient, ``0 < switch_on ≤ switch_off < full-power rise``."""
    full = process.full_power_rise_c
    if not 0 < switch_on <= switch_off < full:
        raise refuse(
            "setpoint_c",
            f"on/off cannot cycle between {difference(switch_on, '.1f')} and {difference(switch_off, '.1f')} above ambient: "
            f"full power reaches {difference(full, '.1f')}",
            f"thresholds between 0 and {difference(full, '.1f')} above ambient",
        )
    decay = exp(-process.dead_time_s / process.lag_s)
    peak = full - (full - switch_off) * decay
    trough = switch_on * decay
    on_time = process.dead_time_s + process.lag_s * log((full - trough) / (full - switch_off))
    off_time = process.dead_time_s + process.lag_s * log(peak / switch_on)
    return Cycle(peak, trough, on_time, off_time)


def predicted_swing(process: FOPDT, settings: ControllerSettings, ambient_c: float) -> tuple[Figure, Figure]:
    """Swing (°C) and period (s) that on/off control with these settings will show."""
    off = settings.setpoint_c + settings.switch_off_offset - ambient_c
    on = settings.setpoint_c + settings.switch_on_offset - ambient_c
    found = cycle(process, off, on)
    inputs = (
        Input("full-power rise", process.full_power_rise_c, Kind.DIFFERENCE, "ΔT₊", "identified"),
        Input("hysteresis", settings.hysteresis_c, Kind.DIFFERENCE, "H", "set-up"),
        Input("dead time", process.dead_time_s, Kind.TIME, "L", "identified"),
        Input("lag", process.lag_s, Kind.TIME, "τ", "identified"),
    )
    swing = Figure(
        "swing under on/off",
        found.swing,
        Kind.DIFFERENCE,
        formula="ΔT₊ (1 − e^(−L/τ)) + H e^(−L/τ)",
        inputs=inputs,
        reason="Peak to trough. Dead time alone makes it swing, even with no hysteresis. A second lag makes the real "
        "swing smaller.",
        source=SOURCE,
        symbol="swing",
    )
    period = Figure(
        "on/off period",
        found.period_s,
        Kind.TIME,
        formula="2L + τ ln[(ΔT₊ − trough)/(ΔT₊ − a)] + τ ln[peak/b]",
        inputs=inputs,
        reason=f"On for {quantity(found.on_time_s, 's', '.0f')}, off for {quantity(found.off_time_s, 's', '.0f')}.",
        source=SOURCE,
        symbol="T",
    )
    return swing, period
