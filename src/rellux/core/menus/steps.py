"""A walk in words: what one hand does, and what the display must show then."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from .description import Description, Gesture, Press, Values, shown
from .machine import Panel
from .walk import Leg, Walk


@dataclass(frozen=True)
class WalkStep:
    """One step: what to do, and what is shown then (code and value). ``page`` where it leads, ``sets`` what it changes, ``warns``
    before it. ``gestures`` are how many of the walk's have been done after it."""

    says: str
    code: str
    value: str
    page: str
    sets: str
    warns: str
    gestures: int


def steps(description: Description, walked: Walk, read: Collection[str] = ()) -> tuple[WalkStep, ...]:
    """A walk's legs, going on in one direction told as one step; at a page that is to be ``read`` one stops."""
    found: list[WalkStep] = []
    panel, done, pending = Panel(description), 0, list[Leg]()
    end = walked.legs[-1].after.values if walked.legs else ()
    for i, leg in enumerate(walked.legs):
        pending.append(leg)
        after = walked.legs[i + 1] if i + 1 < len(walked.legs) else None
        if (
            after
            and not leg.sets
            and not after.sets
            and leg.gestures == after.gestures
            and leg.gestures[0].press is Press.TAP
            and panel.page(leg.after).key not in read
        ):
            continue
        done += sum(len(p.gestures) for p in pending)
        first, last = pending[0], pending[-1]
        display, page = panel.display(last.after), panel.page(last.after)
        going = [g for p in pending for g in p.gestures]
        says = _setting(description, leg) if leg.sets else f"{_sentence(going)}."
        found.append(
            WalkStep(
                says, display.code, display.value, page.key, leg.sets, _warning(description, first, last, end), done
            )
        )
        pending = []
    return tuple(found)


def _warning(description: Description, first: Leg, last: Leg, end: Values) -> str:
    """What must be known before: a value that is there for the moment only acts all the same."""
    if last.sets:
        page, at = description.page(last.sets), description.index[last.sets]
        if last.after.values[at] != end[at] and not page.forgets:
            if "setpoint_c" in page.sets:
                dialled = shown(page, last.after.values[at])
                off = f"the heater’s own supply must be off before you dial {dialled}."
                return f"Until it is put back this is the set-point: {off}"
            return "Only for the moment: it is changed again further on."
    groups = [description.groups[description.group_of[s.page]] for s in (first.before, last.after)]
    if groups[1].outputs_stop and not groups[0].outputs_stop:
        return "The outputs stop as long as you are in here."
    if groups[0].outputs_stop and not groups[1].outputs_stop:
        return "The outputs work again from here on."
    return ""


def _setting(description: Description, leg: Leg) -> str:
    page, at = description.page(leg.sets), description.index[leg.sets]
    panel, standing, keeping = Panel(description), leg.before, len(leg.gestures)
    for i, gesture in enumerate(leg.gestures):
        standing = panel.do(standing, gesture)
        now = standing.pending.value if standing.pending else standing.values[at]
        if standing.page == leg.before.page and now == leg.after.values[at]:
            keeping = i + 1
            break
    value = shown(page, leg.after.values[at]) if not page.forgets or leg.after.page == leg.before.page else ""
    does = _sentence(leg.gestures[:keeping]) or "Nothing to press"
    until = f" until it shows {value}" if value else ""
    kept = _sentence(leg.gestures[keeping:])
    return f"{does}{until}." + (f" {kept}: it stays." if kept else "")


def _sentence(gestures: Sequence[Gesture]) -> str:
    """Equal gestures one after the other said once; no full stop."""
    found: list[tuple[Gesture, int]] = []
    for gesture in gestures:
        if found and found[-1][0] == gesture:
            found[-1] = (gesture, found[-1][1] + 1)
        else:
            found.append((gesture, 1))
    words = ", then ".join(said(g) + (f" {n} times" if n > 1 else "") for g, n in found)
    return words[:1].upper() + words[1:]


def said(gesture: Gesture) -> str:
    """A gesture in words; a key of several words says itself what is done to it (*turn right*).

    >>> said(Gesture(Press.HOLD, "SET", 3.0)), said(Gesture(Press.WAIT, "", 2.5))
    ('hold SET 3 s', 'wait 2.5 s')
    """
    key = gesture.key.replace("+", " and ")
    return {
        Press.TAP: key if " " in key else f"press {key}",
        Press.HOLD: f"hold {key} {gesture.seconds:g} s",
        Press.POWER: f"switch off, hold {key}, and switch on" if key else "switch off and on",
        Press.SWITCH: f"supply off: set switch {key}, supply on",
        Press.WAIT: f"wait {gesture.seconds:g} s",
    }[gesture.press]
