"""The library of controller descriptions, and what can be tried on one: its panel, and where a display is."""

from collections import Counter
from dataclasses import dataclass, field
from uuid import uuid4

from django.db.models import OuterRef, Subquery
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.languages import asked
from rellux.core.errors import Problem, Refused, refuse, refuse_all
from rellux.core.form import Field, Option, options
from rellux.core.menus.description import AFTER_LAST, KEPT_BY, Description, Gesture, Page, Shown, Values
from rellux.core.menus.machine import Display, Panel, Pending, Standing, places, setpoint_shown
from rellux.core.menus.pasted import PastedGroup, pasted
from rellux.core.menus.problems import MOST_COUNTS, check_description, problems
from rellux.core.menus.shipped import SHIPPED
from rellux.core.menus.steps import WalkStep, steps
from rellux.core.menus.walk import way_out, way_to
from rellux.core.menus.where import errors_alike, left_pending, pages_alike, path_of
from rellux.core.setup.dictionary import PARAMETERS
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.models import Rig

from .models import ControllerFile, RigController
from .stored import description_by_key, keep


@dataclass(frozen=True)
class ControllerName:
    """A controller in the library; ``own``: the workshop described it; ``rigs``: how many have it; ``options``: what may be in one."""

    key: str
    title: str
    own: bool
    rigs: int
    options: list[str]


@dataclass(frozen=True)
class ControllersView:
    controllers: list[ControllerName]


@dataclass(frozen=True)
class ParameterName:
    """A parameter a page may stand for, with the values of its choices."""

    name: str
    title: str
    choices: list[list[str]]


@dataclass(frozen=True)
class DescriptionView:
    """A description, what cannot be in it, and what its pages may stand for; ``language``: the form of how it counts."""

    key: str
    own: bool
    description: Description
    problems: list[Problem]
    parameters: list[ParameterName]
    language: list[Field]
    kept_by: list[Option]
    after_last: list[Option]


@dataclass(frozen=True)
class DescriptionInput:
    description: Description


@dataclass(frozen=True)
class PastedInput:
    """``taken``: keys of pages that are there already."""

    text: str
    taken: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class PastedView:
    groups: list[PastedGroup]


@dataclass(frozen=True)
class PanelInput:
    """Where the controller stands, and what is done to it; without ``values`` it is as delivered, without a gesture it is looked at."""

    description: Description
    page: int = 0
    values: list[int] = field(default_factory=list)
    pending: Pending | None = None
    gesture: Gesture | None = None


@dataclass(frozen=True)
class PanelView:
    """What stands there now. ``lost``: the page whose change was not kept; ``guarded``: what cannot be taken back was done.
    ``setpoint``: as it is shown beside the reading."""

    page: int
    values: list[int]
    pending: Pending | None
    lost: str
    guarded: str
    display: Display
    setpoint: str
    group: str
    outputs_stop: bool


@dataclass(frozen=True)
class LookInput:
    """``shows``: what is on the display; ``to``: the page one wants to be at (empty: only out); ``values`` as far as known."""

    description: Description
    shows: str
    to: str = ""
    values: list[int] = field(default_factory=list)


@dataclass(frozen=True)
class PagePlace:
    """A page that may be shown, with the ways on and out from there; ``cannot``: why there is none on."""

    page: str
    code: str
    title: str
    path: str
    exact: bool
    on: list[WalkStep]
    out: list[WalkStep]
    cannot: str


@dataclass(frozen=True)
class PlacesView:
    """``pending``: what becomes of a value that is just being changed."""

    places: list[PagePlace]
    errors: list[Shown]
    pending: str


def checked_values(description: Description, values: list[int]) -> Values:
    """The counts of every page. Raises ``Refused`` for as many as there are not pages, or a number no page has."""
    if not values:
        return tuple(p.default for p in description.pages)
    if len(values) != len(description.pages):
        refuse_all([Problem("values", f"{len(values)} values for {len(description.pages)} pages", "one a page")])
    far = [p.code for p, v in zip(description.pages, values, strict=True) if abs(v) > MOST_COUNTS]
    refuse_all(Problem("values", f"{code} has no such value", "what a display can show") for code in far)
    return tuple(values)


LONGEST_PRESS_S = 3600.0


def checked_press(given: PanelInput, page: Page) -> None:
    """Raises ``Refused`` for a value that is being changed which no display shows, and a gesture that never ends."""
    pending, gesture = given.pending, given.gesture
    if pending and not (abs(pending.counts) <= MOST_COUNTS and -1 <= pending.cursor < places(page)):
        refuse_all([Problem("pending", f"{page.code} cannot be changed to that", "as the panel said it before")])
    if gesture and not 0 <= gesture.seconds <= LONGEST_PRESS_S:
        refuse_all([Problem("gesture.seconds", "nobody holds a key so long", f"0…{LONGEST_PRESS_S:g} s")])


