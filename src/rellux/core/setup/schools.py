"""The offset school of a sheet: fixed by the controller, and never changed under a number that was entered in the other one."""

from ..calibration.schools import SAYS, OffsetSchool, converted
from ..errors import refuse
from ..messages import difference
from .parameters import Sheet


def school_of(sheet: Sheet) -> OffsetSchool | None:
    """The school a sheet's offset is of, where it says one."""
    return OffsetSchool(str(sheet["offset_school"])) if "offset_school" in sheet else None


def with_school(sheet: Sheet, school: OffsetSchool) -> Sheet:
    """The sheet in another school, its offset converted with it."""
    before = school_of(sheet)
    if before is None or "offset_c" not in sheet:
        return {**sheet, "offset_school": school.value}
    return {**sheet, "offset_school": school.value, "offset_c": converted(float(sheet["offset_c"]), before, school)}


def check_school_change(before: Sheet, after: Sheet) -> None:
    """Raise ``Refused`` where a sheet left in the controller changes its school and keeps the number of the other one."""
    was, now = school_of(before), school_of(after)
    if was is None or now is None or was is now:
        return
    kept = float(before.get("offset_c", 0.0))
    if kept and after.get("offset_c") == kept:
        right = converted(kept, was, now)
        raise refuse(
            "offset_c",
            f"{difference(kept, '+g')} was found for an offset of the other kind ({SAYS[was]}): the same number would "
            "correct the wrong way",
            f"{difference(right, '+g')}, or what you find in the controller, saved as found",
        )
