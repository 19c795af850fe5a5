"""Ampacities and standard sizes of the two schools, copper. All values from memory of the codes.

NEC: table 310.16 (60 °C column, which governs up to 100 A unless terminals are marked 75 °C), small-conductor rule
240.4(D), standard ratings 240.6. IEC: flexible cords as in the British and IEC tables, standard ratings of IEC 60898.
Guidance only: the local code and a licensed person overrule.
"""

from dataclasses import dataclass
from enum import StrEnum


class Practice(StrEnum):
    """Which school sizes conductors and breakers."""

    IEC = "iec"
    NEC = "nec"


@dataclass(frozen=True)
class Conductor:
    """A copper conductor: the trade's label, cross-section in mm² and current in A it may carry."""

    label: str
    area_mm2: float
    ampacity: float


IEC_CORDS = (
    Conductor("0.5 mm²", 0.5, 3),
    Conductor("0.75 mm²", 0.75, 6),
    Conductor("1.0 mm²", 1.0, 10),
    Conductor("1.25 mm²", 1.25, 13),
    Conductor("1.5 mm²", 1.5, 16),
    Conductor("2.5 mm²", 2.5, 25),
    Conductor("4 mm²", 4.0, 32),
)

# Ampacity already limited by the small-conductor rule for 14, 12 and 10 AWG.
NEC_CONDUCTORS = (
    Conductor("14 AWG", 2.08, 15),
    Conductor("12 AWG", 3.31, 20),
    Conductor("10 AWG", 5.26, 30),
    Conductor("8 AWG", 8.37, 40),
    Conductor("6 AWG", 13.3, 55),
    Conductor("4 AWG", 21.2, 70),
)

IEC_BREAKERS = (6, 10, 13, 16, 20, 25, 32, 40, 50, 63)
NEC_BREAKERS = (15, 20, 25, 30, 35, 40, 45, 50, 60)

CONDUCTORS = {Practice.IEC: IEC_CORDS, Practice.NEC: NEC_CONDUCTORS}
BREAKERS = {Practice.IEC: IEC_BREAKERS, Practice.NEC: NEC_BREAKERS}
SOURCE = {
    Practice.IEC: "IEC 60364: I_b ≤ I_n ≤ I_z; flexible cord table, from memory; the local code overrules",
    Practice.NEC: "NEC 210.20, 210.19 and 240.6: 125 % of a continuous load; table 310.16, from memory; "
    "the local code overrules",
}
SCHOOL = {Practice.IEC: "IEC 60364 / British", Practice.NEC: "North American (NEC)"}
