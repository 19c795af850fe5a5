"""The library of a rig's profiles: every version, what it was made from, which runs were of it."""

import json
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from django.db import transaction
from django.http import Http404, HttpResponse
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.explain import Figure
from rellux.core.findings import Finding
from rellux.core.form import Field, Rows, plain
from rellux.core.messages import quantity
from rellux.core.profiles.files import as_csv, from_csv
from rellux.core.profiles.findings import conditions_say
from rellux.core.profiles.firmware import read_by, template_from
from rellux.core.profiles.kinds import ALL, KINDS
from rellux.core.profiles.kinds.kind import ProfileKind
from rellux.core.profiles.load import STUFF
from rellux.core.profiles.profile import Profile, commanded, start_of
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.api.strict_json import NotStrictError, loads
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig
from rellux.server.wiring.views import RevisionInput

from .domain import (
    ProgrammeForms,
    check_for,
    check_forms,
    conditions_of,
    forms_from,
    heated_rig,
    newest,
    save_version,
    used_in,
)
from .models import ProfileVersion
from .stored import profile_from

FORMAT, FORMAT_VERSION = "rellux-profile", 1


@dataclass(frozen=True)
class ProfileKindView:
    """A kind of profile with its form; ``start`` holds a value for every field."""

    key: str
    title: str
    source: str
    caution: str
    fields: list[Field]
    rows: Rows | None
    start: dict[str, Any]


@dataclass(frozen=True)
class StuffView:
    key: str
    name: str


@dataclass(frozen=True)
class ProfileLine:
    """One profile of the library, as its newest version is; ``runs`` of any of its versions."""

    key: str
    number: int
    name: str
    at: datetime
    kind: str
    highest_c: float
    planned_s: float
    runs: int


@dataclass(frozen=True)
class ProfilesView:
    """``says``: what a prediction is made for now; ``begins_c``: where it would begin."""

    revision: int
    profiles: list[ProfileLine]
    kinds: list[ProfileKindView]
    stuff: list[StuffView]
    says: str
    model: str
    begins_c: float
    room_c: float
    power_w: float
    highest_c: float
    alarms: list[str]
    forms: ProgrammeForms


@dataclass(frozen=True)
class VersionLine:
    number: int
    at: datetime
    who: str
    why: str
    runs: list[int]


@dataclass(frozen=True)
class ProfileView:
    """One version of a profile; ``versions`` are all there are, newest first."""

    revision: int
    key: str
    number: int
    name: str
    kind: str
    inputs: dict[str, Any]
    profile: Profile
    versions: list[VersionLine]


@dataclass(frozen=True)
class ProfileInput:
    """``kind`` and ``inputs``: what it was made from, as long as the segments are those that follow."""

    revision: int
    name: str
    profile: Profile
    kind: str = ""
    inputs: dict[str, Any] = field(default_factory=dict)
    why: str = ""


@dataclass(frozen=True)
class FormsInput:
    revision: int
    forms: ProgrammeForms


@dataclass(frozen=True)
class BuildInput:
    kind: str
    inputs: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class BuiltView:
    """The profile that follows from a kind's inputs, with what it is computed from and what is wrong with them."""

    profile: Profile
    inputs: dict[str, Any]
    figures: list[Figure]
    findings: list[Finding]


@dataclass(frozen=True)
class TableText:
    """A CSV table, what was pasted from a spreadsheet, or a profile's JSON file; with a ``template`` a file of one's own firmware."""

    text: str
    template: str = ""


@dataclass(frozen=True)
class ReadView:
    name: str
    kind: str
    inputs: dict[str, Any]
    profile: Profile


def kind_of(key: str) -> ProfileKind:
    if key not in KINDS:
        raise refuse("kind", f"{key!r} is no kind of profile", ", ".join(KINDS))
    return KINDS[key]


def version_of(rig: Rig, key: str, number: int | None = None) -> ProfileVersion:
    """One version of a profile, the newest where none is named."""
    versions = rig.profile_versions.filter(key=key)
    found = versions.first() if number is None else versions.filter(number=number).first()
    if found is None:
        raise Http404("There is no such profile.")
    return found


