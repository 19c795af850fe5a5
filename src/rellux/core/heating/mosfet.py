"""Loss of a transistor that switches a DC load: conduction and switching, steady state.

``P = I² R_on D + ½ V I (t_r + t_f) f`` with ``t ≈ Q_g / I_g``; textbook hard-switching estimate for a resistive load.
"""

from dataclasses import dataclass

from ..errors import refuse

UNFELT_HZ, UNHEARD_HZ = 10.0, 25.0
"""PWM from which on hardly any heated mass follows the pulses, and up to which nothing is heard, Hz (common practice, no source)."""
HOT_RESISTANCE = 1.7
"""On-resistance at 125 °C over that at 25 °C, typical of silicon."""


@dataclass(frozen=True)
class Transistor:
    """On-resistance in Ω at 25 °C, gate charge in C, gate current in A, thermal resistance junction to air in K/W."""

    on_ohm: float
    gate_charge_c: float
    gate_current_a: float
    to_air: float
    junction_max_c: float = 150.0


@dataclass(frozen=True)
class Loss:
    """W in the transistor: while on, and in the edges; junction in °C."""

    conduction_w: float
    switching_w: float
    junction_c: float

    @property
    def total_w(self) -> float:
        return self.conduction_w + self.switching_w


def edge_s(transistor: Transistor) -> float:
    """Duration of one edge in s."""
    return transistor.gate_charge_c / transistor.gate_current_a


def loss(
    transistor: Transistor, current_a: float, voltage_v: float, duty: float, frequency_hz: float, ambient_c: float
) -> Loss:
    """Loss at full-on current ``current_a`` and ``duty`` 0…1; full heat assumed for the on-resistance (safe side).

    At full duty nothing switches. Raises ``Refused`` outside.
    """
    if not 0 <= duty <= 1:
        raise refuse("duty", "a share of the period", "0…1")
    if frequency_hz < 0 or min(current_a, voltage_v) <= 0:
        raise refuse("frequency_hz", "must not be negative", ">= 0")
    conduction = current_a**2 * transistor.on_ohm * HOT_RESISTANCE * duty
    switching = 0.0 if duty in (0.0, 1.0) else 0.5 * voltage_v * current_a * 2.0 * edge_s(transistor) * frequency_hz
    return Loss(conduction, switching, ambient_c + (conduction + switching) * transistor.to_air)
