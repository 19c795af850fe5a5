"""The controller of a rig: which one it is, the walk from what is in it to what is wanted, and how far that is done."""

from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from django.db.models import Q
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Refused, refuse
from rellux.core.menus.contents import (
    Guarded,
    after_guarded,
    contents,
    guarded,
    half_walked,
    left_hidden,
    sheet_left,
    told,
    walk_to,
)
from rellux.core.menus.description import Description, Values, shown
from rellux.core.menus.keyed import KeyedPage
from rellux.core.menus.meaning import Unheld, wanted_counts, worth_setting
from rellux.core.menus.options import as_bought
from rellux.core.menus.reading import PageRead, as_read, found_by_itself, sheet_read
from rellux.core.menus.steps import WalkStep, steps
from rellux.core.menus.terminals import VARIANTS, WireMove, moves, numbers_of
from rellux.core.menus.walk import Walk, check_pass
from rellux.core.messages import shortened
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import Sheet as Wish
from rellux.core.setup.parameters import check_values, parameters_for
from rellux.core.spine import Station
from rellux.core.wiring.own_parts import LONGEST_TITLE
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.profiles.domain import forms_from
from rellux.server.rigs.change import changing, difference, note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values, save_sheet, working_values
from rellux.server.setup.models import Sheet
from rellux.server.wiring.domain import connection_list
from rellux.server.wiring.models import FittedPart
from rellux.server.wiring.steps import step

from .models import RigController
from .stored import controller_of, description_by_key, description_from


@dataclass(frozen=True)
class Told:
    """A parameter and what this controller makes of it. ``has_page``: it could hold another value of it; ``idle``: it is not
    in force anyway."""

    title: str
    why: str
    has_page: bool
    idle: bool


@dataclass(frozen=True)
class FittedBefore:
    at: datetime
    title: str
    why: str


@dataclass(frozen=True)
class RigControllerView:
    """``key`` empty: none is described for this rig. ``found`` and ``wanted``: counts of every page, in the order of the description's;
    ``found_shown``, ``wanted_shown``: as the display shows them. ``says``: the walk in one sentence. ``steps`` of it, ``done`` gestures of
    them; ``check``: the pass that reads every changed page again, ``unchecked`` why there is none. ``cannot``: why there is no walk."""

    revision: int
    key: str
    description: Description | None
    found: list[int]
    wanted: list[int]
    found_shown: list[str]
    wanted_shown: list[str]
    says: str
    steps: list[WalkStep]
    check: list[WalkStep]
    unchecked: str
    done: int
    total: int
    begun: bool
    cannot: list[dict[str, Any]]
    unheld: list[Told]
    rounded: list[Told]
    history: list[FittedBefore]
    guarded: list[Guarded]
    exchange: list[WireMove]


@dataclass(frozen=True)
class ControllerFit:
    """The controller the rig has, by its key in the library; empty for none. ``fresh``: it is a new one in place of another, as it was
    delivered. ``options``: what is in it of what its description tells."""

    revision: int
    key: str
    fresh: bool = False
    why: str = ""
    options: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class WalkInput:
    """``values``: the sheet that is wanted; what is left out stays as it is."""

    values: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class ProgressInput:
    """So many gestures of the walk to ``values`` are done; 0 gives it up."""

    revision: int
    values: dict[str, Any]
    done: int


@dataclass(frozen=True)
class GuardedInput:
    """The choice of that many counts on a page was taken."""

    revision: int
    page: str
    counts: int


@dataclass(frozen=True)
class FoundInput:
    """What pages showed. ``tuned``: it tuned itself before."""

    revision: int
    read: list[PageRead]
    tuned: bool = False


@dataclass(frozen=True)
class ReadingView:
    """The pages to be read once it has tuned itself, what is thought to stand there, and the steps past them; ``unchecked``: why there are
    none."""

    pages: list[KeyedPage]
    steps: list[WalkStep]
    unchecked: str


def found_in(rig: Rig, row: RigController, description: Description) -> Values:
    """The counts of every page as far as anything is known: a sheet of before a new controller says nothing of it."""
    newest = rig.sheets.first()
    says = newest.values if newest and not (row.fresh and newest.at < row.at) else {}
    return contents(description, says, {k: v for k, v in row.found.items() if k in description.index})


