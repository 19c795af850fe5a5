"""From what is in a controller to what is wanted, in the fewest keys: a search over places and values, on the machine itself.

A page takes only values that it had, that are wanted, or that something else depends on (an access code, a set-point dialled beyond the
scale), and none is changed and put back for what that does to another. No digits of °F are taken for °C on the way. Up to that, the walk
is the cheapest there is, or its distance to a lower bound is told: the search (``A*``) is exact until it grows too large, then weighted,
which bounds the gap, then group by group.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from heapq import heappop, heappush
from itertools import count

from ..errors import Problem, Refused, refuse, refuse_all
from .description import AfterLast, Counted, Description, Gesture, Keeps, Press, Values, shown
from .entry import FAR, cost, entries, total
from .machine import Panel, Standing

FEW, EXACT, MANY = 12, 25_000, 2_000
"""With up to so many changes the walk is exact up to so many places looked at; with more, fewer are (our choice)."""
WEIGHTED = ((1.05, 2_000), (1.5, 3_000))
"""Weights of what is still to come, where the exact search grows too large, and places looked at (our choice): the first is within 5 %."""
BUDGET = 60_000
"""Places looked at in all, after which nobody waits any longer (our choice)."""
ROUNDS = 60
"""Walks, of one group each, after which no end is seen (our choice)."""
ENTANGLED = "these menus are too entangled for a walk"


@dataclass(frozen=True)
class Leg:
    """One thing that is done: gestures, and where the controller stands before and after. ``sets``: the page whose value it changes."""

    gestures: tuple[Gesture, ...]
    before: Standing
    after: Standing
    sets: str = ""


@dataclass(frozen=True)
class Walk:
    """``cost`` in taps; no walk costs less than ``at_least``."""

    legs: tuple[Leg, ...]
    cost: float
    at_least: float

    @property
    def gap(self) -> float:
        """How much more than the least it may cost, as a share."""
        return self.cost / self.at_least - 1.0 if self.at_least > 0 else 0.0

    @property
    def gestures(self) -> tuple[Gesture, ...]:
        return tuple(g for leg in self.legs for g in leg.gestures)


def walk(description: Description, found: Values, wanted: Mapping[str, int]) -> Walk:
    """From home with what is ``found`` to home with what is ``wanted`` (by page; the others stay). Raises ``Refused`` for values that a
    page cannot have, and for pages that no keys lead to without passing what is guarded."""
    goal = list(found)
    problems = []
    for key, counts in wanted.items():
        page = description.page(key)
        if not page.least <= counts <= page.most:
            low, high = (shown(page, c) for c in (page.least, page.most))
            problems.append(Problem(key, f"{page.code} cannot be {counts}", f"{low}…{high}"))
        elif page.choices and page.choices[counts].guarded:
            problems.append(
                Problem(key, f"{page.choices[counts].code} is guarded: no walk goes there", "another choice")
            )
        goal[description.index[key]] = counts
    refuse_all(problems)
    return _Search(description, Standing(0, found), tuple(goal), ()).result()


def check_pass(description: Description, values: Values, pages: tuple[str, ...]) -> Walk:
    """From home past every one of these pages, to read it again, and home."""
    at = tuple(description.index[p] for p in pages)
    return _Search(description, Standing(0, values), values, at).result()


def way_to(description: Description, here: Standing, page: str) -> Walk:
    """From anywhere to a page, changing nothing that stays changed."""
    at = description.index[page]
    return _Search(description, here, here.values, (at,), ends_at=at).result()


def way_out(description: Description, here: Standing) -> Walk:
    """From anywhere home."""
    return _Search(description, here, here.values, ()).result()


State = tuple[int, Values, int]


class _Search:
    """One search. ``visit``: pages that must be stood on; ``ends_at``: where it may end; ``open_pages`` may stand at anything then."""

    def __init__(
        self,
        description: Description,
        start: Standing,
        goal: Values,
        visit: tuple[int, ...],
        ends_at: int = 0,
        open_pages: frozenset[int] = frozenset(),
        budget: list[int] | None = None,
    ) -> None:
        self.budget = [BUDGET] if budget is None else budget
        self.description, self.panel = description, Panel(description)
        self.begin, self.goal, self.visit, self.ends_at = start, goal, visit, ends_at
        self.closed = tuple(i for i in range(len(goal)) if i not in open_pages)
        self.bit = {page: 1 << i for i, page in enumerate(visit)}
        self.all_seen = (1 << len(visit)) - 1
        self._entries: dict[tuple[int, int, int, int, int], list[tuple[Gesture, ...]]] = {}
        self._leasts: dict[tuple[int, int, int], float] = {}
        self.at_least = 0.0

    # ── what depends on what ─────────────────────────────────────────────────────────────────────────────────────────────────────────

    @cached_property
    def named(self) -> dict[int, set[int]]:
        """Values of a page that something else depends on."""
        found: dict[int, set[int]] = {}
        conditions = [c for p in self.description.pages for c in p.shown_when]
        conditions += [c for w in self.description.ways for c in w.when]
        for condition in conditions:
            found.setdefault(self.description.index[condition.page], set()).update(condition.counts)
        return found

    @cached_property
    def resets(self) -> dict[int, list[tuple[int, tuple[int, ...]]]]:
        """For a page, whose change does something to it, and which values of that."""
        found: dict[int, list[tuple[int, tuple[int, ...]]]] = {}
        for i, page in enumerate(self.description.pages):
            for effect in page.effects:
                found.setdefault(self.description.index[effect.page], []).append((i, effect.when))
        return found

    @cached_property
    def bounds(self) -> frozenset[int]:
        """Pages that bound others."""
        index = self.description.index
        return frozenset(index[o] for p in self.description.pages for o in (p.low_from, p.high_from) if o)

    @cached_property
    def leads(self) -> frozenset[int]:
        """Pages on which something else depends being possible at all: where they stand matters on the way."""
        return frozenset(self.named) | self.bounds

    @cached_property
    def harmless(self) -> frozenset[int]:
        """Pages that may be set as soon as they can be: nothing depends on them but pages that only they reset, and that lead nowhere."""
        index = self.description.index

        def only(target: int) -> bool:
            return target not in self.leads and len(self.resets[target]) == 1

        pages = enumerate(self.description.pages)
        return frozenset(i for i, p in pages if i not in self.leads and all(only(index[e.page]) for e in p.effects))

    def _at_once(self, at: int, values: Values) -> bool:
        """Whether to set this page now is never dearer than later."""
        return at in self.harmless and self._stands(at, values)

    def _stands(self, at: int, values: Values) -> bool:
        """Whether nothing that resets this page will still change."""
        sources = {s for s, _ in self.resets.get(at, ())}
        chained = at in self.chained
        return not chained and all(
            s in self.harmless and values[s] == self.goal[s] and self._stands(s, values) for s in sources
        )

    @cached_property
    def chained(self) -> frozenset[int]:
        """Pages that reset each other in a circle, or themselves."""
        found = set()
        for at in self.resets:
            seen, ahead = set[int](), {s for s, _ in self.resets[at]}
            while ahead:
                seen |= ahead
                ahead = {s for a in ahead for s, _ in self.resets.get(a, ())} - seen
            if at in seen:
                found.add(at)
        return frozenset(found)

    def _wasted(self, at: int, values: Values) -> bool:
        """Whether what is set on this page now will be undone by another that has still to change."""
        return any(
            values[source] != self.goal[source]
            and (not when or self.goal[source] in when)
            and source not in self.resets
            for source, when in self.resets.get(at, ())
        )

    @cached_property
    def units(self) -> tuple[int, ...]:
        """Pages that say in which unit the others are."""
        return tuple(i for i, p in enumerate(self.description.pages) if "display_unit" in p.sets)

    def _in_the_old_unit(self, at: int, values: Values) -> bool:
        """Whether digits of the new unit would be taken in the old one: what is meant as 140 °F would be 140 °C until the unit is set.
        Fewer digits than before are no hotter in either unit."""
        if self.description.pages[at].counted is Counted.PLAIN:
            return False
        return any(values[u] != self.goal[u] and not self._cools(u, at, values) for u in self.units)

    def _too_hot_yet(self, at: int, values: Values) -> bool:
        """Whether setting this unit now would take digits of °F for °C: those that must fall are to be set before."""
        if at not in self.units:
            return False
        return any(values[i] != self.goal[i] and self._cools(at, i, values) for i in range(len(values)))

    def _cools(self, unit: int, at: int, values: Values) -> bool:
        """Whether a page that keeps its digits as its unit becomes °C must show fewer then."""
        page, choice = self.description.pages[at], self.description.pages[unit].choices[self.goal[unit]]
        kept = all(source != unit for source, _ in self.resets.get(at, ()))
        return (
            page.counted is Counted.TEMPERATURE and choice.values[:1] == ("C",) and kept and self.goal[at] < values[at]
        )

    # ── how far it still is at least ─────────────────────────────────────────────────────────────────────────────────────────────────

    @cached_property
    def entry_cost(self) -> dict[int, float]:
        """For a page that must change and that nothing resets, what its keys cost at least, those that keep it left out."""
        values, found = self.begin.values, {}
        for at in range(len(values)):
            if values[at] != self.goal[at] and at not in self.resets and at not in self.keys:
                page, editing = self.description.pages[at], self.description.editing
                bound = (page.low_from or page.high_from) and editing.per_second and not page.choices
                ways = entries(editing, page, values[at], self.goal[at], page.least, page.most)
                found[at] = 1.0 if bound else min(map(total, ways), default=0.0)
        return found

    @cached_property
    def keys(self) -> dict[int, dict[int, frozenset[int]]]:
        """Pages that must stand at something else than is wanted for every way into a group: by page, by group, at what."""
        found: dict[int, dict[int, frozenset[int]]] = {}
        for i, group in enumerate(self.description.groups):
            ways = [w for w in self.description.ways if w.to == group.key]
            if not ways or any(g.leaves_to == group.key for g in self.description.groups):
                continue
            asked = [{self.description.index[c.page]: frozenset(c.counts) for c in w.when} for w in ways]
            for at in set.intersection(*(set(a) for a in asked)):
                counts = frozenset[int]().union(*(a[at] for a in asked))
                if self.goal[at] not in counts and at not in self.resets:
                    found.setdefault(at, {})[i] = counts
        return found

    def _key_cost(self, at: int, values: Values, groups: set[int]) -> float:
        """What bringing such a page where it must be, and back, still costs at least."""
        asked = [c for g, c in self.keys[at].items() if g in groups]
        page, now, goal = self.description.pages[at], values[at], self.goal[at]
        back = 0.0 if page.forgets else self._least(at, now, goal)
        for counts in asked:
            if now not in counts:
                back = max(
                    back,
                    min(self._least(at, now, c) + (0.0 if page.forgets else self._least(at, c, goal)) for c in counts),
                )
        return back

    def _least(self, at: int, before: int, after: int) -> float:
        """From one value to another, at least."""
        key = (at, before, after)
        if key not in self._leasts:
            page = self.description.pages[at]
            ways = entries(self.description.editing, page, before, after, page.least, page.most)
            self._leasts[key] = 0.0 if before == after else min(map(total, ways), default=0.0)
        return self._leasts[key]

    @cached_property
    def way_cost(self) -> tuple[float, ...]:
        """For a group, what it costs at least to come in from the first page of where its ways begin. Switching the supply is also what
        takes one out of where one was, and a way out of a group that does not lie between is counted as its exit."""
        found = []
        for i, group in enumerate(self.description.groups):
            costs = [0.0] if any(g.leaves_to == group.key for g in self.description.groups) else []
            for way in self.description.ways:
                if way.to != group.key:
                    continue
                begun = self.description.group_index[way.at]
                if way.gesture.press is Press.POWER:
                    costs.append(cost(way.gesture) - max(self.exit_cost))
                elif begun in (0, self.parent[i]):
                    to = [self.description.index[way.at_page]] if way.at_page else []
                    costs.append(cost(way.gesture) + self._along(begun, to))
                else:
                    costs.append(0.0)
            found.append(max(min(costs, default=0.0), 0.0))
        return tuple(found)

    @cached_property
    def parent(self) -> tuple[int, ...]:
        """For a group, the one between home and it, where all ways and what comes after it lead through one; else home, 0."""
        found = []
        for group in self.description.groups:
            through = {w.at for w in self.description.ways if w.to == group.key} | {group.leaves_to}
            found.append(self.description.group_index[through.pop()] if len(through) == 1 and through != {""} else 0)
        return tuple(found)

    @cached_property
    def exit_cost(self) -> tuple[float, ...]:
        """For a group, what it costs at least to come out."""
        anywhere = [self.description.timeout_s] if self.description.timeout_s else []
        found = []
        for group in self.description.groups:
            costs = [*anywhere, *(cost(w.gesture) for w in self.description.ways if w.at == group.key)]
            costs += [cost(group.leave)] if group.leave else []
            costs += [cost(group.next)] if group.after_last is AfterLast.LEAVES else []
            found.append(min(costs, default=0.0))
        return (0.0, *found[1:])

    @cached_property
    def always(self) -> tuple[int, ...]:
        """For a page, how many pages before it in its group are always there."""
        found = []
        for group in self.description.groups:
            so_far = 0
            for page in group.pages:
                found.append(so_far)
                so_far += not page.shown_when
        return tuple(found)

    @cached_property
    def kept_cost(self) -> float:
        """What keeping a value costs at least, beyond going on: nothing where going on, or leaving, keeps it."""
        editing = self.description.editing
        if editing.moves_on or {Keeps.NEXT, Keeps.LEAVE, Keeps.TIMEOUT} & set(editing.kept_by):
            return 0.0
        gestures = {
            Keeps.STEP: editing.opens,
            Keeps.STORE: editing.store,
            Keeps.PAUSE: Gesture(Press.WAIT, "", editing.pause_s),
        }
        return min(cost(g) if (g := gestures.get(k)) else 0.0 for k in editing.kept_by)

    def remaining(self, state: State) -> float:
        """Cost that is still to come, at least."""
        at, values, mask = state
        here, left = self.description.group_of[at], 0.0
        targets: dict[int, list[int]] = {}
        for target, least in self.entry_cost.items():
            if values[target] != self.goal[target]:
                group = self.description.group_of[target]
                left += least + (self.kept_cost if group in targets else 0.0)
                targets.setdefault(group, []).append(target)
        for target in self.visit:
            if not mask & self.bit[target]:
                targets.setdefault(self.description.group_of[target], []).append(target)
        left += sum(self._key_cost(page, values, set(targets) - {here}) for page in self.keys)
        through = set[int]()
        for group, pages in targets.items():
            if group != here:
                left += self.way_cost[group] + self._along(group, pages) + self._exit(group, pages)
                through.add(self.parent[group])
            else:
                left += self._along(group, pages, at)
        inside = {here, self.parent[here]} - {0}
        between = through - {0}
        if not self.ends_at:
            left += sum(self._exit(g, targets.get(g, []), at if g == here else None) for g in inside)
        left += sum(self.way_cost[g] + self.exit_cost[g] for g in between - inside)
        if here in between:
            left -= max(self.way_cost[g] for g in targets if self.parent[g] == here)
        return left

    def _exit(self, group: int, targets: list[int], at: int | None = None) -> float:
        """Coming out of a group once its targets have been stood on, at least: on past its last page, or by what leaves it."""
        found = self.description.groups[group]
        stood = [*targets, *([at] if at is not None else [])]
        if not stood or found.previous is not None or found.after_last is not AfterLast.LEAVES:
            return self.exit_cost[group]
        furthest, last = max(stood), self.description.first_of[group] + len(found.pages) - 1
        after = self.always[last] + (not self.description.pages[last].shown_when) - self.always[furthest]
        after -= not self.description.pages[furthest].shown_when
        return min((after + 1) * cost(found.next), self.leave_cost[group] + self._kept_first(furthest, targets))

    def _kept_first(self, furthest: int, targets: list[int]) -> float:
        """What has to be done to keep the last value before one can leave: going on, where only that keeps it."""
        only_next = set(self.description.editing.kept_by) == {Keeps.NEXT}
        if not (only_next and furthest in targets and furthest in self.entry_cost):
            return 0.0
        return cost(self.description.groups[self.description.group_of[furthest]].next)

    @cached_property
    def leave_cost(self) -> tuple[float, ...]:
        """For a group, the cheapest way out but for going on past its last page. Switching the supply is counted as a way in (above)."""
        switched = any(w.gesture.press is Press.POWER for w in self.description.ways)
        found = []
        for group in self.description.groups:
            costs = [self.description.timeout_s] if self.description.timeout_s else []
            costs += [cost(w.gesture) for w in self.description.ways if w.at == group.key]
            costs += [cost(group.leave)] if group.leave else []
            costs += [max(self.exit_cost)] if switched else []
            found.append(min(costs, default=float(FAR)))
        return tuple(found)

    @cached_property
    def again(self) -> tuple[float, ...]:
        """For a group, what leaving it and coming in again costs at least."""
        found = []
        for i, group in enumerate(self.description.groups):
            costs = [self.exit_cost[i]] if any(g.leaves_to == group.key for g in self.description.groups) else []
            for way in self.description.ways:
                if way.to == group.key:
                    out = 0.0 if way.gesture.press is Press.POWER else self.exit_cost[i]
                    costs.append(out + cost(way.gesture))
            found.append(min(costs, default=0.0) if i else 0.0)
        return tuple(found)

    def _along(self, group: int, targets: list[int], at: int | None = None) -> float:
        """Going on and back inside a group until all targets were stood on, at least; from its first page, or where it stands."""
        if not targets:
            return 0.0
        found, first = self.description.groups[group], self.description.first_of[group]
        last = first + len(found.pages) - 1
        pages = self.always[last] + (not self.description.pages[last].shown_when)
        begun, step = self.always[at] if at is not None else 0, cost(found.next)
        if found.previous is None:
            ahead = max((self.always[t] - begun for t in targets if at is None or t >= at), default=0)
            behind = max((self.always[t] for t in targets if at is not None and t < at), default=-1)
            if behind < 0:
                return ahead * step
            round_again = max(pages - begun, 0) * step + behind * step
            return min(round_again, self.again[group] + max(self.always[t] for t in targets) * step)
        back = min(step, cost(found.previous))
        on = sorted((self.always[t] - begun) % max(pages, 1) for t in targets)
        ways = []
        for split in range(len(on) + 1):
            forward = on[split - 1] * step if split else 0.0
            backward = (pages - on[split]) * back if split < len(on) else 0.0
            ways.append(forward + backward + min(forward, backward, self.again[group]))
        return min(ways)

    # ── what can be done ─────────────────────────────────────────────────────────────────────────────────────────────────────────────

    def _ways_of(self, at: int, values: Values, after: int) -> list[tuple[Gesture, ...]]:
        """Keys that bring a page to a value, begun but not kept yet."""
        page, editing = self.description.pages[at], self.description.editing
        low, high = self.panel.range(page, values)
        key = (at, values[at], after, low, high)
        if key not in self._entries:
            found = []
            for keys in entries(editing, page, values[at], after, low, high):
                begun: tuple[Gesture, ...] = (editing.opens,) if editing.opens else ()
                if not begun and keys and editing.shift and keys[0].key == editing.shift:
                    begun = (keys[0],)
                if keys:
                    found.append((*begun, *keys))
            self._entries[key] = found
        return self._entries[key]

    def _kept_by(self, at: int) -> Iterator[tuple[Gesture, ...]]:
        """What makes a value stay, here."""
        editing, group = self.description.editing, self.description.groups[self.description.group_of[at]]
        for keeps in editing.kept_by:
            if keeps is Keeps.STEP and not editing.opens:
                yield ()
            elif keeps is Keeps.STEP:
                yield from ((g,) for g in (editing.opens, group.leave) if g)
                yield from ((w.gesture,) for w in self.description.ways if w.gesture.press is Press.POWER)
            elif keeps is Keeps.STORE and editing.store:
                yield (editing.store,)
            elif keeps is Keeps.NEXT:
                yield (group.next,)
                if group.previous:
                    yield (group.previous,)
            elif keeps is Keeps.LEAVE:
                yield from ((w.gesture,) for w in self.description.ways if w.at == group.key)
                if group.leave:
                    yield (group.leave,)
            elif keeps is Keeps.PAUSE:
                yield (Gesture(Press.WAIT, "", editing.pause_s),)
            elif keeps is Keeps.TIMEOUT and self.description.timeout_s:
                yield (Gesture(Press.WAIT, "", self.description.timeout_s),)

    def _set(self, here: Standing, after: int) -> Iterator[tuple[tuple[Gesture, ...], Standing]]:
        for keys in self._ways_of(here.page, here.values, after):
            for kept in self._kept_by(here.page):
                gestures = (*keys, *kept)
                there = self.panel.run(here, gestures)
                done = there.values[here.page] == after or self.description.pages[here.page].forgets
                if done and there.pending is None and not there.lost and not there.guarded:
                    yield gestures, there

    def _going(self, here: Standing) -> Iterator[tuple[Gesture, ...]]:
        group = self.panel.group(here)
        yield (group.next,)
        if group.previous:
            yield (group.previous,)
        if group.leave:
            yield (group.leave,)
        for way in self.description.ways:
            if way.gesture.press is Press.POWER or way.at == group.key:
                yield (way.gesture,)
        if self.description.timeout_s:
            yield (Gesture(Press.WAIT, "", self.description.timeout_s),)

    def steps(self, state: State) -> Iterator[tuple[tuple[Gesture, ...], Standing, str]]:
        """All that is worth doing here."""
        at, values, _ = state
        here, page = Standing(at, values), self.description.pages[at]
        if page.is_set:
            wanted = self.goal[at]
            targets = {wanted, *self.named.get(at, ())} - {values[at]}
            if self._wasted(at, values) or self._in_the_old_unit(at, values) or self._too_hot_yet(at, values):
                targets -= {wanted} - self.named.get(at, set())
            settled = False
            for after in sorted(targets):
                if page.choices and (not 0 <= after <= page.most or page.choices[after].guarded):
                    continue
                for gestures, there in self._set(here, after):
                    settled = settled or (after == wanted and self._at_once(at, values))
                    yield gestures, there, page.key
            if settled:
                return
        for gestures in self._going(here):
            there = self.panel.run(here, gestures)
            if there.page != at or there.values != values:
                yield gestures, there, ""

    # ── the search ───────────────────────────────────────────────────────────────────────────────────────────────────────────────────

    def result(self) -> Walk:
        if (found := self._weighted()) is not None:
            return found
        if self.visit:
            raise refuse("wanted", ENTANGLED, "fewer changes at a time")
        return self._by_groups()

    def _weighted(self) -> Walk | None:
        """Exact where that is not too much, else nearly."""
        changes = sum(a != b for a, b in zip(self.begin.values, self.goal, strict=True)) + len(self.visit)
        stages = ((1.0, EXACT if changes <= FEW else MANY), *WEIGHTED)
        return next((f for weight, most in stages if (f := self._search(weight, most))), None)

    def _by_groups(self) -> Walk:
        """One group after the other, those that reset others first, until all stands."""
        group_of, standing, legs = self.description.group_of, self.begin, list[Leg]()
        for _ in range(ROUNDS):
            todo = [i for i, v in enumerate(standing.values) if v != self.goal[i]]
            if not todo:
                cost_of = sum(total(leg.gestures) for leg in legs)
                return Walk(tuple(legs), cost_of, min(self.at_least, cost_of))
            first = min(todo, key=lambda i: (not self.description.pages[i].effects, i not in self.leads, i))
            now = [i for i in todo if group_of[i] == group_of[first]]
            goal = tuple(self.goal[i] if i in now else v for i, v in enumerate(standing.values))
            reset = {self.description.index[e.page] for i in now for e in self.description.pages[i].effects}
            part = _Search(self.description, standing, goal, (), 0, frozenset(reset - set(now)), self.budget)
            found = part._weighted()
            if found is None or not found.legs:
                break
            legs += found.legs
            standing = found.legs[-1].after
        raise refuse("wanted", ENTANGLED, "fewer changes at a time")

    def _ended(self, state: State) -> bool:
        there, values, mask = state
        return there == self.ends_at and mask == self.all_seen and all(values[i] == self.goal[i] for i in self.closed)

    def _seen(self, there: Standing, mask: int) -> int:
        return mask | self.bit.get(there.page, 0)

    def _search(self, weight: float, most: int) -> Walk | None:
        """``None`` where more than ``most`` places would have to be looked at. Raises ``Refused`` where nothing leads there."""
        order = count()
        begin = self.begin if self.begin.pending is None else self.panel.do(self.begin, Gesture(Press.WAIT, "", 0.0))
        start: State = (begin.page, begin.values, self._seen(begin, 0))
        ahead = self.remaining(start)
        open_ones = [(weight * ahead, ahead, next(order), 0.0, start)]
        best, came = {start: 0.0}, dict[State, tuple[State, tuple[Gesture, ...], Standing, str]]()
        looked = 0
        while open_ones:
            _, ahead, _, so_far, state = heappop(open_ones)
            if so_far > best[state]:
                continue
            if self._ended(state):
                floor = (
                    so_far
                    if weight == 1.0
                    else max(self.at_least, min((o[3] + o[1] for o in open_ones), default=so_far))
                )
                return Walk(self._legs(state, came), so_far, min(floor, so_far))
            looked += 1
            self.budget[0] -= 1
            if self.budget[0] < 0:
                raise refuse("wanted", ENTANGLED, "fewer changes at a time")
            if looked > most:
                bounds = [o[3] + o[1] for o in open_ones if o[3] <= best[o[4]]]
                self.at_least = max(self.at_least, min((*bounds, so_far + ahead)))
                return None
            for gestures, there, sets in self.steps(state):
                to: State = (there.page, there.values, self._seen(there, state[2]))
                then = so_far + total(gestures)
                if then < best.get(to, FAR):
                    best[to], came[to] = then, (state, gestures, there, sets)
                    ahead = self.remaining(to)
                    heappush(open_ones, (then + weight * ahead, ahead, next(order), then, to))
        raise Refused(*self._unreached(best))

    def _legs(
        self, state: State, came: dict[State, tuple[State, tuple[Gesture, ...], Standing, str]]
    ) -> tuple[Leg, ...]:
        legs = []
        while state in came:
            earlier, gestures, there, sets = came[state]
            legs.append(Leg(gestures, Standing(earlier[0], earlier[1]), there, sets))
            state = earlier
        return tuple(reversed(legs))

    def _unreached(self, reached: dict[State, float]) -> list[Problem]:
        """What no keys lead to."""
        pages = self.description.pages
        stood = {state[0] for state in reached}
        wanted = [i for i in range(len(pages)) if self.goal[i] != self.begin.values[i]]
        held = {i for state in reached for i in wanted if state[1][i] == self.goal[i]}
        away = [i for i in (*wanted, *self.visit) if i not in stood]
        if away:
            entered = "a way in, in the description"
            return [Problem(p.key, f"no keys lead to {p.code}", entered) for p in (pages[i] for i in away)]
        stuck = [i for i in wanted if i not in held]
        if stuck:
            inside = "a value inside its range as the others stand"
            kept = [(pages[i], shown(pages[i], self.goal[i])) for i in stuck]
            return [Problem(p.key, f"{p.code} does not keep {value}", inside) for p, value in kept]
        together = "values that the controller allows together"
        return [Problem("wanted", "these values do not stand together: one undoes another", together)]
