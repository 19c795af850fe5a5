"""What is asked at the bench before pairs are worth taking: what a reference is worth, whether it has settled, and what is left when two
probes change places; and the input by itself."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.certificates import HOTTEST_C
from rellux.core.calibration.certified import CertifiedAt
from rellux.core.calibration.corrections import NOTHING
from rellux.core.calibration.exchange import Exchanged, exchanged
from rellux.core.calibration.input_alone import Fed, InputAlone, Source, Whole, input_alone
from rellux.core.calibration.references import ReferencePlan, ReferenceWorth, check_good_enough, offered
from rellux.core.calibration.schools import OffsetSchool
from rellux.core.calibration.settling import LOOKS_S, Settled, settled
from rellux.core.equipment.findings import due_findings
from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.units import ABSOLUTE_ZERO_C
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.equipment.domain import piece
from rellux.server.equipment.models import Equipment
from rellux.server.links.live import live_of
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run

from .comparing import near, standard_of
from .domain import allowed_of, offset_of, record_of_sensor


@dataclass(frozen=True)
class StandardInput:
    """Answers of the reference's form, and a reference of the workshop, if it is one; ``at_c``: where it is compared, the working
    temperature by default."""

    compared_with: dict[str, Any] = field(default_factory=dict)
    instrument: int | None = None
    at_c: float | None = None


@dataclass(frozen=True)
class StandardView:
    """``offered``: what there is to compare with there. ``warns``: that it is not good enough for what is allowed here,
    or its certificate has ended; empty where neither is so."""

    worth: ReferenceWorth | None
    certified: CertifiedAt | None
    warns: str
    offered: list[ReferencePlan]


class StandardAsked(APIView):
    changes_rig = False

    @endpoint("whatReferenceIsWorth", StandardView, StandardInput)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        given = read(request, StandardInput)
        found = standard_of(rig, given.compared_with, given.instrument, given.at_c)
        u = found.certified.u_c if found.certified else found.worth.u.value if found.worth and found.worth.u else None
        allowed = allowed_of(rig)
        warns = [check_good_enough(2.0 * u, allowed)] if u is not None and allowed else []
        return reply(
            StandardView(
                found.worth,
                found.certified,
                " ".join([*filter(None, warns), *_ends(given.instrument)]),
                list(offered(near(rig, given.at_c), purpose_of(rig).ambient_c)),
            )
        )


def _ends(instrument: int | None) -> list[str]:
    """That the certificate of a reference has ended, or soon does."""
    row = Equipment.objects.filter(pk=instrument).first() if instrument else None
    return [f"{f.title}. {f.reason}" for f in due_findings(piece(row), timezone.localdate())] if row else []


class SettledDetail(APIView):
    @endpoint("whetherSettled", Settled)
    def get(self, request: Request, slug: str) -> Response:
        """Of the run that is being recorded; without one, or with its link lost, there is nothing to tell it from."""
        rig = get_object_or_404(Rig, slug=slug)
        run = rig.runs.filter(removed_at__isnull=True, status=Run.Status.RECORDING).order_by("-started_at").first()
        link_lost = hasattr(rig, "link") and live_of(rig).status != "online"
        if run is None or link_lost:
            return reply(settled(np.empty(0), np.empty(0)))
        newest = store.read(run, max(run.length_s - LOOKS_S, 0.0), None)
        return reply(settled(newest.time_s, newest.reading_c))


@dataclass(frozen=True)
class InputAloneInput:
    """What was fed in place of the sensor, how it was joined, and the display's smallest step, °C."""

    fed: list[Fed]
    source: Source = field(default_factory=Source)
    digit_c: float = 0.1


class InputAloneAsked(APIView):
    changes_rig = False

    @endpoint("inputAlone", InputAlone, InputAloneInput)
    def post(self, request: Request, slug: str) -> Response:
        """Of the rig's input; the sensor's share by the newest comparison near the working temperature."""
        rig = get_object_or_404(Rig, slug=slug)
        if not rig.sensor:
            raise refuse("parts", "choose the parts first", "a sensor")
        given, known = read(request, InputAloneInput), offset_of(rig)
        newest = record_of_sensor(rig)[-1:]
        whole = Whole(newest[0].error_c, newest[0].expanded_c) if newest else None
        in_force = known.correction if known.school is OffsetSchool.ADDED_TO_READING else NOTHING
        return reply(
            input_alone(rig.sensor, tuple(given.fed), given.source, in_force, given.digit_c, rig.working_c, whole)
        )


@dataclass(frozen=True)
class BothShow:
    """What two probes showed at one moment, °C."""

    first_c: float
    second_c: float


@dataclass(frozen=True)
class ExchangeInput:
    """Pairs before the two changed places, and after; the smallest step of both displays, °C."""

    before: list[BothShow]
    after: list[BothShow]
    digit_c: float = 0.1


class ExchangeAsked(APIView):
    changes_rig = False

    @endpoint("exchangePlaces", Exchanged, ExchangeInput)
    def post(self, request: Request, slug: str) -> Response:
        get_object_or_404(Rig, slug=slug)
        given = read(request, ExchangeInput)
        refuse_all(
            Problem(f"{name}[{i}]", "is not a temperature here", "{-273…2000 °C}")
            for name, rows in (("before", given.before), ("after", given.after))
            for i, row in enumerate(rows)
            if not all(ABSOLUTE_ZERO_C < v < HOTTEST_C for v in (row.first_c, row.second_c))
        )
        sides = (np.array([r.first_c - r.second_c for r in rows]) for rows in (given.before, given.after))
        return reply(exchanged(*sides, given.digit_c))
