"""Photographs of a controller's manual: taken at the bench once, there when its pages are entered and when their keys are pressed."""

from dataclasses import dataclass

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.menus.problems import LONGEST_WORDS
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import reply
from rellux.server.wiring.photos import WANTED, picture, redrawn

from .models import ControllerFile, ManualPhoto

MOST_PHOTOS = 60
"""Of one manual (our choice)."""


@dataclass(frozen=True)
class ManualPage:
    """A photograph, and the place in the manual that it shows."""

    number: int
    place: str


@dataclass(frozen=True)
class ManualView:
    photos: list[ManualPage]


def _manual(key: str) -> ManualView:
    return ManualView(
        [ManualPage(p.pk, p.place) for p in ManualPhoto.objects.filter(controller__key=key).defer("image")]
    )


class Manual(APIView):
    parser_classes = (MultiPartParser,)

    @endpoint("manualPhotos", ManualView)
    def get(self, request: Request, key: str) -> Response:
        """None where there are none, like for a controller that came along."""
        return reply(_manual(key))

    @endpoint("addManualPhoto", ManualView)
    def post(self, request: Request, key: str) -> Response:
        """To a description that is kept."""
        file, place = request.FILES.get("file"), str(request.data.get("place", "")).strip()
        own = ControllerFile.objects.filter(key=key).first()
        if own is None:
            raise refuse("key", "only a controller of your own has photographs", "keep it as yours first")
        if not 1 <= len(place) <= LONGEST_WORDS:
            raise refuse("place", "say where in the manual this is", f"1…{LONGEST_WORDS} characters")
        if file is None:
            raise refuse("file", "no photo was sent", WANTED)
        image, _ = redrawn(file.read())
        if own.photos.count() >= MOST_PHOTOS:
            raise refuse("file", "there are enough photos of this manual", f"up to {MOST_PHOTOS}")
        own.photos.create(place=place, image=image)
        return reply(_manual(key))


class ManualDetail(APIView):
    @endpoint("manualPhoto", None)
    def get(self, request: Request, key: str, number: int) -> HttpResponse:
        return picture(bytes(get_object_or_404(ManualPhoto, controller__key=key, pk=number).image))

    @endpoint("removeManualPhoto", ManualView)
    def delete(self, request: Request, key: str, number: int) -> Response:
        get_object_or_404(ManualPhoto, controller__key=key, pk=number).delete()
        return reply(_manual(key))
