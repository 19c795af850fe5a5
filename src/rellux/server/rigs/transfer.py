"""Export of a rig as one file, and import of such a file."""

from django.db import transaction
from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import reply

from . import archive, unpack
from .change import note
from .models import Rig
from .overview import RigView, rig_view
from .views import free_slug


class Export(APIView):
    @endpoint("exportRig", None)
    def get(self, request: Request, slug: str) -> StreamingHttpResponse:
        rig = get_object_or_404(Rig, slug=slug)
        response = StreamingHttpResponse(archive.write(rig), content_type="application/zip")
        response["Content-Disposition"] = f'attachment; filename="{slug}.rellux.zip"'
        return response


class Import(APIView):
    parser_classes = (MultiPartParser,)

    @endpoint("importRig", RigView, status=201)
    def post(self, request: Request) -> Response:
        given = request.FILES.get("file")
        if given is None:
            raise refuse("file", "there is no file in the request", "a .zip exported by Rellux")
        with transaction.atomic():
            rig = unpack.read(given, free_slug)
            note(rig, request.user, Station.BOOK, f"Imported from {given.name}"[:200])
            return reply(rig_view(rig), 201)