def is_under_way(row: RigController, found: Values) -> bool:
    """Whether a walk has begun that still begins with what is in the controller: the sheet may have been changed elsewhere since."""
    return bool(row.wanted) and tuple(row.began) == found


def half_way(row: RigController, description: Description, found: Values) -> Values:
    """What is in the controller if the walk that has begun is left now."""
    if not is_under_way(row, found) or not row.done:
        return found
    return half_walked(description, found, row.wanted, row.done)


def wanted_of(rig: Rig, row: RigController, asked: Wish, under_way: bool = False) -> Wish:
    """The sheet that is walked to: what was asked for; without that, of a walk that has begun; without that, what would be proposed."""
    names = {p.name for p in parameters_for(purpose_of(rig))}
    return {
        **{n: v for n, v in working_values(rig).items() if n in names},
        **(asked or (row.wanted if under_way else {})),
    }


def rig_controller_view(rig: Rig, asked: Wish | None = None) -> RigControllerView:
    row = controller_of(rig)
    history = [FittedBefore(c.at, str(c.description.get("title", "")), c.why) for c in rig.controllers.all()[:20]]
    if row is None or not row.description:
        return RigControllerView(
            rig.revision, "", None, [], [], [], [], "", [], [], "", 0, 0, False, [], [], [], history, [], exchange_of(rig)
        )  # fmt: skip
    description = description_from(row.description)
    found = found_in(rig, row, description)
    under_way = is_under_way(row, found)
    sheet = wanted_of(rig, row, asked or {}, under_way)
    if sheet != row.wanted:
        found, under_way = half_way(row, description, found), False
    wanted, hidden = wanted_counts(description, sheet), left_hidden(description, found, sheet)
    counts = worth_setting(description, found, wanted.counts)
    goal = tuple(counts.get(p.key, f) for p, f in zip(description.pages, found, strict=True))
    way, cannot = _walked(description, found, sheet)
    again, unchecked = _checked(description, found, goal) if way else ([], "")
    unheld = (*wanted.unheld, *hidden)
    complete = not unheld and not wanted.rounded
    return RigControllerView(
        rig.revision,
        row.key,
        description,
        list(found),
        list(goal),
        [shown(p, c) for p, c in zip(description.pages, found, strict=True)],
        [shown(p, c) for p, c in zip(description.pages, goal, strict=True)],
        told(description, found, goal, way, complete) if way else "",
        list(steps(description, way)) if way else [],
        again,
        unchecked,
        row.done if under_way else 0,
        len(way.gestures) if way else 0,
        under_way,
        cannot,
        _told(unheld),
        _told(wanted.rounded),
        history,
        list(guarded(description, found)),
        exchange_of(rig),
    )


def exchange_of(rig: Rig) -> list[WireMove]:
    """The wires from the controller before to the one that came in its place, as long as they are not all on it."""
    now, *before = rig.controllers.all()[:2] or [None]
    part = controller_part(rig)
    if now is None or not now.fresh or part is None:
        return []
    wiring = connection_list(rig)
    numbers = [
        numbers_of(description_from(c.description) if c and c.description else None, part.kind)
        for c in (before[0] if before else None, now)
    ]
    built = {b.number for b in rig.built.all()}
    found = moves(wiring.connections, part.name, numbers[0], numbers[1], built)
    return [] if all(m.done for m in found) else list(found)


def controller_part(rig: Rig) -> FittedPart | None:
    """The part of the wiring that the controller is."""
    return rig.parts.filter(kind__in=VARIANTS).first()


def as_fitted(rig: Rig, description: Description | None, fresh: bool) -> None:
    """Its programmes are the rig's, and the wiring's part carries the terminals of the one that is fitted; of a new one no wire is on it
    yet."""
    if description and description.programme:
        rig.programme_forms = as_json(replace(forms_from(rig.programme_forms), form=description.programme))
        rig.save(update_fields=["programme_forms"])
    part = controller_part(rig)
    if part is None:
        return
    if fresh:
        ends = Q(a__startswith=f"{part.name}.") | Q(b__startswith=f"{part.name}.")
        rig.built.filter(ends).delete()
    numbers = numbers_of(description, part.kind)
    if description and numbers:
        with step(rig, f"Terminals as on {description.title}"):
            part.numbers, part.title = numbers, shortened(description.title, LONGEST_TITLE)
            part.save()


