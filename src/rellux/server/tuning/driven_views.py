"""A relay test made over the link, or a controller let to tune itself: what would happen if it were left alone is said before, somebody
who stays with it starts it, and the recorder ends it.
"""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Problem, Refused, refuse, refuse_all
from rellux.core.explain import Figure
from rellux.core.messages import shortened
from rellux.core.setup.auto_tune import AUTO_TUNE
from rellux.core.setup.writing import as_held, check_write
from rellux.core.spine import Station
from rellux.core.tuning.relay.describing import estimated, limit_figures
from rellux.core.tuning.relay.driven import (
    UNDER_WAY,
    WRITES,
    DrivenTest,
    TestStanding,
    check_cool_enough,
    driven_test,
    if_left_alone,
    own_tune,
)
from rellux.core.tuning.relay.experiment import RelayKind
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.links.live import live_of, tested
from rellux.server.links.maps import map_of
from rellux.server.links.models import Link, LinkState
from rellux.server.links.views import steps_of, writable
from rellux.server.links.write_views import check_armed, write_now
from rellux.server.profiles.domain import heated_rig
from rellux.server.profiles.programme_views import going, not_alone
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig
from rellux.server.runs.domain import open_run
from rellux.server.runs.driven_relay import FOUND, plain_test, test_from
from rellux.server.setup.domain import rig_facts, working_values

from .models import DrivenRelayTest
from .relay_views import before_of, limit_here


@dataclass(frozen=True)
class DrivenStart:
    """``setpoint_c``: of the test, as foretold; ``stays``: somebody stays with it; ``window``: the one writing is armed for;
    ``tunes_itself``: the controller does it its own way."""

    window: str
    setpoint_c: float | None = None
    stays: bool = False
    tunes_itself: bool = False


@dataclass(frozen=True)
class DrivenNow:
    """The test that is under way, or was made last. ``figures``: what its cycles say, once it is over, where a
    set-point was asked; ``run``: where they are; ``tunes_itself``: it was the controller's own."""

    who: str
    tunes_itself: bool
    begun_at: datetime
    standing: str
    says: str
    setpoint_c: float
    highest_c: float
    heat_is_off: bool
    run: int | None
    start_s: float
    end_s: float | None
    figures: list[Figure]


@dataclass(frozen=True)
class DrivenView:
    """``cannot``: why none may be begun now; ``heed``: what to know besides; ``left_alone``: what happens if Rellux or the link stops;
    ``own_cannot``, ``own_left_alone``: the same of letting the controller tune itself, for one that ``tunes_itself``."""

    now: DrivenNow | None
    cannot: list[str]
    heed: list[str]
    left_alone: str
    tunes_itself: bool
    own_cannot: list[str]
    own_left_alone: str


