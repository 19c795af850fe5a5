"""What this rig makes of a profile that is being drawn, and what a controller makes of it; nothing is kept."""

from dataclasses import dataclass, field

import numpy as np
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.findings import Finding
from rellux.core.messages import span
from rellux.core.profiles.controller_table import ControllerTable, ProgrammeForm, controller_table
from rellux.core.profiles.energy import HOURS, Tariff, check_prices, use_of
from rellux.core.profiles.feasible import (
    NotFollowed,
    SegmentForecast,
    Why,
    fastest,
    forecasts,
    marks,
    total_commanded,
)
from rellux.core.profiles.findings import conditions_say, profile_findings
from rellux.core.profiles.firmware import USUAL, FirmwareFile, template_from, written
from rellux.core.profiles.load import Load
from rellux.core.profiles.predict import Course, Predicted, predict
from rellux.core.profiles.profile import COLDEST_C, HOTTEST_C, Corner, Profile, commanded, start_of
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply

from .domain import check_for, conditions_of, heated_rig

POINTS = 500
"""Rows of a picture."""


@dataclass(frozen=True)
class Tried:
    """A profile to predict; ``begins_h``: when it starts by the clock, h; ``finish_h`` instead: when it is to be over."""

    profile: Profile
    load: Load | None = None
    other_load: Load | None = None
    begins_c: float | None = None
    begins_h: float = 8.0
    finish_h: float | None = None
    tariff: Tariff | None = None


@dataclass(frozen=True)
class CourseView:
    """Lines of a picture: s, °C and %; ``low_c``/``high_c``: where the reading may be."""

    time_s: list[float]
    setpoint_c: list[float]
    reading_c: list[float]
    low_c: list[float]
    high_c: list[float]
    output: list[float]
    surface_c: list[float]
    core_c: list[float]


@dataclass(frozen=True)
class OtherLoadView:
    """The same with another load: when it is over, and how far its core is behind at the most."""

    length_s: float
    core_lag_c: float
    energy_kwh: float
    time_s: list[float]
    core_c: list[float]


@dataclass(frozen=True)
class ForecastView:
    """``planned_s``: as commanded; ``total_s``: as it probably is, with the ends it may have. ``begins_h``: of the clock."""

    says: str
    model: str
    corners: list[Corner]
    course: CourseView
    marks: list[NotFollowed]
    segments: list[SegmentForecast]
    findings: list[Finding]
    planned_s: float
    total_s: float
    total_low_s: float
    total_high_s: float
    held_s: float
    energy_kwh: float
    price: float | None
    peak_w: float
    begins_h: float
    other: OtherLoadView | None


@dataclass(frozen=True)
class FastestView:
    """The fastest profile this rig can follow, None where no rate will do: then ``why``."""

    profile: Profile | None
    why: str


@dataclass(frozen=True)
class TableInput:
    profile: Profile
    form: ProgrammeForm = field(default_factory=ProgrammeForm)


@dataclass(frozen=True)
class FirmwareInput:
    """``template``: how its lines are written, as docs/profiles.md says; ``name``: of the profile."""

    profile: Profile
    template: str = USUAL
    name: str = ""


def _rows(course: Course) -> np.ndarray:
    """Which rows are drawn: evenly, and every change of segment."""
    n = len(course.time_s)
    even = np.linspace(0, n - 1, min(POINTS, n)).astype(int)
    changes = np.flatnonzero(np.diff(course.at))
    return np.unique(np.concatenate((even, changes, np.minimum(changes + 1, n - 1))))


def course_view(predicted: Predicted) -> CourseView:
    likely = predicted.likely
    rows = _rows(likely)
    t = likely.time_s[rows]
    readings = np.array([np.interp(t, c.time_s, c.reading_c, right=np.nan) for c in predicted.all])
    used = np.concatenate(([0.0], np.cumsum(likely.output)))
    ends = np.append(rows[1:], len(likely.output))
    mean = (used[ends] - used[rows]) / np.maximum(ends - rows, 1)
    lines = (
        likely.setpoint_c[rows],
        likely.reading_c[rows],
        np.nanmin(readings, axis=0),
        np.nanmax(readings, axis=0),
        mean,
        likely.surface_c[rows],
        likely.core_c[rows],
    )
    return CourseView(np.round(t, 2).tolist(), *(np.round(line, 2).tolist() for line in lines))


