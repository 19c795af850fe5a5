"""The set-up station: proposals with reasons, what the controller holds, findings and history."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.findings import Finding
from rellux.core.menus.contents import is_wanted_here
from rellux.core.setup.dictionary.parameter import Applies
from rellux.core.setup.parameters import check_has, check_period, check_values, choices_for, parameters_for
from rellux.core.setup.schools import check_school_change
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.menus.stored import paged
from rellux.server.rigs.change import changing, difference, note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig

from .domain import current_values, proposals, save_sheet, setup_findings, tried_findings
from .models import Sheet


@dataclass(frozen=True)
class ParameterView:
    """One line of the sheet. Numbers have ``kind``, ``low`` and ``high``; choices list value and words. ``wanted_here``: the
    controller, as it is described, has a page for it or ought to."""

    name: str
    title: str
    meaning: str
    group: str
    kind: str | None
    low: float
    high: float
    choices: list[list[str]]
    applies: list[Applies]
    wanted_here: bool
    proposed: Any
    reason: str
    value: Any


@dataclass(frozen=True)
class SheetChange:
    at: datetime
    kind: str
    why: str
    who: str
    before: dict[str, Any]
    after: dict[str, Any]


@dataclass(frozen=True)
class SetupView:
    revision: int
    parameters: list[ParameterView]
    saved: bool
    findings: list[Finding]
    history: list[SheetChange]


def setup_view(rig: Rig) -> SetupView:
    if not rig.sensor:
        raise refuse("parts", "choose the parts first: the values follow from them", "sensor, output and switch")
    values = current_values(rig)
    proposed = {p.name: p for p in proposals(rig)}
    sheets = list(rig.sheets.all()[:30])
    controller = rig.controllers.first()
    here = paged(controller)
    history = []
    for i, newer in enumerate(sheets):
        older = sheets[i + 1].values if i + 1 < len(sheets) else {}
        before, after = difference(older, newer.values)
        history.append(SheetChange(newer.at, newer.kind, newer.why, newer.who, before, after))
    return SetupView(
        rig.revision,
        [
            ParameterView(
                p.name,
                p.title,
                p.meaning,
                p.group,
                p.kind.value if p.kind else None,
                p.low,
                p.high,
                [list(c) for c in choices_for(p, purpose_of(rig), values.get(p.name))],
                list(p.applies),
                is_wanted_here(p, values, here),
                proposed[p.name].value,
                proposed[p.name].reason,
                values.get(p.name),
            )
            for p in parameters_for(purpose_of(rig))
        ],
        bool(sheets),
        setup_findings(rig),
        history,
    )


@dataclass(frozen=True)
class SheetInput:
    """A full or partial sheet; what is left out keeps its value (or takes the proposal on the first sheet)."""

    revision: int
    values: dict[str, Any]
    kind: str = "as_left"
    why: str = ""


@dataclass(frozen=True)
class TriedSheet:
    """What is left out is as the newest sheet says, or as it is proposed."""

    values: dict[str, Any]


@dataclass(frozen=True)
class TriedFindings:
    findings: list[Finding]


class TriedSetup(APIView):
    @endpoint("trySheet", TriedFindings, TriedSheet)
    def post(self, request: Request, slug: str) -> Response:
        """What would be found about a sheet; nothing is kept."""
        given = read(request, TriedSheet)
        rig = get_object_or_404(Rig, slug=slug)
        setup_view(rig)
        check_has(given.values, purpose_of(rig))
        check_period(given.values, rig.actuator)
        check_values(given.values)
        return reply(TriedFindings(tried_findings(rig, given.values)))


class Setup(APIView):
    @endpoint("setup", SetupView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(setup_view(get_object_or_404(Rig, slug=slug)))

    @endpoint("saveSheet", SetupView, SheetInput)
    def put(self, request: Request, slug: str) -> Response:
        given = read(request, SheetInput)
        if given.kind not in Sheet.Kind.values:
            raise refuse("kind", f"{given.kind!r} is neither", ", ".join(Sheet.Kind.values))
        with changing(slug, given.revision) as rig:
            setup_view(rig)
            check_has(given.values, purpose_of(rig))
            check_period(given.values, rig.actuator)
            before = current_values(rig)
            names = {p.name for p in parameters_for(purpose_of(rig))}
            values = {**{p.name: p.value for p in proposals(rig) if p.name in names}, **before, **given.values}
            if given.kind == Sheet.Kind.AS_LEFT:
                check_values(values)
                check_school_change(before, values)
            save_sheet(rig, values, Sheet.Kind(given.kind), given.why, request.user)
            was, now = difference(before, values)
            title = (
                "Controller settings as found" if given.kind == Sheet.Kind.AS_FOUND else "Controller settings as left"
            )
            note(rig, request.user, Station.SETUP, title, before=was, after=now, why=given.why)
        return reply(setup_view(rig))