def profiles_view(rig: Rig) -> ProfilesView:
    used = used_in(rig)
    conditions, situation, _ = conditions_of(rig, None, None)
    return ProfilesView(
        rig.revision,
        [_line(v, used) for v in newest(rig)],
        [
            ProfileKindView(k.key, k.title, k.source, k.caution, list(k.fields()), k.rows(), plain(k.shape()))
            for k in ALL
        ],
        [StuffView(key, s.name) for key, s in STUFF.items()],
        conditions_say(conditions),
        conditions.rigs.says,
        round(conditions.begins_c, 1),
        conditions.room_c,
        conditions.power_w,
        rig.highest_c,
        [a.name for a in situation.plan.alarms],
        forms_from(rig.programme_forms),
    )


def _line(v: ProfileVersion, used: dict[tuple[str, int], list[Any]]) -> ProfileLine:
    profile = profile_from(v.profile)
    start = start_of(profile, v.rig.ambient_c, v.rig.ambient_c)
    runs = sum(len(found) for (key, _), found in used.items() if key == v.key)
    planned = commanded(profile, start)[-1].time_s
    return ProfileLine(v.key, v.number, v.name, v.at, v.kind, profile.highest_c, planned, runs)


def profile_view(rig: Rig, v: ProfileVersion) -> ProfileView:
    used = used_in(rig)
    versions = [
        VersionLine(o.number, o.at, o.who, o.why, [r.pk for r in used.get((o.key, o.number), [])])
        for o in rig.profile_versions.filter(key=v.key)
    ]
    return ProfileView(rig.revision, v.key, v.number, v.name, v.kind, v.inputs, profile_from(v.profile), versions)


def _told(profile: Profile) -> dict[str, Any]:
    """A profile for the book."""
    corners = commanded(profile, start_of(profile, 20.0, 20.0))
    return {
        "highest_c": profile.highest_c,
        "segments": len(profile.segments),
        "planned_s": round(corners[-1].time_s, 1),
    }


