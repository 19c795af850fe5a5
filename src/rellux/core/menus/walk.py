"""From what is in a controller to what is wanted, in the fewest keys: a search over places and values, on the machine itself.

A page takes only values that it had, that are wanted, or that something else depends on (an access code, a set-point dialled beyond the
scale), and none is changed and put back for what that does to another. No digits of °F are taken for °C on the way. Up to that, the walk
is the cheapest there is, or its distance to a lower bound is told: the search (``A*``) is exact until it grows too large, then weighted,
which bounds the gap, then group by group.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from heapq import heappop, heappush
from itertools import count

from ..errors import Problem, Refused, refuse, refuse_all
from .ahead import Ahead, State
from .description import Description, Gesture, Keeps, Press, Values, shown
from .entry import FAR, cost, entries, total
from .machine import Panel, Pending, Standing
from .routes import going, is_plain, routes
from .ties import Ties

FEW, EXACT, MANY = 12, 25_000, 6_000
"""With up to so many changes the walk is exact up to so many places looked at; with more, fewer are (our choice)."""
WEIGHTED = ((1.05, 10_000), (1.5, 6_000), (2.0, 6_000), (3.0, 8_000))
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
    return _plainly(description, here, at) or _Search(description, here, here.values, (at,), ends_at=at).result()


def way_out(description: Description, here: Standing) -> Walk:
    """From anywhere home."""
    return _plainly(description, here, 0) or _Search(description, here, here.values, ()).result()


def _plainly(description: Description, here: Standing, at: int) -> Walk | None:
    """The fewest keys to a page where nothing need be changed for a while to get there; ``None`` where that cannot be known, or none do."""
    if not is_plain(description) or here.page == at:
        return None
    steps = routes(description, here.values).to(here.page, at)
    if steps is None:
        return None
    legs, standing = list[Leg](), Standing(here.page, here.values)
    for gesture, page in steps:
        there = Standing(page, here.values)
        legs.append(Leg((gesture,), standing, there))
        standing = there
    price = sum(cost(gesture) for gesture, _ in steps)
    return Walk(tuple(legs), price, price)


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
        self.ties = Ties(description, start.values, goal, visit)
        self.ahead = Ahead(description, start.values, self.ties, visit, ends_at)
        self.closed = tuple(i for i in range(len(goal)) if i not in open_pages)
        self.all_seen = (1 << len(visit)) - 1
        self._entries: dict[tuple[int, int, int, int, int], list[tuple[Gesture, ...]]] = {}
        self._pending: dict[tuple[object, ...], Pending | None] = {}
        self._known: dict[tuple[int, Values], list[tuple[Gesture, int, bool]]] = {}
        forgetful = (i for i, p in enumerate(description.pages) if p.forgets)
        self._asked = tuple(sorted({*self.ties.named, *forgetful}))
        self.at_least = 0.0

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
                there = self.panel.run(self._typed(here, keys), kept)
                done = there.values[here.page] == after or self.description.pages[here.page].forgets
                if done and there.pending is None and not there.lost and not there.guarded:
                    yield gestures, there

    def _typed(self, here: Standing, keys: tuple[Gesture, ...]) -> Standing:
        """Where it stands once a value was keyed in. As long as nothing of it is kept, that hangs on the page, its value and its range."""
        if Keeps.STEP in self.description.editing.kept_by:
            return self.panel.run(here, keys)
        page = self.description.pages[here.page]
        key = (here.page, here.values[here.page], *self.panel.range(page, here.values), keys)
        if key not in self._pending:
            self._pending[key] = self.panel.run(here, keys).pending
        return replace(here, pending=self._pending[key])

    @cached_property
    def stays(self) -> bool:
        """Whether one can stay on a page whose value was kept: where keeping it leads on, not to set it yet may be the shorter way."""
        editing = self.description.editing
        staying = {Keeps.PAUSE, *([] if editing.moves_on else [Keeps.STORE]), *([] if editing.opens else [Keeps.STEP])}
        return set(editing.kept_by) <= staying

    def steps(self, state: State) -> Iterator[tuple[tuple[Gesture, ...], Standing, str]]:
        """All that is worth doing here."""
        at, values, _ = state
        here, page = Standing(at, values), self.description.pages[at]
        settled = False
        if page.is_set:
            wanted = self.goal[at]
            targets = {wanted, *self.ties.tried.get(at, ())} - {values[at]}
            if (
                self.ties.wasted(at, values)
                or self.ties.in_the_old_unit(at, values)
                or self.ties.too_hot_yet(at, values)
            ):
                targets -= {wanted} - self.ties.tried.get(at, set())
            for after in sorted(targets):
                if page.choices and (not 0 <= after <= page.most or page.choices[after].guarded):
                    continue
                for gestures, there in self._set(here, after):
                    settled = settled or (after == wanted and self.ties.at_once(at, values))
                    yield gestures, there, page.key
            if settled and self.stays:
                return
        # what is set sooner or later, and would be kept by this very gesture, is not left for later
        keeping = {kept[0] for kept in self._kept_by(at) if kept} if settled else set()
        for gesture, there in self._moves(here):
            if gesture not in keeping:
                yield (gesture,), there, ""

    def _moves(self, here: Standing) -> Iterator[tuple[Gesture, Standing]]:
        """Whatever leads elsewhere with nothing set: where to hangs on the values that something depends on, and on nothing else."""
        key = (here.page, tuple(here.values[i] for i in self._asked))
        if key not in self._known:
            found = ((g, self.panel.do(here, g)) for g in going(self.description, self.panel, here))
            self._known[key] = [
                (g, t.page, t.values == here.values) for g, t in found if t.page != here.page or t.values != here.values
            ]
        for gesture, page, same in self._known[key]:
            yield gesture, Standing(page, here.values) if same else self.panel.do(here, gesture)

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
        """One group after the other, those that reset others first, until all stands. Not where the unit changes: seen group by group,
        digits of one unit could be taken in the other."""
        if any(self.begin.values[u] != self.goal[u] for u in self.ties.units):
            raise refuse("display_unit", ENTANGLED, "the unit by itself, and then the rest")
        group_of, standing, legs = self.description.group_of, self.begin, list[Leg]()
        for _ in range(ROUNDS):
            todo = [i for i, v in enumerate(standing.values) if v != self.goal[i]]
            if not todo:
                cost_of = sum(total(leg.gestures) for leg in legs)
                return Walk(tuple(legs), cost_of, min(self.at_least, cost_of))
            first = min(todo, key=lambda i: (not self.description.pages[i].effects, i not in self.ties.leads, i))
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
        return mask | self.ahead.bit.get(there.page, 0)

    def _search(self, weight: float, most: int) -> Walk | None:
        """``None`` where more than ``most`` places would have to be looked at. Raises ``Refused`` where nothing leads there."""
        order = count()
        start: State = (self.begin.page, self.begin.values, self._seen(self.begin, 0))
        ahead = self.ahead.remaining(start)
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
                    ahead = self.ahead.remaining(to)
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
