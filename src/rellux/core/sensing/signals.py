"""Scaled signals: 4–20 mA, 0–20 mA, 0–10 V, 1–5 V, both ways, with the fault bands of NAMUR NE 43.

NE 43 (for 4–20 mA): up to 3.6 and from 21.0 mA is a fault, 3.8 to 20.5 mA is measurement, between is saturated. A live-zero
voltage signal (1–5 V over 250 Ω) has the same bands in proportion.
"""

from dataclasses import dataclass
from enum import StrEnum

from ..errors import refuse
from ..messages import temperature

FAULT_MA, MEASURED_MA = (3.6, 21.0), (3.8, 20.5)
"""Beyond the first a fault is signalled, within the second a measurement, mA (NAMUR NE 43)."""


class SignalVerdict(StrEnum):
    """What a signal of a live-zero transmitter says."""

    MEASURED = "measured"
    SATURATED = "saturated"
    FAULT = "fault"


@dataclass(frozen=True)
class Signal:
    """``low`` and ``high`` in mA or V; ``live_zero``: a broken wire can be told from zero."""

    name: str
    low: float
    high: float
    unit: str
    live_zero: bool


SIGNALS = {
    "4-20": Signal("4–20 mA", 4, 20, "mA", True),
    "0-20": Signal("0–20 mA", 0, 20, "mA", False),
    "0-10": Signal("0–10 V", 0, 10, "V", False),
    "1-5": Signal("1–5 V", 1, 5, "V", True),
    "0-5": Signal("0–5 V", 0, 5, "V", False),
}


def reading(signal: Signal, value: float, low_c: float, high_c: float) -> float:
    """°C shown for a signal ``value``; straight beyond the ends too."""
    _span(low_c, high_c)
    return low_c + (value - signal.low) / (signal.high - signal.low) * (high_c - low_c)


def value(signal: Signal, celsius: float, low_c: float, high_c: float) -> float:
    """Signal in mA or V for ``celsius``."""
    _span(low_c, high_c)
    return signal.low + (celsius - low_c) / (high_c - low_c) * (signal.high - signal.low)


def judge(signal: Signal, at: float) -> SignalVerdict:
    """Measurement, saturation or fault by NE 43; a signal without live zero is only ever measured or saturated."""
    if not signal.live_zero:
        return SignalVerdict.MEASURED if signal.low <= at <= signal.high else SignalVerdict.SATURATED
    milliamps = 4.0 + (at - signal.low) / (signal.high - signal.low) * 16.0
    if milliamps <= FAULT_MA[0] or milliamps >= FAULT_MA[1]:
        return SignalVerdict.FAULT
    return SignalVerdict.MEASURED if MEASURED_MA[0] <= milliamps <= MEASURED_MA[1] else SignalVerdict.SATURATED


def _span(low_c: float, high_c: float) -> None:
    if high_c == low_c:
        raise refuse("high_c", "the span is nothing: both ends are the same", f"other than {temperature(low_c)}")
