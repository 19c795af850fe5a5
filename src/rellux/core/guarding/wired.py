"""Whether what the plan does is in the wiring at all, and is there as the plan means it."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..control.alarms.settings import Action, AlarmKind
from ..findings import Finding, Severity
from ..wiring.circuit.verdicts import FailureVerdict, Outcome
from ..wiring.kinds.instruments import COOLS
from ..wiring.model import ConnectionList
from ..wiring.names import split
from .plan import Plan, PlannedAlarm

SEEN = {Action.BEACON: ("beacon", "lamp"), Action.BUZZER: ("buzzer",)}
"""Kinds of parts by which somebody sees or hears an alarm."""
CONTACT = ("AL1", "AL2")
"""The terminals of a controller's alarm contact."""
MEANT = {
    "high": (AlarmKind.HIGH, AlarmKind.ABOVE_SETPOINT),
    "low": (AlarmKind.LOW, AlarmKind.BELOW_SETPOINT),
    "deviation": (AlarmKind.ABOVE_SETPOINT, AlarmKind.BELOW_SETPOINT, AlarmKind.OUTSIDE_BAND, AlarmKind.INSIDE_BAND),
}
"""What a controller's alarm may be set to in the connection list, in the kinds of a plan."""


UNSTOPPED = frozenset({FailureVerdict.UNCALLED, FailureVerdict.UNLIMITED, FailureVerdict.UNCOVERED})
"""What a solved failure is where nothing independent ends the heat."""


@dataclass(frozen=True)
class Unnoticed:
    """Something that may have failed already without anybody noticing, and what, failing after it, leaves nothing that stops the heat."""

    title: str
    then: tuple[str, ...]


def unstopped(outcomes: Iterable[Outcome]) -> Outcome | None:
    """The first failure that the limiter does not end, as the circuit is wired; ``None`` where it ends all of them."""
    return next((o for o in outcomes if o.verdict in UNSTOPPED), None)


def unnoticed(outcomes: Iterable[Outcome]) -> tuple[Unnoticed, ...]:
    """What the proof is for."""
    return tuple(Unnoticed(o.title, o.second) for o in outcomes if o.second)


@dataclass(frozen=True)
class Wired:
    """Of the connection list: kinds of parts that are joined to anything, what a wired alarm contact is set to (empty: none is), and
    whether it is closed while its relay is without power."""

    kinds: frozenset[str]
    alarm: str
    rests_closed: bool = True


def wired_in(wiring: ConnectionList) -> Wired:
    """What of a list is about alarms."""
    joined = {split(end)[0] for end in wiring.wired}
    contacts = {split(end)[0] for end in wiring.wired if split(end)[1] in CONTACT}
    kinds = frozenset(p.type.kind for p in wiring.parts if p.name in joined)
    on_it = next((p.ratings for p in wiring.parts if p.name in contacts), None)
    if on_it is None:
        return Wired(kinds, "")
    return Wired(kinds, str(on_it.get("alarm", "high")), on_it.get("alarm_rest", "closed") == "closed")


def wired_findings(plan: Plan, wired: Wired, outcomes: Iterable[Outcome]) -> list[Finding]:
    """Where plan and wiring contradict one another. ``outcomes``: of every single failure of the circuit."""
    found = []
    if plan.limiter and (open_one := unstopped(outcomes)):
        found.append(
            Finding(
                "guarding.limiter-not-in-the-way",
                Severity.DANGER,
                title="As it is wired, the limiter of the plan does not stop it",
                reason=f"{open_one.title}: {open_one.says}",
                fix="See Wiring: what the limiter opens must lie in the way of all its heat, whatever has failed.",
                subjects=(open_one.subject,),
            )
        )
    return [*found, *contact_findings(plan, wired)]


def contact_findings(plan: Plan, wired: Wired) -> list[Finding]:
    """Where the plan's alarms and what is joined to an alarm contact contradict one another: told under Guarding and under Wiring."""
    found = []
    for action, kinds in SEEN.items():
        names = [a.name for a in plan.alarms if action in a.does]
        if names and not set(kinds) & wired.kinds:
            found.append(
                Finding(
                    "guarding.not-wired",
                    Severity.ADVICE,
                    title=f"The plan’s {action.value} is not in the wiring",
                    reason=f"{', '.join(names)} would be seen on the screen only, where Rellux is linked and somebody looks.",
                    fix="One on a device of its own, or take it out of the plan: the alarm contact is the cooler’s."
                    if wired.alarm == COOLS
                    else "Wire one to the alarm contact, or take it out of the plan.",
                    subjects=(action.value,),
                )
            )
    meant = MEANT.get(wired.alarm)
    if meant and not any(a.alarm.kind in meant for a in plan.alarms):
        found.append(
            Finding(
                "guarding.wired-otherwise",
                Severity.FAULT,
                title=f"The wired alarm contact is set to {wired.alarm}, and the plan has no such alarm",
                reason="Contact and plan do not belong together: one of them is not as it is meant.",
                fix="Set the controller’s alarm as planned, and say so under Wiring; or plan it.",
                subjects=(wired.alarm,),
            )
        )
    for planned in plan.alarms:
        seen = any(action in SEEN for action in planned.does)
        if seen and planned.alarm.kind in (meant or ()) and planned.alarm.de_energise != wired.rests_closed:
            found.append(_opens_when_it_calls(planned, wired.rests_closed))
    return found


def _opens_when_it_calls(planned: PlannedAlarm, rests_closed: bool) -> Finding:
    """The list is drawn for a contact that closes when the alarm calls: a relay that drops out to alarm closes its rest contact, one that
    pulls in its working contact."""
    does, other = ("drops out", "pulls in") if planned.alarm.de_energise else ("pulls in", "drops out")
    now, wanted = ("closed", "open") if rests_closed else ("open", "closed")
    return Finding(
        "guarding.contact-opens",
        Severity.FAULT,
        title=f"{planned.name} opens the wired contact instead of closing it",
        reason=f"Its relay {does} to alarm, and the wired contact is {now} without power: what hangs on it is "
        "on all the time and goes out when the alarm calls.",
        fix=f"Wire the contact that is {wanted} without power and say so under Wiring, or plan an alarm whose relay {other}.",
        subjects=(planned.name, "contact"),
    )
