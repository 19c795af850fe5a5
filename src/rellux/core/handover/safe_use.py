"""Safe use on one page: what whoever is handed a rig must know before, during and after, in the order it is needed."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ..control.alarms.settings import KINDS as ALARM_KINDS
from ..guarding.cooling import TOUCHED_C
from ..guarding.plan import LimiterReset, Plan, PlannedAlarm
from ..messages import spoken_time, temperature
from ..purpose.cautions import CAUTIONS
from ..purpose.purpose import Purpose, RigKind
from ..spine import Station
from ..units import Kind


class Picture(StrEnum):
    """What is drawn beside a part of the page."""

    READ = "read"
    HOT = "hot"
    BELL = "bell"
    SWITCH = "switch"


@dataclass(frozen=True)
class PartOfUse:
    """One part of the page: its picture, its heading, its lines."""

    picture: Picture
    title: str
    lines: tuple[str, ...]


BEFORE = (Station.PURPOSE, Station.PARTS, Station.WIRING)


def safe_use(
    kind: RigKind, purpose: Purpose, plan: Plan | None, cools_s: float | None, fed_by: Sequence[str] = ()
) -> tuple[PartOfUse, ...]:
    """The page. ``cools_s``: from the working temperature until it may be touched, ``None`` where it never may; ``fed_by``: names of its
    supplies."""
    cautions = [c for c in CAUTIONS if c.applies(kind, purpose)]
    before = tuple(f"{c.lead} {c.says}" for c in cautions if c.station in BEFORE)
    during = tuple(f"{c.lead} {c.says}" for c in cautions if c.station not in BEFORE)
    return (
        PartOfUse(Picture.READ, "Before it is switched on", (*_made_for(purpose), *before)),
        *(
            [
                PartOfUse(
                    Picture.HOT,
                    "While it is hot" if purpose.heats else "While it runs",
                    (*_watched_over(plan), *during),
                )
            ]
            if purpose.acts
            else _while_watched(during)
        ),
        PartOfUse(Picture.BELL, "When something calls or trips", _calls(purpose, plan)),
        PartOfUse(Picture.SWITCH, "When it is switched off", _after(purpose, cools_s, fed_by)),
    )


def _made_for(purpose: Purpose) -> tuple[str, ...]:
    never = f"Never above {temperature(purpose.highest_c)}: {purpose.highest_reason}."
    if purpose.cools and purpose.lowest_c is not None:
        below = f"Never below {temperature(purpose.lowest_c)}: {purpose.lowest_reason}."
        return (f"It was built to hold {temperature(purpose.working_c)}, with no other load. {below} {_warm(purpose)}",)
    if not purpose.heats:
        return (f"It watches something that is usually at {temperature(purpose.working_c)}. {never}",)
    return (
        f"It was built to work at {temperature(purpose.working_c)}, for nothing hotter and for no other load. {never}",
    )


def _warm(purpose: Purpose) -> str:
    return f"Above {temperature(purpose.highest_c)}: {purpose.highest_reason}."


def _watched_over(plan: Plan | None) -> tuple[str, ...]:
    if plan and plan.limiter:
        return ("Stay with it in the first runs. Later it is left alone only where its limiter was proved in time.",)
    return ("It is never left alone: nothing independent stops it.",)


def _while_watched(during: tuple[str, ...]) -> list[PartOfUse]:
    return [PartOfUse(Picture.HOT, "While it is in use", during)] if during else []


def _calls(purpose: Purpose, plan: Plan | None) -> tuple[str, ...]:
    if plan is None:
        return ("No alarm was planned: look at the reading yourself.",)
    found = [f"{a.name}{_at(a)}: {a.response}" for a in plan.alarms]
    if plan.limiter:
        by_hand = plan.limiter.reset is LimiterReset.MANUAL
        again = (
            "Reset it by hand only after the cause was found"
            if by_hand
            else "It closes by itself: switch off before that"
        )
        found.append(
            f"The limiter tripped (at {temperature(plan.limiter.trip_c)}): switch off, let it cool, look for the cause. {again}. "
            "Turning it up is no repair."
        )
    if plan.fuse:
        found.append(
            f"The thermal fuse opened (for {temperature(plan.fuse.rating_c)}): whoever built the rig replaces it by the same, and "
            "finds out why. It is never bridged."
        )
    return tuple(found) or ("Nothing calls: look at the reading yourself.",)


def _at(planned: PlannedAlarm) -> str:
    """At which reading it calls, where it is one."""
    known = ALARM_KINDS[planned.alarm.kind].quantity
    return f" (at {temperature(planned.alarm.value)})" if known is Kind.TEMPERATURE else ""


def _made_dead(fed_by: Sequence[str]) -> str:
    if len(fed_by) < 2:
        return "unplug it or lock its switch off"
    return f"it is fed by {' and '.join(fed_by)}: unplug or lock off each of them"


def _after(purpose: Purpose, cools_s: float | None, fed_by: Sequence[str]) -> tuple[str, ...]:
    found = []
    if purpose.heats and cools_s:
        found.append(
            f"It stays hot: from {temperature(purpose.working_c)} it may take up to {spoken_time(cools_s)} until it can be touched "
            f"({temperature(TOUCHED_C)}). Look at the reading, not at the lamp; a thick load inside stays hot longer."
        )
    elif purpose.heats and cools_s is None:
        found.append("It never gets cool enough to be held for long in a room as warm as this.")
    found.append(
        f"Before a cover is opened: {_made_dead(fed_by)}, wait, and measure that nothing is live. That is work for the skilled."
    )
    found.append("What was changed, tripped or tried goes into the log behind this sheet, with date and name.")
    return tuple(found)