def forecast(slug: str, given: Tried) -> ForecastView:
    rig = heated_rig(slug)
    check_for(rig, given.profile)
    _check(given)
    conditions, situation, ladder = conditions_of(rig, given.load, given.begins_c)
    predicted = predict(given.profile, conditions)
    found = marks(given.profile, predicted, conditions)
    lengths = [c.length_s for c in predicted.all]
    begins_h = given.begins_h
    if given.finish_h is not None:
        begins_h = (given.finish_h - lengths[0] / 3600.0) % HOURS
    use = use_of(predicted.likely, conditions.power_w, given.tariff, begins_h)
    can = any(m.why in (Why.FLAT_OUT, Why.NATURE) for m in found) and not any(
        m.why in (Why.NEVER, Why.SWINGS) for m in found
    )
    return ForecastView(
        conditions_say(conditions),
        predicted.says,
        list(commanded(given.profile, start_of(given.profile, conditions.begins_c, conditions.room_c))),
        course_view(predicted),
        list(found),
        list(forecasts(given.profile, predicted.likely, conditions)),
        profile_findings(
            given.profile, predicted, found, conditions, ladder, situation if ladder else None, fastest=can
        ),
        total_commanded(given.profile, conditions),
        lengths[0],
        min(lengths),
        max(lengths),
        predicted.likely.held_s,
        use.energy_kwh,
        use.price,
        use.peak_w,
        begins_h,
        _other(slug, given),
    )


def _check(given: Tried) -> None:
    """Raises ``Refused`` for conditions that cannot be."""
    check_prices(given.tariff, begins_h=given.begins_h, finish_h=given.finish_h)
    if given.begins_c is not None and not COLDEST_C <= given.begins_c <= HOTTEST_C:
        raise refuse("begins_c", "the rig is not at that", span(COLDEST_C, HOTTEST_C, "°C"))


def _other(slug: str, given: Tried) -> OtherLoadView | None:
    if given.other_load is None:
        return None
    conditions, _, _ = conditions_of(heated_rig(slug), given.other_load, given.begins_c)
    course = predict(given.profile, conditions).likely
    rows = _rows(course)
    lag = course.setpoint_c - course.core_c
    return OtherLoadView(
        course.length_s,
        float(lag[np.argmax(np.abs(lag))]),
        use_of(course, conditions.power_w).energy_kwh,
        np.round(course.time_s[rows], 2).tolist(),
        np.round(course.core_c[rows], 2).tolist(),
    )


class Forecast(APIView):
    changes_rig = False

    @endpoint("forecastProfile", ForecastView, Tried)
    def post(self, request: Request, slug: str) -> Response:
        """What this rig would make of it."""
        return reply(forecast(slug, read(request, Tried)))


class Fastest(APIView):
    changes_rig = False

    @endpoint("fastestProfile", FastestView, Tried)
    def post(self, request: Request, slug: str) -> Response:
        """The fastest profile like it that this rig can follow, at its bad edge; from cold too, unless where it begins is given."""
        given = read(request, Tried)
        rig = heated_rig(slug)
        check_for(rig, given.profile)
        conditions = conditions_of(rig, given.load, given.begins_c)[0]
        found = fastest(given.profile, conditions, also_cold=given.begins_c is None)
        why = (
            "" if found else "No rate of its ramps is one that this rig follows; a temperature may be out of its reach."
        )
        return reply(FastestView(found, why))


class Table(APIView):
    changes_rig = False

    @endpoint("controllerTable", ControllerTable, TableInput)
    def post(self, request: Request, slug: str) -> Response:
        """The profile as a controller of that form can hold it, and what is lost."""
        given = read(request, TableInput)
        return reply(controller_table(given.profile, given.form, _start_c(slug, given.profile)))


class Firmware(APIView):
    changes_rig = False

    @endpoint("firmwareFile", FirmwareFile, FirmwareInput)
    def post(self, request: Request, slug: str) -> Response:
        """The profile as the file of one's own firmware, by a template, and what is lost."""
        given = read(request, FirmwareInput)
        template = template_from(given.template)
        return reply(written(given.profile, template, given.name, _start_c(slug, given.profile)))


def _start_c(slug: str, profile: Profile) -> float:
    """Where a profile's first ramp would begin on this rig now, °C. Raises ``Refused`` for one that it must not run."""
    rig = heated_rig(slug)
    check_for(rig, profile)
    conditions, _, _ = conditions_of(rig, None, None)
    return start_of(profile, conditions.begins_c, conditions.room_c)