class DrivenTests(APIView):
    @endpoint("drivenRelayTest", DrivenView, query={"setpoint_c": float})
    def get(self, request: Request, slug: str) -> Response:
        """What runs now or ran last; with a set-point also what is to be known before one is begun there."""
        rig = heated_rig(slug)
        given = request.query_params.get("setpoint_c")
        try:
            asked = None if given is None else float(given)
        except ValueError:
            raise refuse("setpoint_c", f"{given[:20]!r} is no temperature", "a number") from None
        return reply(_view(rig, asked))

    @endpoint("startRelayTest", DrivenView, DrivenStart, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """Begin it: its set-point, hysteresis and on/off mode are written like anything else, armed and read back. The old numbers are kept
        before; from then on the recorder looks after it."""
        rig, given = heated_rig(slug), read(request, DrivenStart)
        refuse_all(Problem("relay", why, "as the station says") for why in _cannot(rig, given.tunes_itself))
        if not given.stays:
            raise refuse("stays", "somebody stays with it, a hand near the main switch", "yes")
        link = Link.objects.get(rig=rig)
        driven = _driven(rig, link, given.setpoint_c, given.tunes_itself)
        holds = dict(driven.holds)
        check_cool_enough(driven, check_armed(link, given.window).reading_c)
        row = _kept(rig, link, driven, request.user.title)
        mine = DrivenRelayTest.objects.filter(pk=row.pk, standing=TestStanding.STARTING.value)
        try:
            write_now(link, request.user, given.window, holds, of_test=True)
        except Refused as refused:
            said = shortened(f"it could not be begun: {refused}", 300)
            mine.update(standing=TestStanding.RETURNING.value, said=said, beat_at=timezone.now())
            raise
        if not mine.update(standing=TestStanding.SWINGING.value, beat_at=timezone.now()):
            raise refuse("relay", "it was broken off before it began", "look at what it says, then begin again")
        note(
            rig,
            request.user,
            Station.TUNING,
            "Auto-tune begun" if given.tunes_itself else "Relay test begun",
            before={n: row.before[n] for n in holds},
            after=holds,
        )
        return reply(_view(rig, None), 201)


class DrivenEnd(APIView):
    changes_rig = False

    @endpoint("endRelayTest", DrivenView)
    def post(self, request: Request, slug: str) -> Response:
        """End it: the controller gets its old numbers back within a second or two."""
        rig = heated_rig(slug)
        going_on = rig.relay_tests.filter(standing__in=[s.value for s in UNDER_WAY])
        if not going_on.update(ask_end=True):
            raise refuse("relay", "no relay test runs", "begin one first")
        note(rig, request.user, Station.TUNING, "Relay test: ended by hand")
        return reply(_view(rig, None))


def _kept(rig: Rig, link: Link, driven: DrivenTest, who: str) -> DrivenRelayTest:
    """The test with the controller's own numbers, on disk before the first of them is overwritten."""
    state = LinkState.objects.filter(link=link, generation=link.generation).first()
    held: dict[str, Any] = state.values if state else {}
    before = {name: held.get(name) for name in driven.kept_before(held)}
    refuse_all(
        Problem("relay", f"the controller does not say what {name} it holds, so it could not be put back", "")
        for name, value in before.items()
        if value is None
    )
    if driven.tunes_itself and before[AUTO_TUNE] != "off":
        raise refuse("relay", "it tunes itself already", "stop that first, under Runs")
    now = timezone.now()
    with transaction.atomic():
        if tested(rig):
            raise refuse("relay", "a relay test runs already", "end it first")
        run, opened = open_run(rig, "Auto-tune" if driven.tunes_itself else "Relay test")
        return DrivenRelayTest.objects.create(
            rig=rig, run=run, generation=link.generation, who=who, begun_at=now, beat_at=now, driven=plain_test(driven),
            before=before, standing=TestStanding.STARTING.value, start_s=run.length_s, opened=opened,
        )  # fmt: skip


def _driven(rig: Rig, link: Link, setpoint_c: float | None, tunes_itself: bool) -> DrivenTest:
    """The test in the controller's own steps. Raises ``Refused`` where it may come too near a limit, or the sheet does not allow it."""
    situation, told, first = before_of(rig, RelayKind.OWN, setpoint_c)
    every_s, takes = link.poll_s * link.speed, set(writable(link))
    if "mode" in takes and "pid" not in (map_of(link).by_name["mode"].choices or ()):
        takes.remove("mode")
    driven = (
        own_tune(situation, told, first, every_s, takes)
        if tunes_itself
        else driven_test(situation, told, first, every_s)
    )
    holds = as_held(dict(driven.holds), steps_of(link))
    settings = {n: v for n, v in holds.items() if n != AUTO_TUNE}
    check_write(settings, {**working_values(rig), **settings}, rig_facts(rig))
    return replace(driven, holds=holds)


def _cannot(rig: Rig, tunes_itself: bool) -> list[str]:
    link = Link.objects.filter(rig=rig).first()
    if link is None:
        return ["No controller is linked."]
    takes = set(writable(link))
    if tunes_itself and not {"setpoint_c", AUTO_TUNE} <= takes:
        return [
            "This controller takes no auto-tune and set-point over the link: begin it at its keys, and stay with it."
        ]
    if not tunes_itself and not (set(WRITES) <= takes and "on_off" in (map_of(link).by_name["mode"].choices or ())):
        return [
            "This controller takes no on/off mode, hysteresis and set-point over the link: let it tune itself, or switch by hand."
        ]
    found, live = [], live_of(rig)
    if live.status != "online":
        found.append(live.message or "The controller does not answer.")
    elif live.reading_c is None:
        found.append("The controller shows no reading.")
    if going(rig):
        found.append("A programme runs: end it first.")
    if tested(rig):
        found.append("A relay test runs already.")
    return found


def _view(rig: Rig, setpoint_c: float | None) -> DrivenView:
    link = Link.objects.filter(rig=rig).first()
    offered = link is not None and AUTO_TUNE in writable(link)
    if setpoint_c is None or tested(rig):
        own = _cannot(rig, True) if offered else []
        return DrivenView(newest_test(rig), _cannot(rig, False), [], "", offered, own, "")
    cannot, left_alone = _foretold(rig, link, setpoint_c, False)
    own, own_alone = _foretold(rig, link, setpoint_c, True) if offered else ([], "")
    return DrivenView(newest_test(rig, True), cannot, not_alone(rig), left_alone, offered, own, own_alone)


def _foretold(rig: Rig, link: Link | None, setpoint_c: float, tunes_itself: bool) -> tuple[list[str], str]:
    """Why it may not be begun there, and what happens where it is left alone."""
    cannot = _cannot(rig, tunes_itself)
    if link is None or not writable(link):
        return cannot, ""
    try:
        return cannot, if_left_alone(_driven(rig, link, setpoint_c, tunes_itself))
    except Refused as refused:
        return [*cannot, *(f"{p.reason[:1].upper()}{p.reason[1:]}".rstrip(".") + "." for p in refused.problems)], ""


def newest_test(rig: Rig, with_figures: bool = False) -> DrivenNow | None:
    """The relay test that is under way, or was made last."""
    row = rig.relay_tests.select_related("run").first()
    if row is None:
        return None
    driven = test_from(row.driven)
    return DrivenNow(
        row.who,
        driven.tunes_itself,
        row.begun_at,
        row.standing,
        row.said,
        float(driven.holds["setpoint_c"]),
        driven.highest_c,
        row.is_off,
        row.run_id,
        row.start_s,
        row.end_s,
        _figures(rig, row) if with_figures and row.swing and FOUND not in row.swing else [],
    )


def _figures(rig: Rig, row: DrivenRelayTest) -> list[Figure]:
    """What its settled cycle says of the limit, beside what the fitted process does."""
    test = test_from(row.driven).test
    try:
        situation, _, _ = before_of(rig, RelayKind.OWN, test.setpoint_c)
        swing = float(row.swing["top_c"]) - float(row.swing["bottom_c"])
        found = estimated(test.step, swing, test.hysteresis_c, float(row.swing["period_s"]), limit_here(situation))
    except Refused:
        return []
    return list(limit_figures(found, test.step, swing, test.hysteresis_c))
