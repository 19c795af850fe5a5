"""The controller behind its front panel: what it shows, and what a key does, exactly as its description says.

Rehearsal, planner and check are all run on this one machine.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ..units import Kind, from_unit, in_unit
from .description import (
    AfterLast,
    Condition,
    Counted,
    Description,
    Gesture,
    Group,
    Keeps,
    Page,
    Press,
    SideEffect,
    SideEffectKind,
    Values,
    Way,
    shown,
)


@dataclass(frozen=True)
class Pending:
    """A value that is being changed. Digit by digit: ``counts`` is its magnitude, ``negative`` its sign, ``cursor`` the place that is being
    changed (0 is the last digit, the highest the sign); else ``counts`` is the value and ``cursor`` −1."""

    counts: int
    cursor: int = -1
    negative: bool = False

    @property
    def value(self) -> int:
        return -self.counts if self.negative else self.counts


@dataclass(frozen=True)
class Standing:
    """Where the controller stands: its page (in :attr:`Description.pages`), the counts of all pages, what is being changed. ``lost``: pages
    whose change was not kept at the last gesture; ``guarded``: a guarded choice was taken."""

    page: int
    values: Values
    pending: Pending | None = None
    lost: str = ""
    guarded: str = ""


@dataclass(frozen=True)
class Display:
    """What is read off the front: the code (empty in ordinary work), the value, and which digit of it is being changed (from the right; −1:
    none)."""

    code: str
    value: str
    cursor: int
    editing: bool


class Panel:
    """A controller by its description."""

    def __init__(self, description: Description) -> None:
        self.description = description
        self._ways: dict[int, list[Way]] = {}
        for i, group in enumerate(description.groups):
            self._ways[i] = [w for w in description.ways if w.at == group.key]
        self._forgetful = [i for i, p in enumerate(description.pages) if p.forgets]

    def start(self, values: Values) -> Standing:
        """At home with these values."""
        return Standing(0, values)

    def group(self, standing: Standing) -> Group:
        return self.description.groups[self.description.group_of[standing.page]]

    def page(self, standing: Standing) -> Page:
        return self.description.pages[standing.page]

    def holds(self, conditions: Iterable[Condition], values: Values) -> bool:
        """Whether all conditions hold."""
        index = self.description.index
        return all(values[index[c.page]] in c.counts for c in conditions)

    def visible(self, page: int, values: Values) -> bool:
        return self.holds(self.description.pages[page].shown_when, values)

    def range(self, page: Page, values: Values) -> tuple[int, int]:
        """Least and most that may be set on a page now; the first is above the second where nothing may."""
        low, high, index = page.least, page.most, self.description.index
        if page.low_from:
            low = max(low, values[index[page.low_from]])
        if page.high_from:
            high = min(high, values[index[page.high_from]])
        return low, high

    def display(self, standing: Standing) -> Display:
        page, pending = self.page(standing), standing.pending
        counts = pending.value if pending else standing.values[standing.page]
        value = shown(page, counts)
        if pending and pending.negative and pending.counts == 0:
            value = f"-{value}"
        return Display(page.code, value, pending.cursor if pending else -1, pending is not None)

    # ── what a gesture does ──────────────────────────────────────────────────────────────────────────────────────────────────────────

    def do(self, standing: Standing, gesture: Gesture) -> Standing:
        """What stands there after a gesture; the same where it does nothing."""
        standing = replace(standing, lost="") if standing.lost else standing
        if gesture.press is Press.WAIT:
            return self._wait(standing, gesture.seconds)
        if gesture.press is Press.POWER:
            return self._power(standing, gesture)
        return self._key(standing, gesture)

    def run(self, standing: Standing, gestures: Iterable[Gesture]) -> Standing:
        for gesture in gestures:
            standing = self.do(standing, gesture)
        return standing

    def _wait(self, standing: Standing, seconds: float) -> Standing:
        editing, timeout_s = self.description.editing, self.description.timeout_s
        if standing.pending and Keeps.PAUSE in editing.kept_by and editing.pause_s <= seconds:
            standing = self.kept(standing)
        if 0 < timeout_s <= seconds:
            standing = self._settle(standing, Keeps.TIMEOUT)
            standing = self._home(standing)
        return standing

    def _power(self, standing: Standing, gesture: Gesture) -> Standing:
        standing = self._home(self._drop(standing))
        for way in self.description.ways:
            at_home = way.at == self.description.groups[0].key
            if at_home and way.gesture.press is Press.POWER and way.gesture.key == gesture.key and gesture.key:
                return self._enter(standing, way)
        return standing

    def _key(self, standing: Standing, gesture: Gesture) -> Standing:
        group, editing, pending = self.group(standing), self.description.editing, standing.pending
        ways = [w for w in self._ways[self.description.group_of[standing.page]] if self._opens(w, standing)]
        store = editing.store if pending and Keeps.STORE in editing.kept_by else None
        modal = pending is not None and editing.opens is not None
        moves = (
            *(
                (("next", group.next), ("previous", group.previous))
                if not modal or Keeps.NEXT in editing.kept_by
                else ()
            ),
            ("leave", group.leave),
            *((("open", editing.opens),) if pending is None and self.page(standing).is_set else ()),
            *((("close", editing.opens),) if modal and editing.opens and editing.opens.key != editing.shift else ()),
        )
        found: list[tuple[float, int, str, Way | None]] = []
        candidates: list[tuple[str, Gesture | None, Way | None]] = [("store", store, None)]
        if not modal:
            candidates += [("way", w.gesture, w) for w in sorted(ways, key=lambda w: not w.at_page)]
        candidates += [(name, g, None) for name, g in moves]
        for order, (name, wanted, through) in enumerate(candidates):
            if wanted is not None and _is(gesture, wanted):
                found.append((-wanted.seconds, order, name, through))
        if not found:
            return self._change(standing, gesture)
        _, _, name, through = min(found, key=lambda f: f[:2])
        if name == "store":
            kept = self.kept(standing)
            return self._next(kept, 1) if editing.moves_on and not kept.lost else kept
        if name == "way":
            assert through
            return self._enter(self._settle(standing, Keeps.LEAVE), through)
        if name in ("next", "previous"):
            return self._next(self._settle(standing, Keeps.NEXT), 1 if name == "next" else -1)
        if name == "leave":
            return self._leave(self._settle(standing, Keeps.LEAVE))
        if name == "close":
            return self._drop(standing)
        return replace(standing, pending=self._begun(standing))

    def _opens(self, way: Way, standing: Standing) -> bool:
        here = not way.at_page or way.at_page == self.page(standing).key
        return here and self.holds(way.when, standing.values)

    # ── going about ──────────────────────────────────────────────────────────────────────────────────────────────────────────────────

    def _next(self, standing: Standing, step: int) -> Standing:
        group = self.description.group_of[standing.page]
        first, count = self.description.first_of[group], len(self.description.groups[group].pages)
        at = standing.page
        for _ in range(count):
            at += step
            if not first <= at < first + count:
                if self.description.groups[group].after_last is AfterLast.LEAVES and step > 0:
                    return self._leave(standing)
                at = first if step > 0 else first + count - 1
            if self.visible(at, standing.values):
                return self._home(standing) if at == 0 else replace(standing, page=at)
        return standing

    def _enter(self, standing: Standing, way: Way) -> Standing:
        if not self.holds(way.when, standing.values):
            return standing
        return self._into(standing, self.description.group_index[way.to])

    def _into(self, standing: Standing, group: int) -> Standing:
        first = self.description.first_of[group]
        for at in range(first, first + len(self.description.groups[group].pages)):
            if self.visible(at, standing.values):
                return self._home(standing) if at == 0 else replace(standing, page=at)
        return standing

    def _leave(self, standing: Standing) -> Standing:
        to = self.group(standing).leaves_to
        return self._into(standing, self.description.group_index[to]) if to else self._home(standing)

    def _home(self, standing: Standing) -> Standing:
        values = standing.values
        if self._forgetful:
            changed = list(values)
            for at in self._forgetful:
                changed[at] = self.description.pages[at].default
            values = tuple(changed)
        return replace(standing, page=0, values=values, pending=None)

    # ── changing a value ─────────────────────────────────────────────────────────────────────────────────────────────────────────────

    def _begun(self, standing: Standing) -> Pending:
        """What is being changed as it begins."""
        page, editing = self.page(standing), self.description.editing
        value = standing.values[standing.page]
        if not editing.shift or page.choices:
            return Pending(value)
        return Pending(abs(value), places(page) - 1 if editing.from_first else 0, value < 0)

    def _change(self, standing: Standing, gesture: Gesture) -> Standing:
        page, editing = self.page(standing), self.description.editing
        if not page.is_set or (standing.pending is None and editing.opens is not None):
            return standing
        pending = standing.pending or self._begun(standing)
        if gesture.press is Press.TAP and gesture.key == editing.shift and not page.choices:
            if standing.pending is None:
                return replace(standing, pending=pending)
            step = -1 if editing.from_first else 1
            return replace(standing, pending=replace(pending, cursor=(pending.cursor + step) % places(page)))
        up = {editing.up: 1, editing.down: -1}.get(gesture.key, 0) if gesture.key else 0
        if not up or gesture.press not in (Press.TAP, Press.HOLD):
            return standing
        if pending.cursor >= 0:
            changed = self._digit(page, pending, up) if gesture.press is Press.TAP else pending
            return replace(standing, pending=changed)
        steps = 1 if gesture.press is Press.TAP else 0 if page.choices else int(editing.per_second * gesture.seconds)
        return self._stepped(standing, up * steps) if steps else standing

    def _digit(self, page: Page, pending: Pending, up: int) -> Pending:
        width = places(page) - (page.low < 0)
        if pending.cursor == width:
            return replace(pending, negative=not pending.negative)
        place = 10**pending.cursor
        if self.description.editing.carry:
            return replace(pending, counts=(pending.counts + up * place) % 10**width)
        digit = pending.counts // place % 10
        return replace(pending, counts=pending.counts + ((digit + up) % 10 - digit) * place)

    def _stepped(self, standing: Standing, by: int) -> Standing:
        """A whole value changed by so many steps, kept at once where each step is."""
        page, editing = self.page(standing), self.description.editing
        low, high = self.range(page, standing.values)
        if low > high:
            return standing
        now = standing.pending.counts if standing.pending else standing.values[standing.page]
        to = now + by
        if page.choices and editing.round:
            to = low + (to - low) % (high - low + 1)
        to = min(max(to, low), high)
        standing = replace(standing, pending=Pending(to))
        return self.kept(standing, Keeps.STEP in editing.kept_by) if Keeps.STEP in editing.kept_by else standing

    # ── keeping it ───────────────────────────────────────────────────────────────────────────────────────────────────────────────────

    def _settle(self, standing: Standing, by: Keeps) -> Standing:
        """What is being changed is kept by this, or lost."""
        if standing.pending is None:
            return standing
        return self.kept(standing) if by in self.description.editing.kept_by else self._drop(standing)

    def _drop(self, standing: Standing) -> Standing:
        pending = standing.pending
        if pending is None:
            return standing
        changed = pending.value != standing.values[standing.page]
        return replace(standing, pending=None, lost=self.page(standing).key if changed else "")

    def kept(self, standing: Standing, open_still: bool = False) -> Standing:
        """The value kept with all that follows from it; lost where it is out of its range."""
        pending, page, at = standing.pending, self.page(standing), standing.page
        if pending is None:
            return standing
        low, high = self.range(page, standing.values)
        before, after = standing.values[at], pending.value
        if not low <= after <= high:
            return self._drop(standing)
        still = pending if open_still and self.description.editing.opens is not None else None
        guarded = page.key if after != before and page.choices and page.choices[after].guarded else standing.guarded
        values = list(standing.values)
        values[at] = after
        if after != before:
            for effect in page.effects:
                if not effect.when or after in effect.when:
                    self._apply(effect, page, before, after, values)
        return replace(standing, values=tuple(values), pending=still, guarded=guarded)

    def _apply(self, effect: SideEffect, page: Page, before: int, after: int, values: list[int]) -> None:
        at = self.description.index[effect.page]
        target = self.description.pages[at]
        if effect.kind is SideEffectKind.SETS:
            values[at] = effect.counts
        elif effect.kind is SideEffectKind.DEFAULTS:
            values[at] = target.default
        else:
            was, now = (page.choices[c].values[:1] for c in (before, after))
            values[at] = converted(target, values[at], *(was or ("C",)), *(now or ("C",)))


def setpoint_shown(description: Description, values: Values) -> str:
    """What stands beside the reading in ordinary work: the set-point, where a page sets it."""
    pages = zip(description.pages, values, strict=True)
    return next((shown(p, v) for p, v in pages if "setpoint_c" in p.sets), "")


def _is(done: Gesture, wanted: Gesture) -> bool:
    """Whether what is done is at least what is wanted: a key held for longer is held long enough."""
    if wanted.press is not done.press or wanted.key != done.key:
        return False
    return done.press is not Press.HOLD or wanted.seconds <= done.seconds


def places(page: Page) -> int:
    """Digits that can be changed one by one, the sign where there is one."""
    return max(len(str(abs(page.low))), len(str(abs(page.high))), page.decimals + 1) + (page.low < 0)


def converted(page: Page, counts: int, was: str, now: str) -> int:
    """A value in another unit of temperature (C, F or K), to the last digit, inside the page's range.

    >>> converted(Page("sp", "SP", high=9999, counted=Counted.TEMPERATURE), 100, "C", "F")
    212
    >>> converted(Page("h", "H", high=99, decimals=1, counted=Counted.DIFFERENCE), 18, "F", "C")
    10
    """
    kind, digit = kind_of(page), 10**page.decimals
    if kind is None or was == now:
        return counts
    value = round(in_unit(from_unit(counts / digit, kind, was), kind, now) * digit)
    return int(min(max(value, page.low), page.high))


def kind_of(page: Page) -> Kind | None:
    """What a page counts, where a unit of temperature says anything of it."""
    return {Counted.TEMPERATURE: Kind.TEMPERATURE, Counted.DIFFERENCE: Kind.DIFFERENCE, Counted.PLAIN: None}[
        page.counted
    ]
