"""The two schools of calibration offsets. For the same fault they have opposite signs, so a number of one is never taken for one
of the other. Which one a controller follows is a property of the controller."""

from enum import StrEnum


class OffsetSchool(StrEnum):
    """Which kind of number the controller takes: display = raw + offset, or a number that makes the load hotter."""

    ADDED_TO_READING = "added_to_reading"
    TEMPERATURE_ADJUST = "temperature_adjust"


SAYS = {
    OffsetSchool.ADDED_TO_READING: "added to the reading",
    OffsetSchool.TEMPERATURE_ADJUST: "temperature adjustment",
}


def converted(offset_c: float, given_in: OffsetSchool, wanted_in: OffsetSchool) -> float:
    """The same correction as a number of the other school, °C. A display lowered by 4 (added: −4) makes the control heat 4
    further (adjustment: +4)."""
    return offset_c if given_in is wanted_in or offset_c == 0 else -offset_c
