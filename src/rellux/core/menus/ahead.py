"""What a walk still costs at least, whatever way it takes: the bound its search goes by. It must never be above the truth."""

from functools import cached_property

from .description import AfterLast, Description, Gesture, Keeps, Press, SideEffectKind, Values
from .entry import FAR, cost, entries, total
from .ties import Ties

State = tuple[int, Values, int]
"""A page, the counts of all pages, and which of the pages that must be seen were seen (a bit each)."""


class Ahead:
    """From what is in a controller to what is wanted of it. ``visit``: pages that must be stood on; ``ends_at``: where it may end."""

    def __init__(
        self, description: Description, begin: Values, ties: Ties, visit: tuple[int, ...], ends_at: int
    ) -> None:
        self.description, self.begin, self.ties, self.goal = description, begin, ties, ties.goal
        self.visit, self.ends_at = visit, ends_at
        self.bit = {page: 1 << i for i, page in enumerate(visit)}
        self._leasts: dict[tuple[int, int, int], float] = {}
        self._floors: dict[tuple[int, int], float] = {}

    @cached_property
    def must(self) -> frozenset[int]:
        """Pages that must be stood on wherever they are not at what is wanted: they change, or may be reset, and nothing else brings them
        there."""
        changing = (i for i in range(len(self.goal)) if self.begin[i] != self.goal[i] or i in self.ties.resets)
        return frozenset(i for i in changing if i not in self.keys and self.goal[i] not in self._left_at(i))

    def _left_at(self, at: int) -> frozenset[int]:
        """What resets may leave a page at: all that is wanted, too, where that cannot be known."""
        page, found = self.description.pages[at], set[int]()
        for source, _ in self.ties.resets.get(at, ()):
            for effect in self.description.pages[source].effects:
                if self.description.index[effect.page] == at:
                    kinds = {SideEffectKind.SETS: effect.counts, SideEffectKind.DEFAULTS: page.default}
                    found.add(kinds.get(effect.kind, self.goal[at]))
        return frozenset(found)

    def entry_cost(self, at: int, now: int) -> float:
        """What the keys that bring a page from its value to what is wanted cost at least, those that keep it left out."""
        if (at, now) not in self._floors:
            self._floors[at, now] = min(self._floor(at, v) for v in (now, *self._left_at(at)))
        return self._floors[at, now]

    def _floor(self, at: int, before: int) -> float:
        page, editing, goal = self.description.pages[at], self.description.editing, self.goal[at]
        if not (page.low_from or page.high_from) or editing.shift or page.choices:
            return self._least(at, before, goal)
        if Keeps.STEP in editing.kept_by:  # a bound may then stand anywhere on the way
            return 1.0
        lows = {page.least, *(self._stands_at(page.low_from) if page.low_from else ())}
        highs = {page.most, *(self._stands_at(page.high_from) if page.high_from else ())}
        taps, todo = {before: 0.0}, [before]
        while todo:  # found outside its range, the first tap brings it to the nearest end
            start = todo.pop()
            for end in (*(e for e in lows if e > start), *(e for e in highs if e < start)):
                if taps[start] + 1.0 < taps.get(end, FAR):
                    taps[end] = taps[start] + 1.0
                    todo.append(end)
        return min(so_far + self._distance(abs(goal - start)) for start, so_far in taps.items())

    def _stands_at(self, key: str) -> frozenset[int]:
        """Everything that a page takes on the way."""
        at = self.description.index[key]
        return frozenset({self.begin[at], self.goal[at], *self.ties.named.get(at, ())}) | self._left_at(at)

    def _distance(self, away: int) -> float:
        """Taps and a hold over so many steps, where an end of the range may stop them."""
        speed = self.description.editing.per_second
        if not speed:
            return float(away)
        short = away // speed
        return min(float(away), *(1.0 + s + max(away - s * speed, 0) for s in (short, short + 1) if s))

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
                if self.goal[at] not in counts and at not in self.ties.resets:
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
        for target in self.must:
            if values[target] != self.goal[target]:
                group = self.description.group_of[target]
                left += self.entry_cost(target, values[target]) + (self.kept_cost if group in targets else 0.0)
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
        if not (only_next and furthest in targets and furthest in self.must):
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
