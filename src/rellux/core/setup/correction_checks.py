"""What corrects the reading, against the controller and the sensor: the other school, another sensor's numbers, and
ones too large; and a controller that was exchanged."""

from datetime import datetime

from ..calibration.schools import SAYS, OffsetSchool, converted
from ..errors import Refused
from ..findings import Finding, Proposal, Severity
from ..messages import difference, temperature
from ..sensing.sensors import describe, tolerance
from .dictionary.parameter import Value
from .parameters import Sheet, added_at, check_points, correction_of
from .proposals.facts import RigFacts


def check_school(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """An offset that the controller takes the other way round."""
    school, real = OffsetSchool(str(sheet["offset_school"])), facts.controller_school
    if real is None or school is real:
        return []
    offset = float(sheet["offset_c"])
    return [
        Finding(
            "setup.offset-school",
            Severity.DANGER if offset else Severity.FAULT,
            title="Offset of the other kind",
            reason=f"The sheet's offset of {difference(offset, '+.1f')} is {SAYS[school]}, the controller’s {SAYS[real]}. "
            "The same number corrects the other way there: the error doubles.",
            fix=f"Convert it to {difference(converted(offset, school, real), '+.1f')}, {SAYS[real]}.",
            subjects=("offset_school", "offset_c"),
            proposal=Proposal("setup.offset_school", real.value, label="Convert it"),
        )
    ]


def check_offset(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """What was found with another sensor, points that cannot be, and what is larger than this sensor can need at its working
    temperature."""
    other_type = facts.calibrated_sensor not in ("", facts.sensor)
    if other_type or facts.exchanged:
        return _inherited(sheet, facts, other_type)
    try:
        check_points(sheet)
    except Refused as refused:
        return [_disordered(refused)]
    school = OffsetSchool(str(sheet["offset_school"]))
    offset = converted(added_at(sheet, facts.purpose.working_c), OffsetSchool.ADDED_TO_READING, school)
    allowed = tolerance(facts.sensor, facts.purpose.working_c)
    if allowed is None or abs(offset) <= allowed:
        return []
    return [
        Finding(
            "setup.offset-large",
            Severity.FAULT,
            title="Offset larger than the sensor explains",
            reason=f"{difference(offset, '+.1f')} is in it, but a new {describe(facts.sensor)} is within "
            f"±{difference(allowed, '.1f')} at "
            f"{temperature(facts.purpose.working_c)}. It may be left over from another sensor, or hide a wrong input type.",
            fix="Set it to zero and calibrate again.",
            subjects=("offset_c",),
            proposal=Proposal("setup.offset_c", 0.0, label="Set it to zero"),
            source="IEC 60584-1 class 2, IEC 60751 class B",
        )
    ]


def controller_exchanged(title: str, sheet_at: datetime, fitted_at: datetime) -> list[Finding]:
    """What a sheet is worth that was written before a new controller came."""
    if sheet_at >= fitted_at:
        return []
    return [
        Finding(
            "setup.controller-exchanged",
            Severity.FAULT,
            title="The controller was exchanged after this sheet",
            reason=f"{title or 'The new one'} is as it was delivered: nothing of this sheet is in it yet.",
            fix="Walk through it under Keys, or enter what you find in it.",
            subjects=("controller",),
        )
    ]


def _disordered(refused: Refused) -> Finding:
    return Finding(
        "setup.points-order",
        Severity.FAULT,
        title="Correction points that cannot be",
        reason=f"Of the correction’s points, {refused.problems[0].reason}.",
        fix="The coolest first, each once; or correct by the offset alone.",
        subjects=("correction",),
        proposal=Proposal("setup.correction", "offset", label="Correct by the offset alone"),
    )


def _inherited(sheet: Sheet, facts: RigFacts, other_type: bool) -> list[Finding]:
    """Offset, gain and points that were found with another sensor."""
    was, now = describe(facts.calibrated_sensor or facts.sensor), describe(facts.sensor)
    before, since = (f"a {was}", f"a {now}") if other_type else ("the one before it", facts.exchanged)
    it = correction_of(sheet)
    held: list[tuple[bool, str, str, str, Value, str]] = [
        (
            it.offset_c != 0.0,
            "offset_c",
            "Offset",
            difference(float(sheet["offset_c"]), "+.1f"),
            0.0,
            "Set it to zero",
        ),
        (it.gain != 1.0, "gain_correction", "Gain", f"A gain of {it.gain:g}", 1.0, "Set it to 1"),
        (
            sheet.get("correction") == "points",
            "correction",
            "Points",
            "A correction by points",
            "offset",
            "Leave them out",
        ),
    ]
    return [
        Finding(
            f"setup.{key}-inherited",
            Severity.FAULT,
            title=f"{title} inherited from another sensor",
            reason=f"{what} was found with {before}; now {since} is fitted.",
            fix=f"{label} first, then calibrate the new sensor.",
            subjects=(name,),
            proposal=Proposal(f"setup.{name}", value, label=label),
            source="common practice, no source",
        )
        for is_held, name, title, what, value, label in held
        for key in (title.lower(),)
        if is_held
    ]