def _told(rows: tuple[Unheld, ...]) -> list[Told]:
    return [Told(BY_NAME[u.name].title, u.why, u.has_page, u.idle) for u in rows if u.name in BY_NAME]


def _walked(description: Description, found: Values, sheet: Wish) -> tuple[Walk | None, list[dict[str, Any]]]:
    try:
        return walk_to(description, found, sheet), []
    except Refused as refusal:
        return None, [{"field": p.field, "reason": p.reason, "accepted": p.accepted} for p in refusal.problems]


def _checked(description: Description, found: Values, goal: Values) -> tuple[list[WalkStep], str]:
    """The steps past every changed page, or why there are none: the walk stands without them."""
    changed = tuple(p.key for p, a, b in zip(description.pages, found, goal, strict=True) if a != b)
    return _past(description, goal, changed)


def _past(description: Description, values: Values, pages: tuple[str, ...]) -> tuple[list[WalkStep], str]:
    if not pages:
        return [], ""
    try:
        return list(steps(description, check_pass(description, values, pages), pages)), ""
    except Refused as refusal:
        return [], refusal.problems[0].reason


def _described(rig: Rig) -> tuple[RigController, Description]:
    row = controller_of(rig)
    if row is None or not row.description:
        raise refuse("key", "say first which controller it has", "one of the library")
    return row, description_from(row.description)


