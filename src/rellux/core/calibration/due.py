"""When a display is compared again: by age and use, every so many days, or from its sensor's record; and what is said when it is due."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from math import ceil

from ..errors import Problem, refuse_all
from ..findings import Finding, Severity
from ..messages import difference, temperature
from ..sensing.choosing import NOBLE
from ..sensing.sensors import is_thermocouple
from .alike import Alike
from .by_use import ByUse
from .certificates import NEARBY_C
from .drift import Drift

YOUNG_DAYS, GROWN_DAYS, OLD_DAYS = 30, 90, 180
"""When to look again by the number of comparisons: after the first, the second, and all later (common practice, no source: often while
joints and springs bed in)."""
HOT_C, HOT_SHARE = 800.0, 0.5
"""Base metal ages fast above so much: half the interval (common practice, no source)."""
SHORTEST_DAYS, LONGEST_DAYS = 7, 730
"""Interval that may be chosen (our choice)."""
ONCE_A_YEAR = 365
"""Even what never drifts is looked at so often, days (our choice)."""
CLOSE_C = 10.0
"""Comparisons nearer to each other than this are of one temperature, °C (our choice: an oven is seldom set twice alike)."""
MOST_ALLOWED_C = 200.0
"""The largest error that may be allowed, °C (our choice: a slip of unit is asked back)."""


class Interval(StrEnum):
    """By which school the next date is found."""

    FIXED = "fixed"
    PRACTICE = "practice"
    RECORD = "record"


DUE = "calibration.due"
SAYS = {
    Interval.RECORD: "From its record",
    Interval.PRACTICE: "By age and use",
    Interval.FIXED: "Every so many days",
}


@dataclass(frozen=True)
class DueAgain:
    """``days`` after the newest comparison, and why."""

    days: int
    school: Interval
    why: str

    def after(self, compared: date) -> date:
        return compared + timedelta(days=self.days)


ELSEWHERE = DueAgain(0, Interval.PRACTICE, "It was not compared near its working temperature.")
"""Of a sensor all of whose comparisons are at other temperatures."""


def is_near(compared_c: float, working_c: float) -> bool:
    """Whether a comparison says something of the working temperature."""
    return abs(compared_c - working_c) <= NEARBY_C


@dataclass(frozen=True)
class ComparedAt:
    """On which day, near which temperature, and over how many degrees its pairs are spread, °C."""

    day: float
    near_c: float
    spread_c: float


def of_the_work(record: Sequence[ComparedAt], working_c: float) -> list[int]:
    """Which comparisons make the record of the working temperature: near it, at one temperature, and of those of one day the nearest.
    What a sensor is off by elsewhere would look like drift."""
    near = [i for i, c in enumerate(record) if is_near(c.near_c, working_c) and c.spread_c <= NEARBY_C]
    return [
        i
        for i in near
        if not any(
            abs(record[i].day - record[k].day) < 1.0
            and abs(record[k].near_c - working_c) < abs(record[i].near_c - working_c) - CLOSE_C
            for k in near
        )
    ]


@dataclass(frozen=True)
class Since:
    """What happened to a rig since its newest comparison: ``hot_on``, when it was hotter than ever allowed, and by then ``hottest_c``; the
    days on which its controller and its sensor came, where that was later."""

    hot_on: date | None = None
    hottest_c: float = 0.0
    controller_on: date | None = None
    sensor_on: date | None = None

    @property
    def why(self) -> str:
        """What makes the newest comparison worth nothing; empty where nothing does (common practice: after every exchange, and after
        each over-temperature)."""
        if self.sensor_on:
            return f"The sensor came into this rig on {self.sensor_on:%-d %B %Y}, and was compared elsewhere before."
        if self.controller_on:
            return f"The controller is another one since {self.controller_on:%-d %B %Y}: its input was never compared."
        if self.hot_on:
            hottest = temperature(self.hottest_c, ".0f")
            return f"On {self.hot_on:%-d %B %Y} it was at {hottest}, above what it may ever be: that moves sensors."
        return ""


NOTHING_SINCE = Since()


def due_again(
    school: Interval,
    fixed_days: int | None,
    compared: int,
    sensor: str,
    working_c: float,
    found: Drift,
    since: Since = NOTHING_SINCE,
    used: ByUse | None = None,
    like: Alike | None = None,
) -> DueAgain:
    """When to look again, after so many comparisons (``compared``). At once where the display is off by more than is allowed, and where the
    newest comparison says no more. From its record: before the band of its drift leaves what is allowed, by the calendar or by the hours
    it is hot, whichever is sooner. Where the record is too short, or nothing says what is allowed: by age and use, or sooner where sensors
    like it drifted so fast. Raises ``Refused`` for a fixed interval that is none."""
    if found.is_out:
        off = difference(found.left_c, "+.2g")
        return DueAgain(
            0,
            school,
            f"With the offset in it now the display is off by {off}, more than is allowed: correct it, or find the cause.",
        )
    if since.why:
        return DueAgain(0, school, since.why)
    if school is Interval.FIXED:
        check_plan(school, fixed_days, None)
        assert fixed_days is not None
        return DueAgain(fixed_days, school, f"Every {fixed_days} days, as chosen.")
    usual, habit = _by_use(compared, sensor, working_c)
    if school is Interval.PRACTICE:
        return DueAgain(usual, school, habit.capitalize())
    if found.per_year is None:
        return _by_others(like, usual, f"Its record is too short as yet: {habit}")
    if found.allowed_c is None:
        return DueAgain(usual, Interval.PRACTICE, f"Nothing says how far it may be off: {habit}")
    if found.crosses_days == 0:
        return DueAgain(
            usual,
            Interval.PRACTICE,
            f"One comparison is less sure than what is allowed; a better reference helps, not a sooner date: {habit}",
        )
    return _from_record(found.crosses_days, used)


def _from_record(crosses_days: float | None, used: ByUse | None) -> DueAgain:
    days = ONCE_A_YEAR if crosses_days is None else min(int(crosses_days), ONCE_A_YEAR)
    by_hours = used.crosses_days if used and used.seen else None
    if used and by_hours is not None and by_hours < days:
        hot = temperature(used.hot_c, ".0f")
        return DueAgain(
            int(by_hours),
            Interval.RECORD,
            f"Before the band of its drift with the hours at {hot} and more leaves what is allowed: one in forty, if used as lately.",
        )
    if days == ONCE_A_YEAR:
        why = (
            "Its band stays within what is allowed, if it goes on as it did; once a year it is looked at all the same."
        )
        return DueAgain(days, Interval.RECORD, why)
    return DueAgain(
        days,
        Interval.RECORD,
        "Before the band of its drift leaves what is allowed: a risk of one in forty, if it goes on as it did.",
    )


def _by_others(like: Alike | None, usual: int, habit: str) -> DueAgain:
    """By age and use, or sooner where sensors like it drifted so fast."""
    if like is None or not like.crosses_days or like.crosses_days >= usual:
        return DueAgain(usual, Interval.PRACTICE, habit)
    days = max(int(like.crosses_days), SHORTEST_DAYS)
    return DueAgain(
        days,
        Interval.RECORD,
        f"Its own record is too short as yet; by {like.sensors} sensors like it, it may leave what is allowed by then.",
    )


def _by_use(compared: int, sensor: str, working_c: float) -> tuple[int, str]:
    """The usual interval in days, and how it is said."""
    usual = (YOUNG_DAYS, GROWN_DAYS)[compared - 1] if compared <= 2 else OLD_DAYS
    hot = is_thermocouple(sensor) and sensor not in NOBLE and working_c > HOT_C
    usual = ceil(usual * HOT_SHARE) if hot else usual
    return usual, f"{usual} days, by age and use" + (": base metal at this heat ages fast." if hot else ".")


def check_plan(school: Interval, days: int | None, allowed_c: float | None) -> None:
    """Raise ``Refused`` for an interval that is none, and for an allowed error nobody can mean."""
    problems = []
    if days is None and school is Interval.FIXED:
        problems.append(Problem("days", "an interval is needed", f"{SHORTEST_DAYS}…{LONGEST_DAYS} days"))
    if days is not None and not SHORTEST_DAYS <= days <= LONGEST_DAYS:
        problems.append(Problem("days", f"{days} days is no interval", f"{SHORTEST_DAYS}…{LONGEST_DAYS} days"))
    if allowed_c is not None and not 0.0 < allowed_c <= MOST_ALLOWED_C:
        problems.append(
            Problem("allowed_c", "is no error one allows", f"more than {{0 Δ°C}}, up to {difference(MOST_ALLOWED_C)}")
        )
    refuse_all(problems)


def calibration_findings(
    found: Drift, compared: int, due: date, why: str, today: date, entered: date | None = None
) -> Iterator[Finding]:
    """That it is due; that the newest of ``compared`` comparisons is outside its chart; and that what was ``entered`` on a day has not been
    looked at since."""
    if entered is not None:
        yield Finding(
            "calibration.verify",
            Severity.ADVICE,
            title="Compare once more with what was entered",
            reason=f"Its correction was changed on {entered:%-d %B %Y}, and nothing was compared since: a wrong sign doubles the error.",
            fix="Let it settle and take another set of pairs; they must agree within their uncertainty. Record it, left as found.",
        )
    if due <= today:
        yield Finding(
            DUE,
            Severity.ADVICE,
            title="Compare the display again",
            reason=f"It was due on {due:%-d %B %Y}. {why}",
            fix="Warm it up, let it settle, take pairs.",
        )
    if found.chart and compared - 1 in found.chart.outside:
        yield Finding(
            "calibration.chart",
            Severity.FAULT,
            title="The newest comparison is outside its chart",
            reason="It moved further from the others than they scatter: something happened to the sensor, the reference or the place.",
            fix="Compare once more with another reference before anything is entered.",
        )
