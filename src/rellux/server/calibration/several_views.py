"""More than one temperature: the comparisons of a rig's record, the gain or the points that correct them all, and entering these."""

from dataclasses import dataclass
from datetime import datetime

from django.shortcuts import get_object_or_404
from django.utils.timezone import localtime
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.corrections import SAYS, Correcting
from rellux.core.calibration.due import CLOSE_C
from rellux.core.calibration.levels import Level, level_of, temperatures
from rellux.core.calibration.offsets import Pair
from rellux.core.calibration.schools import OffsetSchool
from rellux.core.calibration.several import Several, Takes, several
from rellux.core.calibration.verdicts import SAYS as SAYS_ADVICE
from rellux.core.calibration.verdicts import check_entering
from rellux.core.errors import refuse
from rellux.core.form import Option
from rellux.core.setup.parameters import corrected_sheet
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import save_sheet, working_values
from rellux.server.setup.models import Sheet

from .domain import ENTERED_HERE, known_then, of_sensor, offset_of
from .models import Calibration
from .reading import rule_from

MOST_LISTED = 40
"""Comparisons that are looked at, the newest: each is worked out anew."""


@dataclass(frozen=True)
class LevelRow:
    """What one comparison says of one temperature, ``key`` its name here: what has to be added to the reading without any correction, and
    U, °C. ``newest`` of its temperature."""

    key: str
    at: datetime
    reference: str
    near_c: float
    add_c: float
    expanded_c: float
    pairs: int
    newest: bool


@dataclass(frozen=True)
class SeveralView:
    """``ways`` in which a controller may correct; ``unit`` its numbers are in, ``step_c`` of its offset."""

    levels: list[LevelRow]
    ways: list[Option]
    unit: str
    step_c: float
    school: OffsetSchool


@dataclass(frozen=True)
class SeveralInput:
    """``levels``: keys of comparisons; all but the newest of each temperature are left out where it is empty."""

    correcting: Correcting
    levels: list[str]
    points: int = 2
    step_c: float | None = None
    gain_step: float = 0.001
    limit_c: float = 20.0


@dataclass(frozen=True)
class SeveralSaveInput:
    revision: int
    several: SeveralInput
    anyway: str = ""


@dataclass(frozen=True)
class _Kept:
    row: LevelRow
    level: Level


def _levels(rig: Rig) -> list[_Kept]:
    """Of the sensor in place in this rig, newest first; a temperature compared again is the newest once."""
    found: list[_Kept] = []
    for c in of_sensor(rig).filter(rig=rig).reverse()[:MOST_LISTED]:
        if c.school != OffsetSchool.ADDED_TO_READING.value:
            continue
        for n, pairs in enumerate(temperatures(tuple(Pair(**p) for p in c.pairs))):
            level = _level(c, pairs)
            newer = any(abs(level.reference_mean_c - k.level.reference_mean_c) <= CLOSE_C for k in found)
            found.append(
                _Kept(
                    LevelRow(
                        f"{c.pk}.{n}",
                        c.at,
                        c.reference,
                        level.reference_mean_c,
                        level.add_c,
                        level.expanded_c,
                        len(pairs),
                        not newer,
                    ),
                    level,
                )
            )
    return found


def _level(c: Calibration, pairs: tuple[Pair, ...]) -> Level:
    named = f"{localtime(c.at):%-d %B %Y}"
    day = c.at.timestamp() / 86400.0
    return level_of(named, day, pairs, rule_from(c.rule, c.school), c.sensor, known_then(c.scatter_before, c.allowed_c))


def worked_out(rig: Rig, given: SeveralInput) -> Several:
    """Raises ``Refused`` for what is not in the record, and for fewer than two temperatures."""
    if not rig.sensor:
        raise refuse("parts", "choose the parts first", "a sensor")
    known, kept = offset_of(rig), {k.row.key: k for k in _levels(rig)}
    if known.school is not OffsetSchool.ADDED_TO_READING:
        raise refuse(
            "correcting",
            "this controller’s number makes the load hotter or cooler: it is one number, at one temperature",
            "a controller whose offset is added to the reading",
        )
    wanted = given.levels or [k.row.key for k in kept.values() if k.row.newest]
    if unknown := [key for key in wanted if key not in kept]:
        raise refuse("levels", f"{unknown[0]} is not in the record of this sensor", ", ".join(kept) or "none yet")
    purpose = purpose_of(rig)
    takes = Takes(
        given.correcting,
        given.points,
        known.step_c if given.step_c is None else given.step_c,
        given.gain_step,
        given.limit_c,
        str(working_values(rig)["display_unit"]),
        known.correction,
        rig.working_c,
        purpose.ambient_c,
        purpose.highest_c,
    )
    return several(tuple(kept[key].level for key in dict.fromkeys(wanted)), takes, rig.sensor)


class SeveralDetail(APIView):
    @endpoint("severalTemperatures", SeveralView)
    def get(self, request: Request, slug: str) -> Response:
        """The comparisons that say something of this sensor here, newest first."""
        rig = get_object_or_404(Rig, slug=slug)
        known = offset_of(rig)
        rows = [k.row for k in _levels(rig)] if rig.sensor else []
        ways = [Option(key.value, words) for key, words in SAYS.items()]
        unit = str(working_values(rig)["display_unit"]) if rig.sensor else "C"
        return reply(SeveralView(rows, ways, unit, known.step_c, known.school))

    @endpoint("enterSeveral", Several, SeveralSaveInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """The numbers go into the parameter sheet; Set-up's walk, or the link, takes them into the controller."""
        given = read(request, SeveralSaveInput)
        with changing(slug, given.revision) as rig:
            found = worked_out(rig, given.several)
            why = given.anyway.strip()
            check_entering(found.verdict, found.advice, why)
            before = working_values(rig)
            after = corrected_sheet(found.correction, before)
            save_sheet(rig, {**before, **after}, Sheet.Kind.AS_LEFT, ENTERED_HERE, request.user)
            changed = {n: v for n, v in after.items() if before.get(n) != v}
            note(
                rig,
                request.user,
                Station.CALIBRATION,
                f"Corrected at {len(found.levels)} temperatures by {SAYS[found.correcting]}",
                before={n: before.get(n) for n in changed},
                after=changed,
                why=found.advice
                if found.touch
                else f"The advice was: {SAYS_ADVICE[found.verdict]}."
                + (f" Entered all the same: {why}" if why else ""),
            )
        return reply(found, 201)


class SeveralPreview(APIView):
    changes_rig = False

    @endpoint("workOutSeveral", Several, SeveralInput)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        return reply(worked_out(rig, read(request, SeveralInput)))
