"""Ampacities and standard sizes of the two schools, copper. All values from memory of the codes.

NEC: table 310.16 (60 °C column up to 1 AWG unless terminals are marked 75 °C, 75 °C column beyond: 110.14(C)), small-conductor rule
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


IEC_BREAKERS = (6, 10, 13, 16, 20, 25, 32, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400)
NEC_BREAKERS = (15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225, 250, 300, 350, 400)

# Ampacity in A of copper at 30 °C by size, for each way of laying it and temperature of its insulation.
# NEC table 310.16 (three conductors in a raceway) before the small-conductor rule, and 400.5(A) for cords.
NEC_310_16: dict[int, dict[str, float]] = {
    60: {
        "14 AWG": 15, "12 AWG": 20, "10 AWG": 30, "8 AWG": 40, "6 AWG": 55, "4 AWG": 70, "3 AWG": 85, "2 AWG": 95, "1 AWG": 110,
        "1/0 AWG": 125, "2/0 AWG": 145, "3/0 AWG": 165, "4/0 AWG": 195, "250 kcmil": 215, "300 kcmil": 240, "350 kcmil": 260,
        "400 kcmil": 280, "500 kcmil": 320, "600 kcmil": 350,
    },
    75: {
        "14 AWG": 20, "12 AWG": 25, "10 AWG": 35, "8 AWG": 50, "6 AWG": 65, "4 AWG": 85, "3 AWG": 100, "2 AWG": 115, "1 AWG": 130,
        "1/0 AWG": 150, "2/0 AWG": 175, "3/0 AWG": 200, "4/0 AWG": 230, "250 kcmil": 255, "300 kcmil": 285, "350 kcmil": 310,
        "400 kcmil": 335, "500 kcmil": 380, "600 kcmil": 420,
    },
    90: {
        "14 AWG": 25, "12 AWG": 30, "10 AWG": 40, "8 AWG": 55, "6 AWG": 75, "4 AWG": 95, "3 AWG": 115, "2 AWG": 130, "1 AWG": 145,
        "1/0 AWG": 170, "2/0 AWG": 195, "3/0 AWG": 225, "4/0 AWG": 260, "250 kcmil": 290, "300 kcmil": 320, "350 kcmil": 350,
        "400 kcmil": 380, "500 kcmil": 430, "600 kcmil": 475,
    },
}  # fmt: skip
NEC_SMALL: dict[str, float] = {"14 AWG": 15, "12 AWG": 20, "10 AWG": 30}
NEC_CORD: dict[int, dict[str, float]] = {
    2: {"18 AWG": 10, "16 AWG": 13, "14 AWG": 18, "12 AWG": 25, "10 AWG": 30},
    3: {"18 AWG": 7, "16 AWG": 10, "14 AWG": 15, "12 AWG": 20, "10 AWG": 25},
}
NEC_FIXTURE: dict[str, float] = {"18 AWG": 6, "16 AWG": 8, "14 AWG": 17, "12 AWG": 23, "10 AWG": 28}
"""Fixture wire: NEC 402.5."""
NEC_FIXTURE_TAP: dict[str, tuple[float, float]] = {
    "18 AWG": (20, 15.0), "16 AWG": (20, 30.0), "14 AWG": (30, 1e9), "12 AWG": (50, 1e9), "10 AWG": (50, 1e9),
}  # fmt: skip
"""Largest breaker in A it may hang behind, and up to which length in m: NEC 240.5(B)(2)."""
NEC_TOGETHER = ((3, 1.0), (6, 0.8), (9, 0.7), (20, 0.5), (30, 0.45), (40, 0.40))
"""Up to so many loaded conductors together, the factor: NEC 310.15(C)(1)."""

# IEC 60364-5-52, reference method B1 (insulated conductors in conduit on a wall), tables B.52.2…5; cords as above.
IEC_B1: dict[tuple[int, int], dict[float, float]] = {
    (70, 2): {1.5: 17.5, 2.5: 24, 4: 32, 6: 41, 10: 57, 16: 76, 25: 101, 35: 125, 50: 151, 70: 192, 95: 232, 120: 269, 150: 300,
              185: 341, 240: 400},
    (70, 3): {1.5: 15.5, 2.5: 21, 4: 28, 6: 36, 10: 50, 16: 68, 25: 89, 35: 110, 50: 134, 70: 171, 95: 207, 120: 239, 150: 262,
              185: 296, 240: 346},
    (90, 2): {1.5: 23, 2.5: 31, 4: 42, 6: 54, 10: 75, 16: 100, 25: 133, 35: 164, 50: 198, 70: 253, 95: 306, 120: 354, 150: 393,
              185: 449, 240: 528},
    (90, 3): {1.5: 20, 2.5: 28, 4: 37, 6: 48, 10: 66, 16: 88, 25: 117, 35: 144, 50: 175, 70: 222, 95: 269, 120: 312, 150: 342,
              185: 384, 240: 450},
}  # fmt: skip
IEC_CORD: dict[int, dict[float, float]] = {
    2: {0.5: 3, 0.75: 6, 1.0: 10, 1.25: 13, 1.5: 16, 2.5: 25, 4: 32},
    3: {0.5: 3, 0.75: 6, 1.0: 10, 1.5: 16, 2.5: 20, 4: 25},
}
IEC_INSIDE: dict[float, float] = {
    0.75: 8.6, 1.0: 10.3, 1.5: 13.5, 2.5: 18.3, 4: 24, 6: 31, 10: 44, 16: 59, 25: 77, 35: 96, 50: 117, 70: 149, 95: 180, 120: 208,
}  # fmt: skip
"""Single wires inside equipment, at 40 °C around them, 70 °C insulation: IEC 60204-1 table 6, method B1."""
INSIDE_AMBIENT_C = 40.0
IEC_TOGETHER = ((1, 1.0), (2, 0.8), (3, 0.7), (4, 0.65), (5, 0.6), (6, 0.57), (9, 0.5))
"""Up to so many circuits together, the factor: IEC 60364-5-52 table B.52.17."""

CLASS_5_OHM_PER_KM = {
    0.5: 39.0, 0.75: 26.0, 1.0: 19.5, 1.25: 15.6, 1.5: 13.3, 2.5: 7.98, 4: 4.95, 6: 3.30, 10: 1.91, 16: 1.21, 25: 0.780,
    35: 0.554, 50: 0.386, 70: 0.272, 95: 0.206, 120: 0.161, 150: 0.129, 185: 0.106, 240: 0.0801,
}  # fmt: skip
"""Flexible copper at 20 °C, IEC 60228 class 5 (1.25 mm² between its neighbours)."""

BREAKERS = {Practice.IEC: IEC_BREAKERS, Practice.NEC: NEC_BREAKERS}
SOURCE = {
    Practice.IEC: "IEC 60364: I_b ≤ I_n ≤ I_z; flexible cord table, from memory; the local code overrules",
    Practice.NEC: "NEC 210.20, 210.19 and 240.6: 125 % of a continuous load; table 310.16, from memory; "
    "the local code overrules",
}
SCHOOL = {Practice.IEC: "IEC 60364 / British", Practice.NEC: "North American (NEC)"}
