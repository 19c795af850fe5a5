"""What a display is compared with, and what each reference is worth at a temperature.

Values from memory of the trade and of makers' sheets (common practice, no source) except where a formula is given; a certificate
overrules every one of them.
"""

from dataclasses import dataclass
from math import sqrt

from ..messages import difference
from ..sensing.tolerances import permitted

STRIP_STEP_C, STRIP_SHARE = 5.0, 0.01
"""Marks of a usual temperature strip, °C apart, and its maker's accuracy."""
ICE_U_C, ICE_WITHIN_C = 0.03, 5.0
"""Crushed, drained, stirred ice: ± 0.05 °C; of use for displays near 0 °C only."""
BOILING_U_C, BOILING_C, BOILING_WITHIN_C = 0.1, 100.0, 10.0
"""Boiling water at the pressure measured on the spot, probe in the steam."""
BLOCK_U_C, BLOCK_SHARE = 0.2, 0.001
"""A dry block with the probe ten diameters deep."""
INFRARED_U_C, INFRARED_SHARE = 1.5, 0.02
"""A non-contact thermometer on a surface whose emissivity is known to a few per cent."""


@dataclass(frozen=True)
class Reference:
    """Something to compare with; ``u_c`` its standard uncertainty in °C, ``None`` where only its certificate says."""

    key: str
    title: str
    u_c: float | None
    why: str


def references(celsius: float) -> tuple[Reference, ...]:
    """What a display can be compared with at ``celsius``, the best first."""
    found = [Reference("certificate", "Thermometer with a certificate", None, "Half of the U on its certificate.")]
    if abs(celsius) <= ICE_WITHIN_C:
        found.append(
            Reference(
                "ice", "Ice bath", ICE_U_C, "Crushed, drained and stirred; cubes in a glass are half a degree warm."
            )
        )
    if abs(celsius - BOILING_C) <= BOILING_WITHIN_C:
        found.append(
            Reference(
                "boiling",
                "Boiling water",
                BOILING_U_C,
                "At the pressure of this place: {0.33 Δ°C} for each hundred metres.",
            )
        )
    block = sqrt(BLOCK_U_C**2 + (BLOCK_SHARE * celsius) ** 2)
    found.append(Reference("block", "Dry block", block, "Ten diameters deep."))
    probe = permitted("K", "IEC class 1", celsius)
    if probe is not None:
        found.append(
            Reference(
                "probe",
                "Second probe, class 1",
                probe / sqrt(3),
                f"Its class, {difference(probe, '.2g')}, over √3 (IEC 60584-1).",
            )
        )
    strip = sqrt(STRIP_STEP_C**2 / 12 + (STRIP_SHARE * celsius) ** 2 / 3)
    found.append(
        Reference(
            "strip",
            "Temperature strip",
            strip,
            f"Steps of {difference(STRIP_STEP_C)} over √12, and its maker's 1 % over √3; it keeps the peak.",
        )
    )
    infrared = sqrt(INFRARED_U_C**2 + (INFRARED_SHARE * celsius) ** 2) / sqrt(3)
    found.append(
        Reference(
            "infrared", "Infrared thermometer", infrared, "Emissivity known to a few per cent, no hot element in sight."
        )
    )
    return tuple(found)
