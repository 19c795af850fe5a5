"""Is a second loop, round the heater's own sensor, worth it?"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ...control.pid import PID
from ...control.settings import FULL_OUTPUT
from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import difference, quantity, temperature
from ...plant.rig_models import heater_stands
from ...process.models import FOPDT, SOPDT
from ...purpose.heater_sensor import SPARE_C
from ...tuning.cascade import (
    Cascade,
    CascadeCourse,
    HeatedChamber,
    cascade,
    inner_inputs,
    outer_inputs,
    outer_margins,
    tried,
)
from ...units import Kind
from ..answer import Answer, Axis, Curve, Curves, Known, Question, Topic, curve

SOURCE = "two loops by SIMC (Skogestad 2003), the inner one first (Åström & Hägglund 1995)"
WORTH = 0.5
"""A second loop is worth its sensor where it leaves this share of a dip, or less (our choice)."""
FELT_C = 0.2
"""A dip that nobody sees, °C (our choice: two digits)."""
DRAWN = 600
"""Points of a curve."""


@dataclass(frozen=True)
class CascadeInput:
    """The chamber as Tuning found it, and how its heater's sensor stands to it."""

    working_c: float = number("It is to hold", Kind.TEMPERATURE, -90, 1800, 400)
    ambient_c: float = number("Room", Kind.TEMPERATURE, -40, 60, 21)
    gain: float = number("Chamber: gain", Kind.GAIN, 0.05, 200, 6, hint="of its reading to the output")
    lag_s: float = number("lag", Kind.TIME, 30, 100_000, 900)
    dead_time_s: float = number("dead time", Kind.TIME, 0, 5000, 40)
    hotter_c: float = number(
        "While it holds, the heater’s sensor is hotter by", Kind.DIFFERENCE, 2, 1000, 100, hint="read both, settled"
    )
    heater_lag_s: float = number(
        "Heat off, it comes down to the chamber with", Kind.TIME, 1, 5000, 40, hint="63 % of the way in"
    )
    most_c: float = number("The heater’s sensor may show at most", Kind.TEMPERATURE, 0, 2000, 650)
    low_percent: float = number("Mains fall by", Kind.PERCENT, 1, 20, 5)
    sample_s: float = number("The inner controller looks every", Kind.TIME, 0.05, 10, 0.5)
    period_s: float = number("Control period", Kind.TIME, 0, 60, 2, hint="0: a continuous output")

    @property
    def rig(self) -> HeatedChamber:
        rise = self.working_c - self.ambient_c
        process = FOPDT(self.gain, self.lag_s, self.dead_time_s)
        return HeatedChamber(process, rise, self.hotter_c, self.heater_lag_s, self.most_c - self.ambient_c)


def _check(g: CascadeInput) -> None:
    if g.working_c <= g.ambient_c:
        raise refuse("working_c", "a heater holds nothing below the room", f"above {temperature(g.ambient_c)}")
    if g.rig.holds_percent >= FULL_OUTPUT:
        most = g.ambient_c + FULL_OUTPUT * g.gain
        raise refuse("working_c", "with that gain it does not get there", f"below {temperature(most, '.0f')}")
    if g.most_c < g.working_c + g.hotter_c + SPARE_C:
        least = g.working_c + g.hotter_c + SPARE_C
        raise refuse(
            "most_c",
            f"to hold the chamber its heater’s sensor shows {temperature(g.working_c + g.hotter_c, '.0f')} already",
            f"{temperature(least, '.0f')} or more",
        )


def _cascade(g: CascadeInput) -> Answer:
    _check(g)
    found = cascade(g.rig, g.sample_s, g.period_s)
    low = 1.0 - g.low_percent / FULL_OUTPUT
    both, one = (tried(found, two, low) for two in (True, False))
    findings = tuple(_findings(g, found, both, one))
    spared = (
        f"low mains take {difference(both.dip_c, '.2g')} off the chamber instead of {difference(one.dip_c, '.2g')}."
    )
    said = {f.rule for f in findings}
    headline = "One loop does as well." if said & {"cascade.no-help", "cascade.unfelt"} else f"Worth it: {spared}"
    return Answer(headline, tuple(_figures(g, found, both, one)), findings, _picture(g, both, one))


def _loop(name: str, pid: PID, kind: Kind, why: str, inputs: tuple[Input, ...]) -> Iterator[Figure]:
    yield Figure(
        f"{name}, gain",
        pid.gain,
        kind,
        formula="Kc = τ / (K (τc + L))",
        inputs=inputs,
        reason=why,
        source=SOURCE,
        symbol="Kc",
    )
    yield Figure(
        f"{name}, integral time",
        pid.integral_time_s,
        Kind.TIME,
        formula="min(τ, 4 (τc + L))",
        inputs=inputs,
        reason=why,
        source=SOURCE,
        symbol="Ti",
    )


