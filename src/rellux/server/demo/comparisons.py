"""A plate's bead compared in ice, at the work and in boiling water: its firmware holds a B value that is not the bead's."""

from rellux.core.calibration.offsets import OffsetRule, Pair
from rellux.core.calibration.references import ReferenceInput, ReferenceKind, worth
from rellux.core.calibration.schools import OffsetSchool
from rellux.core.units import ABSOLUTE_ZERO_C
from rellux.server.rigs.models import Rig

from .making import Day, calibration

ALTITUDE_M = 1840.0
"""Of the observatory, m."""
B_SHARE, AT_25_K = 0.985, 298.15
"""The bead's B over the one its firmware has."""
SCATTER_C = (0.06, -0.04, 0.02)


def at_three_temperatures(rig: Rig, day: Day) -> None:
    """Recorded and left as found, one after the other on one morning."""
    ice = ReferenceInput(kind=ReferenceKind.ICE)
    boiling = ReferenceInput(kind=ReferenceKind.BOILING, pressure_hpa=1016.0, sea_level=True, altitude_m=ALTITUDE_M)
    for hour, words, asked, near in (
        (8, "Ice bath", ice, 0.0),
        (9, "T-01", None, 65.0),
        (10, "Boiling water", boiling, 94.0),
    ):
        known = worth(asked, near, rig.ambient_c) if asked else None
        true = known.value.value if known and known.value else near
        u = known.u.value if known and known.u else 0.03
        pairs = tuple(Pair(round(_shown(true) + by, 1), round(true, 2)) for by in SCATTER_C)
        rule = OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0, reference_u_c=u)
        calibration(rig, day.ago(8.0, hour), words, rule, pairs, enter=False, sensor=rig.sensor)


def _shown(true_c: float) -> float:
    """What the plate shows of a bead at ``true_c``, °C."""
    inverse = 1.0 / AT_25_K + B_SHARE * (1.0 / (true_c - ABSOLUTE_ZERO_C) - 1.0 / AT_25_K)
    return 1.0 / inverse + ABSOLUTE_ZERO_C
