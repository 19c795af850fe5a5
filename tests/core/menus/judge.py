"""The judge: every key of the panel tried at every place, cheapest first, until the values stand. It knows nothing of walks."""

from heapq import heappop, heappush
from itertools import count

from rellux.core.menus.description import Description, Gesture, Keeps, Press
from rellux.core.menus.entry import cost
from rellux.core.menus.machine import Panel, Standing


def gestures_of(made: Description) -> list[Gesture]:
    """Everything that can be done: all keys tapped, held for as long as anything asks and some seconds, power, switches, waiting."""
    asked = [w.gesture for w in made.ways] + [g for x in made.groups for g in (x.next, x.previous, x.leave) if g]
    held = {g.seconds for g in asked if g.press is Press.HOLD} | {1.0, 2.0, 3.0}
    found = [Gesture(Press.TAP, k) for k in made.keys] + [
        Gesture(Press.HOLD, k, s) for k in made.keys for s in sorted(held)
    ]
    found += [g for g in asked if g.press in (Press.POWER, Press.SWITCH)]
    waits = {s for s in (made.timeout_s, made.editing.pause_s) if s}
    return list(dict.fromkeys([*found, *(Gesture(Press.WAIT, "", s) for s in waits)]))


def named(made: Description) -> dict[str, set[int]]:
    found: dict[str, set[int]] = {}
    for condition in [c for p in made.pages for c in p.shown_when] + [c for w in made.ways for c in w.when]:
        found.setdefault(condition.page, set()).update(condition.counts)
    return found


def least(made: Description, found: tuple[int, ...], goal: tuple[int, ...], most: int) -> float | None:
    """The least cost from home to home; infinite where there is no way, ``None`` where more than ``most`` places were looked at.
    A page takes only values that it came with, that are wanted, or that something depends on (each step is kept where the controller keeps
    each step), and is not put back for what that did to others."""
    panel, may, order = Panel(made), named(made), count()
    gestures = gestures_of(made)
    steps = Keeps.STEP in made.editing.kept_by
    begin = (Standing(0, found), found)
    best, heap, looked = {begin: 0.0}, [(0.0, next(order), begin)], 0
    while heap:
        so_far, _, here = heappop(heap)
        if so_far > best[here]:
            continue
        standing, came = here
        if standing.page == 0 and standing.values == goal and standing.pending is None:
            return so_far
        looked += 1
        if looked > most:
            return None
        for gesture in gestures:
            there = panel.do(standing, gesture)
            if there.guarded or (
                there.page == standing.page and there.values == standing.values and there.pending == standing.pending
            ):
                continue
            left, kept = panel.page(standing), there.values[standing.page]
            allowed = {came[standing.page], goal[standing.page], *may.get(left.key, ())}
            if kept not in allowed and not left.forgets and not (steps and there.page == standing.page):
                continue
            meant = kept in may.get(left.key, ()) or (left.key in may and kept == goal[standing.page])
            put_back = kept == came[standing.page] and not meant
            others = zip(made.pages, there.values, came, strict=True)
            trick = put_back and any(now != then and not p.forgets for p, now, then in others)
            if there.page == standing.page:
                if trick and not steps:
                    continue
                then = (Standing(there.page, there.values, there.pending), came)
            else:
                if trick:
                    continue
                then = (Standing(there.page, there.values), there.values)
            total = so_far + cost(gesture)
            if total < best.get(then, float("inf")):
                best[then] = total
                heappush(heap, (total, next(order), then))
    return float("inf")