def _figures(g: CascadeInput, found: Cascade, both: CascadeCourse, one: CascadeCourse) -> Iterator[Figure]:
    heater, chamber = inner_inputs(found), outer_inputs(found)
    yield from _loop("inner loop", found.inner, Kind.PERCENT_PER_DEGREE, "Tune it first, the outer one open.", heater)
    yield from _loop(
        "outer loop", found.outer, Kind.RATIO, "In degrees of the inner loop’s set-point for each degree.", chamber
    )
    yield Figure(
        "inner loop is quicker by",
        found.times_quicker,
        Kind.RATIO,
        formula="τc outer / τc inner",
        inputs=(heater[-1], chamber[-1]),
        reason="By this rule three times or more, so that they do not work against one another.",
        source=SOURCE,
    )
    yield Figure(
        "outer loop, Ms",
        outer_margins(found).ms,
        Kind.RATIO,
        inputs=chamber,
        reason="Exact, the inner loop closed. Up to 1.6 it is calm.",
        source=SOURCE,
    )
    for name, course in (("both loops", both), ("one loop", one)):
        given = (Input("mains fall by", g.low_percent, Kind.PERCENT, "", "given"),)
        for what, value, why in (
            ("low mains take off", course.dip_c, "The most the chamber falls below its set-point."),
            ("a door takes off", course.door_c, "Half as much loss again for a twentieth of the lag."),
        ):
            yield Figure(
                f"{name}: {what}", value, Kind.DIFFERENCE, inputs=given, reason=why, source="both loops simulated"
            )
        yield Figure(
            f"{name}: heater gets to",
            g.ambient_c + course.hottest_heater_c,
            Kind.TEMPERATURE,
            inputs=given,
            reason="Coming up, through low mains and after a door, at the most. The outer loop asks for no more than it may.",
            source="both loops simulated",
        )


def _findings(g: CascadeInput, found: Cascade, both: CascadeCourse, one: CascadeCourse) -> Iterator[Finding]:
    if one.dip_c < FELT_C:
        yield Finding(
            "cascade.unfelt",
            Severity.ADVICE,
            title="One loop already holds it through low mains",
            reason=f"They take {difference(one.dip_c, '.2g')} off: nobody sees it.",
            fix="Spare the second sensor, or fit it for the sake of the heater’s limit.",
            source="our choice: two digits",
        )
    elif both.dip_c > WORTH * one.dip_c:
        yield Finding(
            "cascade.no-help",
            Severity.ADVICE,
            title="Two loops hold it through low mains hardly better than one",
            reason=f"They take {difference(both.dip_c, '.2g')} off with both, {difference(one.dip_c, '.2g')} with one: the inner loop is "
            f"slowed by pulses of {quantity(g.period_s, 's')} and looks every {quantity(g.sample_s, 's')}.",
            fix="A shorter control period and quicker looks, or one loop.",
            source="both simulated",
        )
    if one.hottest_heater_c > found.rig.most_c:
        yield Finding(
            "cascade.hot-heater",
            Severity.FAULT,
            title="Under one loop its heater gets hotter than it may",
            reason=f"It comes to {temperature(g.ambient_c + one.hottest_heater_c, '.0f')} on the way up; with both loops to "
            f"{temperature(g.ambient_c + both.hottest_heater_c, '.0f')}.",
            fix="Both loops, with the inner set-point limited; or a ramp, or less output at the most.",
            source="both loops simulated",
        )


def _picture(g: CascadeInput, both: CascadeCourse, one: CascadeCourse) -> Curves:
    """How far the chamber is from its set-point, from when the mains fall."""
    rise = g.working_c - g.ambient_c

    def away(name: str, course: CascadeCourse, sort: str, key: str) -> Curve:
        fallen = course.time_s >= course.falls_s
        every = max(int(fallen.sum()) // DRAWN, 1)
        time, chamber = (column[fallen][::every] for column in (course.time_s, course.chamber_c))
        return curve(name, time - course.falls_s, chamber - rise, sort, key)

    lines = away("both loops", both, "main", "both"), away("one loop", one, "other", "one")
    return Curves(Axis("mains fallen since", Kind.TIME), Axis("chamber off its set-point", Kind.DIFFERENCE), lines)


def of_rig(known: Known) -> dict[str, Any]:
    """Its temperatures, what Tuning found, and a heater as rigs of its kind have."""
    p = known.purpose
    values: dict[str, Any] = {"working_c": p.working_c, "ambient_c": p.ambient_c}
    if p.heats and known.process:
        process = known.process
        dead = process.dead_time_s + (process.second_lag_s if isinstance(process, SOPDT) else 0.0)
        values |= {"gain": process.gain, "lag_s": process.lag_s, "dead_time_s": dead}
    if p.heats and p.fire is None:
        hotter, lag = (round(v, 1) for v in heater_stands(known.kind, p))
        most = p.heater_sensor.most_c if p.heater_sensor else round(p.working_c + 2.0 * hotter + SPARE_C)
        values |= {"hotter_c": hotter, "heater_lag_s": lag, "most_c": most}
    return values


CASCADE = Question(
    "cascade",
    "Is a second loop at the heater worth it?",
    Topic.CONTROL,
    CascadeInput,
    _cascade,
    of_rig,
    (
        "The inner loop feels what the mains do to the heater long before the chamber does. A door it does not feel.",
        "Tune the inner loop first, the outer one by hand; then the outer one, which moves the inner set-point.",
        "The limit of the inner set-point keeps the heater from getting hotter than it may, whatever the chamber asks.",
        "When the inner loop gives all it can, the outer one must stop integrating: see that the controller does that.",
    ),
    "A sensor at the heater sits on live parts as often as not: insulated, earthed sheath, and a limiter that is neither of the two.",
)
