"""Profiles between the database and the core, and what the core needs to know of their rig."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from django.utils import timezone
from django.utils.text import slugify

from rellux.core.errors import Problem, Refused, refuse
from rellux.core.findings import Finding
from rellux.core.guarding.family import Family, family
from rellux.core.guarding.ladder import Ladder, Situation, ladder
from rellux.core.guarding.plan import Plan
from rellux.core.messages import temperature
from rellux.core.profiles.controller_table import ProgrammeForm, check_form
from rellux.core.profiles.firmware import USUAL, template_from
from rellux.core.profiles.kinds import KINDS
from rellux.core.profiles.load import Load, check_load
from rellux.core.profiles.predict import Conditions, beside
from rellux.core.profiles.profile import Profile, check_profile, refuse_beyond
from rellux.core.purpose.consequences import outgrown_profile
from rellux.core.sensing.sensors import describe, sensor_range
from rellux.server.api.shapes import as_json, of_plain
from rellux.server.guarding.domain import situation_of
from rellux.server.guarding.stored import plan_of
from rellux.server.guarding.views import rig_with_parts
from rellux.server.links.live import live_of
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run
from rellux.server.tuning.domain import furnace_of

from .models import ProfileVersion
from .stored import profile_from

LONGEST_NAME = 80
MOST_PROFILES = 200


@dataclass(frozen=True)
class ProgrammeForms:
    """How this rig's controller holds a programme, and how its firmware writes one."""

    form: ProgrammeForm = field(default_factory=ProgrammeForm)
    template: str = USUAL


def check_forms(forms: ProgrammeForms) -> None:
    """Raises ``Refused`` for a form or a template that cannot be."""
    check_form(forms.form)
    template_from(forms.template)


def forms_from(plain: Any) -> ProgrammeForms:
    """From plain data, empty for the usual ones. Raises ``Refused`` for what cannot be."""
    forms = of_plain(ProgrammeForms, plain, "programme_forms") if plain else ProgrammeForms()
    check_forms(forms)
    return forms


def check_programme(told: Any) -> None:
    """Raises ``Refused`` for what no run says of its profile."""
    if told == {}:
        return
    shaped = isinstance(told, dict) and told.keys() == {"key", "number", "start_s"}
    if not (
        shaped
        and isinstance(told["key"], str)
        and isinstance(told["number"], int)
        and isinstance(told["start_s"], int | float)
    ):
        raise refuse("programme", "does not say of which profile the run was", "key, number and start_s")


def check_for(rig: Rig, profile: Profile) -> None:
    """Raises ``Refused`` for a profile that cannot be, or that this rig must not run."""
    check_profile(profile)
    refuse_beyond(profile, rig.highest_c, sensor_range(rig.sensor), describe(rig.sensor))


def newest(rig: Rig) -> list[ProfileVersion]:
    """The newest version of every profile that is not removed, by name."""
    found: dict[str, ProfileVersion] = {}
    for version in rig.profile_versions.order_by("key", "number"):
        found[version.key] = version
    return sorted((v for v in found.values() if v.removed_at is None), key=lambda v: v.name.lower())


def ran_on(rig: Rig) -> list[ProfileVersion]:
    """Profiles of a rig that it may run as it is."""
    return [v for v in newest(rig) if not _cannot(rig, v)]


def outgrown(rig: Rig, profiles: list[ProfileVersion]) -> Iterator[Finding]:
    """Which of these profiles the rig may no longer run, and why."""
    for version in profiles:
        for problem in _cannot(rig, version)[:1]:
            yield outgrown_profile(version.key, version.name, problem)


def _cannot(rig: Rig, version: ProfileVersion) -> tuple[Problem, ...]:
    try:
        check_for(rig, profile_from(version.profile))
    except Refused as refused:
        return tuple(refused.problems)
    return ()


def used_in(rig: Rig) -> dict[tuple[str, int], list[Run]]:
    """Runs by the version of a profile they were of."""
    found: dict[tuple[str, int], list[Run]] = {}
    for run in rig.runs.filter(removed_at__isnull=True).exclude(programme={}):
        found.setdefault((run.programme["key"], run.programme["number"]), []).append(run)
    return found


def save_version(
    rig: Rig, who: str, key: str | None, name: str, kind: str, inputs: dict[str, Any], profile: Profile, why: str
) -> ProfileVersion:
    """A new version; of a new profile where ``key`` is None. Raises ``Refused`` for what cannot be."""
    check_for(rig, profile)
    name = name.strip()
    if not 1 <= len(name) <= LONGEST_NAME:
        raise refuse("name", "say what it is called", f"1…{LONGEST_NAME} characters")
    if kind and kind not in KINDS:
        raise refuse("kind", f"{kind!r} is no kind of profile", ", ".join(KINDS))
    if kind:
        KINDS[kind].read(inputs)
    known = newest(rig)
    if any(v.name.lower() == name.lower() and v.key != key for v in known):
        raise refuse("name", f"{name} is there already", "a name of its own")
    if key is None and len(known) >= MOST_PROFILES:
        raise refuse("name", f"{MOST_PROFILES} profiles are kept", "remove one first")
    key = key or _free_key(rig, name)
    last = rig.profile_versions.filter(key=key).first()
    return ProfileVersion.objects.create(
        rig=rig,
        key=key,
        number=(last.number if last else 0) + 1,
        name=name,
        at=timezone.now(),
        who=who[:60],
        kind=kind,
        inputs=inputs if kind else {},
        profile=as_json(profile),
        why=why[:400],
    )


def _free_key(rig: Rig, name: str) -> str:
    base = slugify(name)[:50] or "profile"
    taken = set(rig.profile_versions.values_list("key", flat=True))
    return next(k for k in (base, *(f"{base}-{i}" for i in range(2, MOST_PROFILES * 10))) if k not in taken)


def conditions_of(rig: Rig, load: Load | None, begins_c: float | None) -> tuple[Conditions, Situation, Ladder | None]:
    """What a prediction on this rig is made for; with the ladder of its plan, where there is one. It begins at the live reading, else at
    the room's temperature."""
    if load is not None:
        check_load(load)
    plan = plan_of(rig)
    situation = situation_of(rig, plan or Plan())
    room = situation.rig.rests_c
    begins = begins_c if begins_c is not None else reading_now(rig)
    rigs = beside(family(situation.rig), situation.rig.purpose)
    furnace, up_to_c = (None, 0.0) if situation.rig.purpose.neighbours else _as_learnt(rig)
    conditions = Conditions(rigs, situation.settings, room, room if begins is None else begins, load, furnace, up_to_c)
    return conditions, situation, ladder(situation) if plan else None


def _as_learnt(rig: Rig) -> tuple[Family | None, float]:
    """The furnace that Tuning learnt, and how hot it was recorded."""
    known = furnace_of(rig.identifications.first())
    if known is None:
        return None, 0.0
    says = f"the furnace as it was learnt from a run, up to {temperature(known.up_to_c, '.0f')}"
    return beside(Family(known.likely, known.fast, known.slow, says), purpose_of(rig)), known.up_to_c


def reading_now(rig: Rig) -> float | None:
    """What a linked controller shows, where it is live."""
    live = live_of(rig)
    return live.reading_c if live.status == "online" else None


def heated_rig(slug: str) -> Rig:
    """A rig that can follow a profile: its parts are chosen, and it heats."""
    rig = rig_with_parts(slug)
    if not purpose_of(rig).heats:
        raise refuse("purpose", "this rig does not heat: it follows no profile", "a rig that heats")
    return rig
