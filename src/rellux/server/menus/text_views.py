"""The controller of a rig that is set in its source text: its block of constants, filled from a sheet, and read back when pasted."""

from dataclasses import dataclass, field
from typing import Any

from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.languages import asked
from rellux.core.errors import Problem, Refused, refuse
from rellux.core.form import Field
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import check_values
from rellux.core.setup.text_block import GAINS, TextBlock, check_block, filled, places, read_back, rounded
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values, working_values

from .models import RigController
from .rig_views import with_parts
from .stored import block_from, controller_of


@dataclass(frozen=True)
class SaidOf:
    """Something about a value, by its title on the screen."""

    title: str
    why: str
    accepted: str


@dataclass(frozen=True)
class TextView:
    """``kept``: the block is the rig's own; else it is one to begin with. ``filled``: the text with the sheet's values, empty where
    ``cannot`` says why not; ``rounded``: values that its digits change."""

    revision: int
    kept: bool
    block: TextBlock
    language: list[Field]
    filled: str
    cannot: list[SaidOf]
    rounded: list[SaidOf]


@dataclass(frozen=True)
class TextInput:
    revision: int
    block: TextBlock


@dataclass(frozen=True)
class TextTrial:
    """``values``: of the sheet that is wanted; what is left out is as the newest sheet says."""

    block: TextBlock
    values: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class PastedText:
    """``tuned``: the text is what it printed as it tuned itself, else it is its source."""

    text: str
    tuned: bool = False


@dataclass(frozen=True)
class ReadValue:
    """A value as it was read; ``before``: of the newest sheet, null where it has none."""

    name: str
    title: str
    kind: str | None
    value: Any
    before: Any


@dataclass(frozen=True)
class TextReadView:
    values: list[ReadValue]
    missing: list[str]
    odd: list[SaidOf]


def _title(name: str) -> str:
    return BY_NAME[name].title if name in BY_NAME else name


def _said(problems: tuple[Problem, ...]) -> list[SaidOf]:
    return [SaidOf(_title(p.field), p.reason, p.accepted) for p in problems]


def block_of(rig: Rig) -> TextBlock | None:
    """The rig's own block, where it has one."""
    row = controller_of(rig)
    return block_from(row.block) if row and row.block else None


def text_view(rig: Rig, block: TextBlock | None = None, values: dict[str, Any] | None = None) -> TextView:
    own = block_of(rig)
    shown = block or own or TextBlock()
    sheet = {**working_values(rig), **(values or {})}
    try:
        text, cannot, lost = filled(shown, sheet), [], _said(rounded(shown, sheet))
    except Refused as refusal:
        text, cannot, lost = "", _said(tuple(refusal.problems)), []
    return TextView(rig.revision, own is not None, shown, list(asked()), text, cannot, lost)


class RigText(APIView):
    @endpoint("rigText", TextView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(text_view(with_parts(slug)))

    @endpoint("keepText", TextView, TextInput)
    def put(self, request: Request, slug: str) -> Response:
        """Keep the block as this rig's."""
        given = read(request, TextInput)
        check_block(given.block)
        with_parts(slug)
        with changing(slug, given.revision) as rig:
            row = controller_of(rig)
            if row is None or row.description:
                row = RigController(rig=rig, at=timezone.now(), description={})
            row.block = as_json(given.block)
            row.save()
            names = ", ".join(_title(p.name) for p in places(given.block.template))
            note(rig, request.user, Station.SETUP, "Block of constants kept", after={"text": names})
        return reply(text_view(rig))


class TriedText(APIView):
    @endpoint("tryText", TextView, TextTrial)
    def post(self, request: Request, slug: str) -> Response:
        """A block filled with a sheet, both only tried."""
        given = read(request, TextTrial)
        rig = with_parts(slug)
        check_values(given.values)
        return reply(text_view(rig, given.block, given.values))


class TextRead(APIView):
    @endpoint("readText", TextReadView, PastedText)
    def post(self, request: Request, slug: str) -> Response:
        """What a pasted text says; nothing is kept: it goes into the sheet, as found."""
        given = read(request, PastedText)
        rig = with_parts(slug)
        block = block_of(rig)
        if block is None:
            raise refuse("text", "this rig has no block to read it by", "keep the block first")
        if given.tuned and not block.tuned:
            raise refuse("tuned", "the block does not say which line tells of a tuning", "that line, with places in it")
        found, before = read_back(block, given.text, block.tuned if given.tuned else ""), current_values(rig)
        values = [
            ReadValue(n, _title(n), kind.value if (kind := BY_NAME[n].kind) else None, v, before.get(n))
            for n, v in found.values.items()
        ]
        missing = [n.upper() if n in GAINS else _title(n) for n in found.missing]
        return reply(TextReadView(values, missing, _said(found.odd)))
