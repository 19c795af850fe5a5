"""What people add to a list: findings they live with, and photographs at terminals."""

from dataclasses import dataclass, field

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig

from .domain import connection_list, every_finding
from .list_views import revision_of
from .models import Accepted, Photo
from .photos import WANTED, picture, redrawn
from .views import WiringView, wiring_view

SHORTEST_REASON, LONGEST_REASON = 8, 300
MOST_PHOTOS = 200


@dataclass(frozen=True)
class AcceptFindingInput:
    """A finding of the list, named by rule and subjects, and why it is lived with."""

    revision: int
    rule: str
    reason: str
    subjects: list[str] = field(default_factory=list)


class AcceptedFindings(APIView):
    @endpoint("acceptFinding", WiringView, AcceptFindingInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, AcceptFindingInput)
        reason = given.reason.strip()
        if not SHORTEST_REASON <= len(reason) <= LONGEST_REASON:
            accepted = f"a reason of {SHORTEST_REASON}…{LONGEST_REASON} characters"
            raise refuse("reason", "say why this is acceptable here: it stands on the sheet", accepted)
        rig = get_object_or_404(Rig, slug=slug)
        found = next(
            (f for f in every_finding(rig) if f.rule == given.rule and list(f.subjects) == given.subjects), None
        )
        if found is None:
            raise refuse("rule", "there is no such finding now", "a finding of this list")
        with changing(slug, given.revision) as rig:
            who = request.user.title
            Accepted.objects.create(
                rig=rig, rule=found.rule, subjects=list(found.subjects), reason=reason, who=who, at=timezone.now()
            )
            note(rig, request.user, Station.WIRING, f"Accepted: {found.title}", why=reason)
        return reply(wiring_view(rig))


class AcceptedFinding(APIView):
    @endpoint("withdrawFinding", WiringView, query={"revision": int})
    def delete(self, request: Request, slug: str, number: int) -> Response:
        with changing(slug, revision_of(request)) as rig:
            row = get_object_or_404(Accepted, rig=rig, pk=number)
            note(rig, request.user, Station.WIRING, f"No longer accepted: {row.rule}", why=row.reason)
            row.delete()
        return reply(wiring_view(rig))


class Photos(APIView):
    parser_classes = (MultiPartParser,)

    @endpoint("addPhoto", WiringView)
    def post(self, request: Request, slug: str) -> Response:
        file, terminal = request.FILES.get("file"), str(request.data.get("terminal", ""))
        revision = str(request.data.get("revision", ""))
        if file is None:
            raise refuse("file", "no photo was sent", WANTED)
        image, kind = redrawn(file.read())
        with changing(slug, int(revision) if revision.isdigit() else -1) as rig:
            known = connection_list(rig).terminals
            if terminal not in known:
                raise refuse("terminal", f"there is no terminal {terminal!r}", "part.terminal")
            if rig.photos.count() >= MOST_PHOTOS:
                raise refuse("file", "there are enough photos of this rig", f"up to {MOST_PHOTOS}")
            Photo.objects.create(rig=rig, terminal=terminal, image=image, kind=kind, at=timezone.now())
            note(rig, request.user, Station.WIRING, f"Photo at {terminal}")
        return reply(wiring_view(rig))


class PhotoDetail(APIView):
    @endpoint("photo", None)
    def get(self, request: Request, slug: str, number: int) -> HttpResponse:
        photo = get_object_or_404(Photo, rig__slug=slug, pk=number)
        return picture(bytes(photo.image))

    @endpoint("removePhoto", WiringView, query={"revision": int})
    def delete(self, request: Request, slug: str, number: int) -> Response:
        with changing(slug, revision_of(request)) as rig:
            photo = get_object_or_404(Photo, rig=rig, pk=number)
            note(rig, request.user, Station.WIRING, f"Photo at {photo.terminal} removed")
            photo.delete()
        return reply(wiring_view(rig))