class Profiles(APIView):
    @endpoint("profiles", ProfilesView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(profiles_view(heated_rig(slug)))

    @endpoint("createProfile", ProfileView, ProfileInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, ProfileInput)
        heated_rig(slug)
        with changing(slug, given.revision) as rig:
            made = save_version(
                rig, request.user.title, None, given.name, given.kind, given.inputs, given.profile, given.why
            )
            note(
                rig,
                request.user,
                Station.PROFILES,
                f"Profile made: {made.name}",
                after=_told(given.profile),
                why=given.why,
            )
        return reply(profile_view(rig, made), 201)


class ProfileDetail(APIView):
    @endpoint("profile", ProfileView, query={"number": int})
    def get(self, request: Request, slug: str, key: str) -> Response:
        """Its newest version, or the one of that number."""
        rig = heated_rig(slug)
        asked = request.query_params.get("number", "")
        return reply(profile_view(rig, version_of(rig, key, int(asked) if asked.isdecimal() else None)))

    @endpoint("saveProfile", ProfileView, ProfileInput)
    def put(self, request: Request, slug: str, key: str) -> Response:
        """A new version: what is there is never changed."""
        given = read(request, ProfileInput)
        before = version_of(heated_rig(slug), key)
        with changing(slug, given.revision) as rig:
            made = save_version(
                rig, request.user.title, key, given.name, given.kind, given.inputs, given.profile, given.why
            )
            note(
                rig,
                request.user,
                Station.PROFILES,
                f"Profile succeeded: {made.name}, version {quantity(made.number)}",
                before=_told(profile_from(before.profile)),
                after=_told(given.profile),
                why=given.why,
            )
        return reply(profile_view(rig, made))


class ProfileRemove(APIView):
    @endpoint("removeProfile", None, RevisionInput, status=204)
    def post(self, request: Request, slug: str, key: str) -> Response:
        """Out of the library; its versions stay for the runs that were of it, and it can be brought back."""
        given = read(request, RevisionInput)
        found = version_of(heated_rig(slug), key)
        with changing(slug, given.revision) as rig:
            found.removed_at = timezone.now()
            found.save()
            note(rig, request.user, Station.PROFILES, f"Profile removed: {found.name}")
        return Response(status=204)


class ProfileRestore(APIView):
    @endpoint("restoreProfile", ProfileView, RevisionInput)
    def post(self, request: Request, slug: str, key: str) -> Response:
        """Back into the library. Refused where another has its name by now."""
        given = read(request, RevisionInput)
        found = version_of(heated_rig(slug), key)
        with changing(slug, given.revision) as rig, transaction.atomic():
            if any(v.name.lower() == found.name.lower() for v in newest(rig)):
                raise refuse("name", f"{found.name} is there already", "rename the other one first")
            found.removed_at = None
            found.save()
            note(rig, request.user, Station.PROFILES, f"Profile brought back: {found.name}")
        return reply(profile_view(rig, found))


class ProfileForms(APIView):
    @endpoint("saveProgrammeForms", ProfilesView, FormsInput)
    def put(self, request: Request, slug: str) -> Response:
        """How this rig's controller holds a programme, and how its own firmware writes one: kept with the rig."""
        given = read(request, FormsInput)
        check_forms(given.forms)
        heated_rig(slug)
        with changing(slug, given.revision) as rig:
            before, rig.programme_forms = rig.programme_forms, as_json(given.forms)
            rig.save()
            note(
                rig,
                request.user,
                Station.PROFILES,
                "Form of a controller's programme and of a firmware's file kept",
                before=before,
                after=rig.programme_forms,
            )
        return reply(profiles_view(rig))


class ProfileBuild(APIView):
    changes_rig = False

    @endpoint("buildProfile", BuiltView, BuildInput)
    def post(self, request: Request, slug: str) -> Response:
        """What follows from a kind's inputs; nothing is kept."""
        given = read(request, BuildInput)
        rig = heated_rig(slug)
        kind = kind_of(given.kind)
        inputs = kind.read(given.inputs)
        profile = kind.build(inputs)
        check_for(rig, profile)
        return reply(BuiltView(profile, plain(inputs), list(kind.figures(inputs)), list(kind.findings(inputs))))


class ProfileRead(APIView):
    changes_rig = False

    @endpoint("readProfile", ReadView, TableText)
    def post(self, request: Request, slug: str) -> Response:
        """A profile out of a table or a file; nothing is kept."""
        rig = heated_rig(slug)
        found = _read(read(request, TableText))
        check_for(rig, found.profile)
        return reply(found)


def _read(given: TableText) -> ReadView:
    if given.template:
        return ReadView("", "", {}, read_by(template_from(given.template), given.text))
    if given.text.lstrip("\ufeff \n\r\t").startswith("{"):
        return _from_json(given.text)
    return ReadView("", "", {}, from_csv(given.text))


def _from_json(text: str) -> ReadView:
    try:
        data = loads(text.encode())
    except NotStrictError as error:
        raise refuse("table", f"begins as JSON, and is none: {error}"[:200], "a profile's file") from None
    if data.get("format") != FORMAT or data.get("version") != FORMAT_VERSION:
        raise refuse("table", "is no profile of this version", f"format {FORMAT!r}, version {FORMAT_VERSION}")
    kind, inputs = str(data.get("kind") or ""), data.get("inputs") or {}
    if kind:
        kind_of(kind).read(inputs)
    return ReadView(str(data.get("name") or ""), kind, inputs, profile_from(data.get("profile")))


class ProfileFile(APIView):
    @endpoint("profileFile", None, query={"number": int, "form": str})
    def get(self, request: Request, slug: str, key: str) -> HttpResponse:
        """The profile as CSV, or with ``form=json`` as the file that holds what it was made from too."""
        rig = heated_rig(slug)
        asked = request.query_params.get("number", "")
        v = version_of(rig, key, int(asked) if asked.isdecimal() else None)
        profile = profile_from(v.profile)
        as_file = request.query_params.get("form") == "json"
        if as_file:
            whole = {"format": FORMAT, "version": FORMAT_VERSION, "name": v.name, "kind": v.kind, "inputs": v.inputs}
            told = json.dumps({**whole, "profile": as_json(profile)}, indent=1, ensure_ascii=False)
            answer = HttpResponse(told, content_type="application/json")
        else:
            answer = HttpResponse(as_csv(profile), content_type="text/csv; charset=utf-8")
        answer["Content-Disposition"] = f'attachment; filename="{v.key}-{v.number}.{"json" if as_file else "csv"}"'
        return answer