def library() -> ControllersView:
    """All descriptions, the workshop's own first, and how many rigs have each."""
    newest = RigController.objects.filter(rig=OuterRef("pk")).order_by("-at", "-pk").values("key")[:1]
    fitted = Counter(Rig.objects.annotate(controller=Subquery(newest)).values_list("controller", flat=True))
    own = [
        ControllerName(c.key, c.title, True, fitted[c.key], list(c.data.get("options", ())))
        for c in ControllerFile.objects.all()
    ]
    shipped = [ControllerName(k, d.title, False, fitted[k], list(d.options)) for k, d in SHIPPED.items()]
    return ControllersView([*own, *shipped])


class Controllers(APIView):
    @endpoint("controllers", ControllersView)
    def get(self, request: Request) -> Response:
        return reply(library())

    @endpoint("addController", DescriptionView, DescriptionInput, status=201)
    def post(self, request: Request) -> Response:
        """Into the library, as a file has it."""
        given = read(request, DescriptionInput).description
        key = uuid4().hex[:12]
        keep(key, given)
        return reply(_view(key, given), 201)


class Controller(APIView):
    @endpoint("controller", DescriptionView)
    def get(self, request: Request, key: str) -> Response:
        return reply(_view(key, description_by_key(key)))

    @endpoint("saveController", DescriptionView, DescriptionInput)
    def put(self, request: Request, key: str) -> Response:
        """In place of the one of this key; rigs keep the description they were given until it is given to them again."""
        description_by_key(key)
        given = read(request, DescriptionInput).description
        keep(key, given)
        return reply(_view(key, given))

    @endpoint("removeController", ControllersView)
    def delete(self, request: Request, key: str) -> Response:
        """Out of the library; rigs that have it keep it."""
        if key in SHIPPED:
            raise refuse("key", "this one came along and stays", "one of your own")
        description_by_key(key)
        ControllerFile.objects.filter(key=key).delete()
        return reply(library())


class ControllerCheck(APIView):
    @endpoint("checkController", DescriptionView, DescriptionInput)
    def post(self, request: Request) -> Response:
        """What cannot be in a description that is being written: nothing is kept."""
        return reply(_view("", read(request, DescriptionInput).description))


class ControllerPasted(APIView):
    @endpoint("pastePages", PastedView, PastedInput)
    def post(self, request: Request) -> Response:
        """Pages out of a list from a manual: nothing is kept."""
        given = read(request, PastedInput)
        return reply(PastedView(list(pasted(given.text, frozenset(given.taken)))))


class ControllerPanel(APIView):
    @endpoint("pressController", PanelView, PanelInput)
    def post(self, request: Request) -> Response:
        """What a gesture does at the panel, as it is described."""
        given = read(request, PanelInput)
        check_description(given.description)
        values = checked_values(given.description, given.values)
        if not 0 <= given.page < len(values):
            refuse_all([Problem("page", "there is no such page", f"0…{len(values) - 1}")])
        checked_press(given, given.description.pages[given.page])
        panel = Panel(given.description)
        standing = Standing(given.page, values, given.pending)
        standing = panel.do(standing, given.gesture) if given.gesture else standing
        group = panel.group(standing)
        return reply(
            PanelView(
                standing.page, list(standing.values), standing.pending, standing.lost, standing.guarded,
                panel.display(standing), setpoint_shown(given.description, standing.values), group.title, group.outputs_stop,
            )
        )  # fmt: skip


class ControllerPlaces(APIView):
    @endpoint("lookUpDisplay", PlacesView, LookInput)
    def post(self, request: Request) -> Response:
        """Where a display may be, how to get on from there and out; and errors it may mean."""
        given = read(request, LookInput)
        made = given.description
        check_description(made)
        values = checked_values(made, given.values)
        if given.to and given.to not in made.index:
            refuse_all([Problem("to", f"there is no page {given.to}", "a page")])
        found = []
        for match in pages_alike(made, given.shows):
            page, here = made.page(match.page), Standing(made.index[match.page], values)
            on, cannot = _ways(made, here, given.to) if given.to else ([], "")
            out = list(steps(made, way_out(made, here)))
            found.append(PagePlace(page.key, page.code, page.title, path_of(made, page), match.exact, on, out, cannot))
        return reply(PlacesView(found, list(errors_alike(made, given.shows)), left_pending(made)))


def _ways(made: Description, here: Standing, to: str) -> tuple[list[WalkStep], str]:
    try:
        return list(steps(made, way_to(made, here, to))), ""
    except Refused as refusal:
        return [], refusal.problems[0].reason


def _view(key: str, description: Description) -> DescriptionView:
    return DescriptionView(
        key,
        bool(key) and key not in SHIPPED,
        description,
        list(problems(description)),
        [ParameterName(p.name, p.title, [list(c) for c in p.choices]) for p in PARAMETERS],
        list(asked()),
        list(options(KEPT_BY)),
        list(options(AFTER_LAST)),
    )
