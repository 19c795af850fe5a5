"""The parts library: generic kinds, the workshop's own parts, and their files."""

from dataclasses import dataclass, field

from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Rating, Terminal
from rellux.core.wiring.naming import NAME_RULE
from rellux.core.wiring.own_parts import OwnPart, check_own
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply

from .files import from_file, to_csv, to_json
from .models import Own


@dataclass(frozen=True)
class KindView:
    kind: str
    title: str
    terminals: list[Terminal]
    ratings: list[Rating]


@dataclass(frozen=True)
class OwnView:
    id: int
    title: str
    kind: str
    numbers: dict[str, str]
    ratings: dict[str, float | str]


@dataclass(frozen=True)
class LibraryView:
    """``name_rule``: what a part in a rig may be called, in words."""

    kinds: list[KindView]
    own: list[OwnView]
    name_rule: str


@dataclass(frozen=True)
class OwnInput:
    title: str
    kind: str
    numbers: dict[str, str] = field(default_factory=dict)
    ratings: dict[str, float | str] = field(default_factory=dict)

    def part(self) -> OwnPart:
        numbers = {k: v.strip() for k, v in self.numbers.items() if v.strip()}
        return OwnPart(self.title.strip(), self.kind, numbers, self.ratings)


def _library() -> LibraryView:
    kinds = [KindView(t.kind, t.title, list(t.terminals), list(t.ratings)) for t in PART_TYPES.values()]
    return LibraryView(
        kinds, [OwnView(o.pk, o.title, o.kind, o.numbers, o.ratings) for o in Own.objects.all()], NAME_RULE
    )


def _save(row: Own, part: OwnPart) -> None:
    check_own(part)
    if Own.objects.filter(title=part.title).exclude(pk=row.pk).exists():
        raise refuse("title", f"there is a part called {part.title} already", "another name")
    row.title, row.kind, row.numbers, row.ratings = part.title, part.kind, part.numbers, part.ratings
    row.save()


class Library(APIView):
    @endpoint("library", LibraryView)
    def get(self, request: Request) -> Response:
        return reply(_library())

    @endpoint("addOwnPart", LibraryView, OwnInput, status=201)
    def post(self, request: Request) -> Response:
        _save(Own(), read(request, OwnInput).part())
        return reply(_library(), 201)


class OwnDetail(APIView):
    @endpoint("changeOwnPart", LibraryView, OwnInput)
    def put(self, request: Request, key: int) -> Response:
        _save(get_object_or_404(Own, pk=key), read(request, OwnInput).part())
        return reply(_library())

    @endpoint("removeOwnPart", LibraryView)
    def delete(self, request: Request, key: int) -> Response:
        get_object_or_404(Own, pk=key).delete()
        return reply(_library())


class Export(APIView):
    @endpoint("exportParts", None)
    def get(self, request: Request, form: str) -> HttpResponse:
        writers = {"json": (to_json, "application/json"), "csv": (to_csv, "text/csv; charset=utf-8")}
        if form not in writers:
            raise Http404("Parts are exported as json or csv.")
        write, kind = writers[form]
        response = HttpResponse(write([o.part() for o in Own.objects.all()]), content_type=kind)
        response["Content-Disposition"] = f'attachment; filename="parts.{form}"'
        return response


class Import(APIView):
    parser_classes = (MultiPartParser,)

    @endpoint("importParts", LibraryView, status=201)
    def post(self, request: Request) -> Response:
        given = request.FILES.get("file")
        if given is None:
            raise refuse("file", "there is no file in the request", "a .json or .csv exported by Rellux")
        with transaction.atomic():
            for part in from_file(given.read()):
                _save(Own.objects.filter(title=part.title).first() or Own(), part)
        return reply(_library(), 201)
