"""What depends on what in a controller's menus, for one walk: which pages must be set before others, and which may be set at once."""

from functools import cached_property

from ..units import Kind, from_unit
from .description import Counted, Description, Page, SideEffectKind, Values


class Ties:
    """Of a description, with what is wanted of every page in the end. Pages by where they stand in :attr:`Description.pages`."""

    def __init__(self, description: Description, begin: Values, goal: Values, visit: tuple[int, ...]) -> None:
        self.description, self.begin, self.goal, self.visit = description, begin, goal, visit

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
    def tried(self) -> dict[int, set[int]]:
        """Of :attr:`named`, what is worth trying on the way: what leads into a group, or shows a page that has to be stood on, because it
        changes, is wanted to be read, or may be reset by another of those."""
        index, pages = self.description.index, self.description.pages
        ways = [c for w in self.description.ways for c in w.when]
        needed = {i for i in range(len(pages)) if self.begin[i] != self.goal[i]} | {
            *self.visit,
            *(index[c.page] for c in ways),
        }
        before: set[int] = set()
        while before != needed:
            before = set(needed)
            needed |= {index[c.page] for i in before for c in pages[i].shown_when}
            needed |= {index[e.page] for i in before for e in pages[i].effects}
        found: dict[int, set[int]] = {}
        for condition in [*ways, *(c for i in needed for c in pages[i].shown_when)]:
            found.setdefault(index[condition.page], set()).update(condition.counts)
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
        """Pages that may be set as soon as they can be: nothing depends on them but pages that only they reset, and that lead nowhere; and
        what setting them costs does not hang on others (stepping ends at a bound, which may move)."""
        index = self.description.index

        def only(target: int) -> bool:
            return target not in self.leads and len(self.resets[target]) == 1

        def bounded(page: Page) -> bool:
            return bool(page.low_from or page.high_from) and not page.choices and not self.description.editing.shift

        pages = [(i, p) for i, p in enumerate(self.description.pages) if i not in self.leads and not bounded(p)]
        return frozenset(i for i, p in pages if all(only(index[e.page]) for e in p.effects))

    def at_once(self, at: int, values: Values) -> bool:
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

    def wasted(self, at: int, values: Values) -> bool:
        """Whether what is set on this page now will be undone by another that has still to change, and does not bound that one."""
        key = self.description.pages[at].key
        return any(
            values[source] != self.goal[source]
            and (not when or self.goal[source] in when)
            and source not in self.resets
            and key not in (self.description.pages[source].low_from, self.description.pages[source].high_from)
            for source, when in self._undoing.get(at, ())
        )

    @cached_property
    def _undoing(self) -> dict[int, list[tuple[int, tuple[int, ...]]]]:
        """Of :attr:`resets`, what leaves a page otherwise than it is wanted."""
        index, found = self.description.index, dict[int, list[tuple[int, tuple[int, ...]]]]()
        for i, page in enumerate(self.description.pages):
            for effect in page.effects:
                at = index[effect.page]
                left = {SideEffectKind.SETS: effect.counts, SideEffectKind.DEFAULTS: self.description.pages[at].default}
                if left.get(effect.kind) != self.goal[at]:
                    found.setdefault(at, []).append((i, effect.when))
        return found

    @cached_property
    def units(self) -> tuple[int, ...]:
        """Pages that say in which unit the others are."""
        return tuple(i for i, p in enumerate(self.description.pages) if "display_unit" in p.sets)

    def in_the_old_unit(self, at: int, values: Values) -> bool:
        """Whether digits of the new unit would be taken in the old one: what is meant as 140 °F would be 140 °C until the unit is set.
        Fewer digits than before are no hotter in either unit."""
        if self.description.pages[at].counted is Counted.PLAIN:
            return False
        return any(values[u] != self.goal[u] and not self._cools(u, at, values) for u in self.units)

    def too_hot_yet(self, at: int, values: Values) -> bool:
        """Whether setting this unit now would take digits of °F for °C: those that must fall are to be set before. What stands dialled as a
        way in is no set-point, in either unit."""
        if at not in self.units:
            return False
        dialled = (i for i, v in enumerate(values) if v != self.goal[i] and v not in self.named.get(i, ()))
        return any(self._cools(at, i, values) for i in dialled)

    def _cools(self, unit: int, at: int, values: Values) -> bool:
        """Whether a page keeps its digits as the unit changes, means more by them then, and must show fewer."""
        page, choices = self.description.pages[at], self.description.pages[unit].choices
        kept = all(source != unit for source, _ in self.resets.get(at, ()))
        if page.counted is not Counted.TEMPERATURE or not kept or self.goal[at] >= values[at]:
            return False
        digits = values[at] / 10**page.decimals
        was, now = ((choices[c].values or ("C",))[0] for c in (values[unit], self.goal[unit]))
        return bool(from_unit(digits, Kind.TEMPERATURE, now) > from_unit(digits, Kind.TEMPERATURE, was))