class RigControllerDetail(APIView):
    @endpoint("rigController", RigControllerView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(rig_controller_view(with_parts(slug)))

    @endpoint("fitController", RigControllerView, ControllerFit)
    def put(self, request: Request, slug: str) -> Response:
        """Say which controller the rig has, or has now in place of another. Settings are the sheet's and stay; what was read off the old
        one's pages goes with it."""
        given = read(request, ControllerFit)
        description = as_bought(description_by_key(given.key), given.options) if given.key else None
        with_parts(slug)
        with changing(slug, given.revision) as rig:
            before = controller_of(rig)
            was = str(before.description.get("title", "")) if before else ""
            as_fitted(rig, description, given.fresh)
            RigController.objects.create(
                rig=rig, at=timezone.now(), key=given.key, description=as_json(description) if description else {}, fresh=given.fresh,
                why=shortened(given.why, 400),
            )  # fmt: skip
            now = description.title if description else ""
            note(
                rig,
                request.user,
                Station.SETUP,
                "Controller described",
                before={"controller": was},
                after={"controller": now},
                why=given.why,
            )
        return reply(rig_controller_view(rig))


class RigWalk(APIView):
    @endpoint("tryWalk", RigControllerView, WalkInput)
    def post(self, request: Request, slug: str) -> Response:
        """The walk to a sheet that is only tried."""
        given = read(request, WalkInput)
        rig = with_parts(slug)
        check_values(given.values)
        return reply(rig_controller_view(rig, given.values))

    @endpoint("walked", RigControllerView, ProgressInput)
    def put(self, request: Request, slug: str) -> Response:
        """How far the walk is. At its end the sheet is as left, with what the controller holds."""
        given = read(request, ProgressInput)
        check_values(given.values)
        with_parts(slug)
        with changing(slug, given.revision) as rig:
            row, description = _described(rig)
            found = found_in(rig, row, description)
            sheet = wanted_of(rig, row, given.values, is_under_way(row, found))
            if sheet != row.wanted and (left := half_way(row, description, found)) != found:
                _left(rig, row, description, found, left, request, f"half walked through {description.title}")
                found = found_in(rig, row, description)
            way = walk_to(description, found, sheet)
            if not 0 <= given.done <= len(way.gestures):
                raise refuse("done", f"the walk has {len(way.gestures)} gestures", f"0…{len(way.gestures)}")
            row.wanted, row.began, row.done = (sheet, list(found), given.done) if given.done else ({}, [], 0)
            if given.done and given.done == len(way.gestures):
                _left(
                    rig,
                    row,
                    description,
                    found,
                    way.legs[-1].after.values,
                    request,
                    f"walked through {description.title}",
                )
            row.save()
        return reply(rig_controller_view(rig))


def _left(
    rig: Rig, row: RigController, description: Description, began: Values, end: Values, request: Request, why: str
) -> None:
    """So the controller was left: what its pages hold is known, and is the sheet, where they stand for a parameter that changed."""
    before = current_values(rig)
    row.found = {p.key: v for p, v in zip(description.pages, end, strict=True) if not p.forgets}
    row.wanted, row.began, row.done = {}, [], 0
    otherwise = {p.name: working_values(rig)[p.name] for p in parameters_for(purpose_of(rig))}
    values = sheet_left(description, began, end, before, otherwise)
    save_sheet(rig, values, Sheet.Kind.AS_LEFT, why, request.user, walked=True)
    was, now = difference(before, values)
    note(rig, request.user, Station.SETUP, "Controller settings as left", before=was, after=now, why=why)


class RigGuarded(APIView):
    @endpoint("guardedDone", RigControllerView, GuardedInput)
    def post(self, request: Request, slug: str) -> Response:
        """A guarded choice was taken at the controller. What was in it before is kept as found, then what is in it now as left: one can
        walk back to the first."""
        given = read(request, GuardedInput)
        with_parts(slug)
        with changing(slug, given.revision) as rig:
            row, description = _described(rig)
            found = half_way(row, description, found_in(rig, row, description))
            end = after_guarded(description, found, given.page, given.counts)
            page = description.page(given.page)
            done = f"{page.code} {page.choices[given.counts].code}"
            before = current_values(rig)
            if before:
                save_sheet(rig, before, Sheet.Kind.AS_FOUND, f"before {done}", request.user)
            _left(rig, row, description, found, end, request, f"{done}: {page.choices[given.counts].means}")
            row.save()
        return reply(rig_controller_view(rig))


class RigFound(APIView):
    @endpoint("pageFound", RigControllerView, FoundInput)
    def post(self, request: Request, slug: str) -> Response:
        """Pages show something else than was thought: as found, in the sheet where they stand for a parameter. All of them or none."""
        given = read(request, FoundInput)
        with_parts(slug)
        with changing(slug, given.revision) as rig:
            row, description = _described(rig)
            if not given.read:
                raise refuse("read", "no page was read", "at least one page")
            found = found_in(rig, row, description)
            if (left := half_way(row, description, found)) != found:
                _left(rig, row, description, found, left, request, f"half walked through {description.title}")
            values = as_read(description, left, given.read)
            pages = [description.page(line.page) for line in given.read]
            row.found = {**row.found, **{p.key: values[description.index[p.key]] for p in pages}}
            row.wanted, row.began, row.done = {}, [], 0
            row.save()
            before = current_values(rig)
            if before and any(n in before for p in pages for n in p.sets):
                after = sheet_read(description, values, [p.key for p in pages], before)
                codes = " ".join(p.code for p in pages)
                why = f"found as it tuned itself, read off {codes}" if given.tuned else f"read off page {codes}"
                save_sheet(rig, after, Sheet.Kind.AS_FOUND, why, request.user)
                was, now = difference(before, after)
                note(rig, request.user, Station.SETUP, "Controller settings as found", before=was, after=now, why=why)
        return reply(rig_controller_view(rig))


class RigReading(APIView):
    @endpoint("toRead", ReadingView, query={"page": str})
    def get(self, request: Request, slug: str) -> Response:
        """What to read once it has tuned itself by a choice of this page."""
        rig, asked = with_parts(slug), request.query_params.get("page", "")
        row, description = _described(rig)
        if asked not in description.index:
            raise refuse("page", f"there is no page {asked[:20]!r}", "a page of it")
        found = found_by_itself(description, half_way(row, description, found_in(rig, row, description)), asked)
        keys = tuple(p.key for p in found.pages)
        again, unchecked = _past(description, found.values, keys)
        thought = (found.values[description.index[k]] for k in keys)
        pages = [KeyedPage(p.key, p.code, p.title, shown(p, c)) for p, c in zip(found.pages, thought, strict=True)]
        return reply(ReadingView(pages, again, unchecked))


def with_parts(slug: str) -> Rig:
    """The rig, once its parts are chosen. Raises ``Refused`` before."""
    rig = get_object_or_404(Rig, slug=slug)
    if not rig.sensor:
        raise refuse("parts", "choose the parts first: the values follow from them", "sensor, output and switch")
    return rig
