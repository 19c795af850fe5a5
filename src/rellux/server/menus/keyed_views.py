"""Values that are only thought of, as they would be keyed into a rig's controller."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Refused, refuse
from rellux.core.menus.keyed import Keyed, keyed_in, keyed_into
from rellux.core.menus.meaning import typed
from rellux.core.setup.parameters import check_values
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import working_values

from .stored import block_from, controller_of, description_from


@dataclass(frozen=True)
class KeyedInput:
    """Values by parameter name, °C and s."""

    values: dict[str, Any]


@dataclass(frozen=True)
class KeyedView:
    """``controller``: what the rig's is called; empty where it is not described, and nothing can be said."""

    controller: str
    keyed: Keyed


@dataclass(frozen=True)
class TypedOnInput:
    """``values``: a sheet that is being written, °C and s; ``page`` of the rig's controller and what is typed for it, as it shows it."""

    page: str
    shows: str
    values: dict[str, Any]


@dataclass(frozen=True)
class TypedOnView:
    """What changes in the sheet."""

    values: dict[str, Any]


class TypedOn(APIView):
    changes_rig = False

    @endpoint("typedOn", TypedOnView, TypedOnInput)
    def post(self, request: Request, slug: str) -> Response:
        """A value in the controller's own words: its unit, its PID numbers, its digits."""
        rig = get_object_or_404(Rig, slug=slug)
        given = read(request, TypedOnInput)
        check_values(given.values)
        row = controller_of(rig)
        if row is None or not row.description:
            raise refuse("page", "this rig's controller is not described", "say which it is under Keys")
        sheet = {**working_values(rig), **given.values}
        return reply(TypedOnView(typed(description_from(row.description), given.page, given.shows, sheet)))


class KeyedAsked(APIView):
    changes_rig = False

    @endpoint("asKeyed", KeyedView, KeyedInput)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        given = read(request, KeyedInput)
        check_values(given.values)
        row = controller_of(rig) if rig.sensor else None
        nothing = Keyed((), "", ())
        if row is None or not (row.description or row.block):
            return reply(KeyedView("", nothing))
        sheet = working_values(rig)
        if row.description:
            made = description_from(row.description)
            return reply(KeyedView(made.title, keyed_in(made, given.values, sheet)))
        try:
            return reply(KeyedView("its source text", keyed_into(block_from(row.block), given.values, sheet)))
        except Refused as refused:
            lost = tuple(f"{p.field}: {p.reason}" for p in refused.problems)
            return reply(KeyedView("its source text", Keyed((), "", lost)))
