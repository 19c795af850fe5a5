"""The parts of a rig: chosen, tried, and compared with what else could stand there."""

from dataclasses import dataclass

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.explain import Figure
from rellux.core.findings import Severity
from rellux.core.heating.conductor_tables import Practice
from rellux.core.parts.chain import Piece
from rellux.core.parts.checks import is_overloaded
from rellux.core.parts.compare import Compared, alternatives
from rellux.core.sensing.sensors import NAMES, offered_as
from rellux.core.spine import Station
from rellux.core.wiring.choice import DRIVES, Actuator, Choice, Output, check_choice, suggested, to_choose_from
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply

from .chain import chain_of, period_of, worst_of
from .change import changing, difference, note, stated
from .domain import PARTS_FIELDS, choice_of, purpose_of
from .models import Rig
from .overview import RigView, rig_view


@dataclass(frozen=True)
class PartsInput:
    """The parts wanted. ``plug_a``: the plug's rating in A, left out to have one proposed."""

    sensor: str
    output: Output
    actuator: Actuator
    limiter: bool
    practice: Practice
    plug_a: float | None = None
    revision: int | None = None

    def choice(self) -> Choice:
        return Choice(self.sensor, self.output, self.actuator, self.limiter, self.practice, self.plug_a)


@dataclass(frozen=True)
class SensorOffer:
    """A sensor by its name, in words."""

    name: str
    words: str


@dataclass(frozen=True)
class PartsView:
    """The chain for a choice of parts, saved or only tried: pieces, how far each is used, whether that is too much, what was
    found there. ``drives``: switches the chosen output can move, the usual one first."""

    choice: Choice
    pieces: list[Piece]
    figures: list[Figure]
    fills: list[float]
    over: list[bool]
    worst: list[Severity | None]
    sensors: list[SensorOffer]
    drives: dict[str, list[Actuator]]


def _parts_view(rig: Rig, choice: Choice) -> PartsView:
    check_choice(purpose_of(rig), choice)
    found = chain_of(rig, choice)
    return PartsView(
        choice,
        list(found.pieces),
        list(found.figures),
        [p.fill for p in found.pieces],
        [is_overloaded(p) for p in found.pieces],
        worst_of(rig, found),
        [SensorOffer(name, offered_as(name)) for name in NAMES],
        {output.value: list(drives) for output, drives in DRIVES.items()},
    )


class PartsDetail(APIView):
    @endpoint("parts", PartsView)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        purpose, choice = purpose_of(rig), choice_of(rig)
        return reply(_parts_view(rig, to_choose_from(purpose, choice) if choice else suggested(purpose)))

    @endpoint("chooseParts", RigView, PartsInput)
    def put(self, request: Request, slug: str) -> Response:
        given = read(request, PartsInput)
        with changing(slug, stated(given.revision)) as rig:
            choice = given.choice()
            _parts_view(rig, choice)
            before = {n: getattr(rig, n) for n in PARTS_FIELDS}
            for name in PARTS_FIELDS:
                setattr(rig, name, getattr(choice, name))
            was, now = difference(before, {n: getattr(rig, n) for n in PARTS_FIELDS})
            if now:
                note(rig, request.user, Station.PARTS, "Parts chosen", before=was, after=now)
        return reply(rig_view(rig))


class PartsTrial(APIView):
    changes_rig = False

    @endpoint("tryParts", PartsView, PartsInput)
    def post(self, request: Request, slug: str) -> Response:
        return reply(_parts_view(get_object_or_404(Rig, slug=slug), read(request, PartsInput).choice()))


class PartsCompared(APIView):
    changes_rig = False

    @endpoint("compareParts", Compared, PartsInput, many=True)
    def post(self, request: Request, slug: str, piece: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        choice = read(request, PartsInput).choice()
        return reply(list(alternatives(purpose_of(rig), choice, lambda actuator: period_of(rig, actuator), piece)))
