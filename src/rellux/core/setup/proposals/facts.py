"""What set-up knows of a rig, and a proposed value with its reason."""

from dataclasses import dataclass

from ...calibration.schools import OffsetSchool
from ...guarding.plan import Plan
from ...process.models import FOPDT, SOPDT
from ...purpose.purpose import Purpose
from ...tuning.cascade import HeatedChamber
from ..dictionary.parameter import Value
from ..parameters import Sheet


@dataclass(frozen=True)
class Linked:
    """How Rellux reaches the controller, in the dictionary's words; ``writes``: whether anything can be written that way."""

    protocol: str
    address: int = 1
    baud: int = 9600
    parity: str = "N"
    stop_bits: int = 1
    writes: bool = False


@dataclass(frozen=True)
class RigFacts:
    """What the rig is, as far as set-up needs it. ``process`` (with its verdict; ``model``: as found, where it has a second lag) and
    ``tuning`` are known after Tuning, ``calibrated_*`` after Calibration (the sensor it was done with), ``controller_school`` where the
    linked controller's map says it, or its description, which says ``controller_hysteresis`` and ``controller_windup`` too;
    ``sheet_school`` once a sheet is saved; ``exchanged`` names the sensor that was fitted since the last calibration; ``full_rise_c``: of a
    fire, how far above the room it would settle at its full heat, as such a rig is taken to be; ``plan``: Guarding's, once there is one;
    ``linked``: where the controller has a link; ``programme_top_c``: the hottest set-point of the profiles kept for the rig; ``paged``:
    parameters that the controller has pages for, ``None`` where it is not described; ``corrected``: what beside the offset corrects this
    sensor in the newest sheet; ``chamber``: of a rig with a second sensor at its heater, as it was found, else as its kind is, and
    ``set_as_one``: its sheet is of before it had that."""

    purpose: Purpose
    sensor: str
    actuator: str
    process: FOPDT | None = None
    model: SOPDT | None = None
    process_verdict: str = ""
    tuning: Sheet | None = None
    calibrated_offset_c: float | None = None
    calibrated_sensor: str = ""
    exchanged: str = ""
    calibrated_school: OffsetSchool = OffsetSchool.ADDED_TO_READING
    controller_school: OffsetSchool | None = None
    controller_hysteresis: str = ""
    controller_windup: str = ""
    sheet_school: OffsetSchool | None = None
    full_rise_c: float | None = None
    plan: Plan | None = None
    linked: Linked | None = None
    programme_top_c: float | None = None
    paged: frozenset[str] | None = None
    corrected: Sheet | None = None
    chamber: HeatedChamber | None = None
    set_as_one: bool = False


@dataclass(frozen=True)
class Proposed:
    """A value with its reason."""

    name: str
    value: Value
    reason: str
