"""Checks of how the input reads and shows: decimals, scale, slope and filter."""

from ..findings import Finding, Proposal, Severity
from ..messages import quantity, temperature
from ..sensing.sensors import describe, sensor_range
from ..units import Kind, in_unit
from .parameters import Sheet
from .proposals.facts import RigFacts
from .proposals.service import FOUR_DIGITS

MOST_GAIN = 0.02
"""How far a slope may be from 1 before a wrong input type or scale is likelier than the sensor (our choice: class 2 of base metal
thermocouples is 0.75 %, IEC 60584-1)."""
LONG_FILTER_S = 10.0
"""A filter that is long for any rig of which nothing is known, s (our choice)."""


def check_input(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """Findings about the input's own settings; what the sheet does not say is not judged."""
    found = (
        _decimals(sheet, facts),
        _scale_end(sheet, facts),
        _scale_beyond(sheet, facts),
        _slope(sheet),
        _filter(sheet, facts),
    )
    return [f for f in found if f]


def _decimals(sheet: Sheet, facts: RigFacts) -> Finding | None:
    decimals, unit = int(sheet.get("display_decimals", 0)), str(sheet.get("display_unit", "C"))
    most = FOUR_DIGITS / 10**decimals
    highest = in_unit(facts.purpose.highest_c, Kind.TEMPERATURE, unit)
    if not decimals or highest <= most:
        return None
    return Finding(
        "setup.decimals",
        Severity.FAULT,
        title=f"With these decimals the display ends at {most:g}",
        reason=f"{temperature(facts.purpose.highest_c)} is {highest:.0f} there: off its end, nobody sees how hot it is.",
        fix="No decimals, or one less.",
        subjects=("display_decimals",),
        proposal=Proposal("setup.display_decimals", str(decimals - 1), label="One digit less"),
        source="four digits",
    )


def _scale_end(sheet: Sheet, facts: RigFacts) -> Finding | None:
    p = facts.purpose
    high, low = sheet.get("scale_high_c"), sheet.get("scale_low_c")
    coldest = p.ambient_c if p.lowest_c is None or not p.cools else min(p.ambient_c, p.lowest_c)
    if isinstance(high, int | float) and high < p.highest_c:
        end, name, says = p.highest_c, "scale_high_c", f"Scale ends at {temperature(high)}, below the hottest expected"
        value = sensor_range(facts.sensor)[1]
    elif isinstance(low, int | float) and low > coldest:
        end, name, says = coldest, "scale_low_c", f"Scale begins at {temperature(low)}, above the coldest expected"
        value = sensor_range(facts.sensor)[0]
    else:
        return None
    return Finding(
        "setup.scale",
        Severity.FAULT,
        title=says,
        reason=f"At {temperature(end)} it is off the scale: the display looks as if the sensor were dead.",
        fix=f"{temperature(value)}, as far as the {describe(facts.sensor)} reads.",
        subjects=(name,),
        proposal=Proposal(f"setup.{name}", value, label=f"Set it to {temperature(value)}"),
        source="common practice, no source",
    )


def _scale_beyond(sheet: Sheet, facts: RigFacts) -> Finding | None:
    low, high = sensor_range(facts.sensor)
    ends = ((n, float(sheet.get(n, e))) for n, e in (("scale_low_c", low), ("scale_high_c", high)))
    name, value = next(((n, v) for n, v in ends if not low <= v <= high), ("", 0.0))
    if not name:
        return None
    nearest = min(max(value, low), high)
    return Finding(
        "setup.scale-beyond",
        Severity.ADVICE,
        title="Scale beyond the sensor",
        reason=f"{temperature(value)} is nothing a {describe(facts.sensor)} reads: of a linear input every other value is then wrong too.",
        fix=f"{temperature(nearest)}.",
        subjects=(name,),
        proposal=Proposal(f"setup.{name}", nearest, label=f"Set it to {temperature(nearest)}"),
    )


def _slope(sheet: Sheet) -> Finding | None:
    gain = float(sheet.get("gain_correction", 1.0))
    if abs(gain - 1.0) <= MOST_GAIN + 1e-12:
        return None
    return Finding(
        "setup.slope",
        Severity.FAULT,
        title="A slope larger than any sensor needs",
        reason=f"The reading is multiplied by {gain:g}. A wrong input type or scale is likelier, and is not right anywhere else then.",
        fix="Set it to 1, look at input type and scale, then calibrate at two temperatures.",
        subjects=("gain_correction",),
        proposal=Proposal("setup.gain_correction", 1.0, label="Set it to 1"),
        source="IEC 60584-1, class 2",
    )


def _filter(sheet: Sheet, facts: RigFacts) -> Finding | None:
    seconds = float(sheet.get("filter_s", 0.0))
    dead = facts.process.dead_time_s if facts.process else None
    if seconds <= (LONG_FILTER_S if dead is None else max(dead, 1.0)):
        return None
    beside = (
        "and nothing is known of this rig’s own yet"
        if dead is None
        else f"as much again as the {quantity(dead, 's', '.3g')} of dead time it has"
    )
    return Finding(
        "setup.filter",
        Severity.FAULT if dead is not None else Severity.ADVICE,
        title=f"The filter is {quantity(seconds, 's')} of lag",
        reason=f"Control and every alarm come later by it, {beside}.",
        fix="None, or a second or two; noise is better met where it comes from: screens, twisted pairs, earthing.",
        subjects=("filter_s",),
        proposal=Proposal("setup.filter_s", 0.0, label="Take it out"),
        source="a first-order filter’s ramp error is its time constant",
    )
