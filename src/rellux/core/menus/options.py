"""A controller as it was bought: of what its manual describes it has only what is in it, like an option board or another kind of output."""

from collections.abc import Collection, Iterator
from dataclasses import replace
from itertools import combinations

from ..errors import refuse
from .description import Condition, Description, Group, Page, SideEffect, SideEffectKind, Way

MOST_OPTIONS = 6
"""Options of one description: every set of them is tried (our choice)."""


def as_bought(description: Description, fitted: Collection[str]) -> Description:
    """Without what hangs on an option that is not ``fitted``: pages, choices, groups that are empty then, and the ways to them. What a page
    that is missing stood at is what it is delivered with. Raises ``Refused`` for an option that it does not know."""
    unknown = [name for name in fitted if name not in description.options]
    if unknown:
        raise refuse("options", f"this controller knows no {unknown[0]!r}", ", ".join(description.options) or "none")
    left = _Left(description, fitted)
    groups = [left.group(g) for g in description.groups]
    there = {g.key for g in groups if g.pages}
    parents = {g.key: g.leaves_to for g in description.groups}

    def out_of(group: Group) -> str:
        to = group.leaves_to
        for _ in groups:
            to = to if not to or to in there else parents.get(to, "")
        return to

    return replace(
        description,
        groups=tuple(replace(g, leaves_to=out_of(g)) for g in groups if g.pages),
        ways=tuple(left.ways(there)),
        options=tuple(o for o in description.options if o in fitted),
    )


def every_one(description: Description) -> Iterator[tuple[tuple[str, ...], Description]]:
    """Every set of its options, with the controller that has just these."""
    for n in range(len(description.options) + 1):
        for fitted in combinations(description.options, n):
            yield fitted, as_bought(description, fitted)


class _Left:
    """What is left of a description: of each page that is still there, its choices, the old number to the new one."""

    def __init__(self, description: Description, fitted: Collection[str]) -> None:
        self._description, self._fitted = description, {"", *fitted}
        self._kept: dict[str, dict[int, int]] = {}
        for page in description.pages:
            choices = [i for i, c in enumerate(page.choices) if c.option in self._fitted]
            if page.option in self._fitted and (choices or not page.choices):
                self._kept[page.key] = {old: new for new, old in enumerate(choices)}
        while gone := [k for k in self._kept if self._conditions(description.page(k).shown_when) is None]:
            for key in gone:
                del self._kept[key]

    def group(self, group: Group) -> Group:
        return replace(group, pages=tuple(self._page(p) for p in group.pages if p.key in self._kept))

    def ways(self, there: Collection[str]) -> Iterator[Way]:
        for way in self._description.ways:
            when = self._conditions(way.when)
            if (
                way.at in there
                and way.to in there
                and when is not None
                and (not way.at_page or way.at_page in self._kept)
            ):
                yield replace(way, when=when)

    def _counts(self, key: str, counts: int) -> int | None:
        """What a page stands at, by its new numbers; ``None`` where it cannot any more."""
        choices = self._kept[key]
        return choices.get(counts) if self._description.page(key).choices else counts

    def _conditions(self, conditions: tuple[Condition, ...]) -> tuple[Condition, ...] | None:
        """Those that are left; ``None`` where one of them can never hold."""
        left = []
        for condition in conditions:
            if condition.page not in self._kept:
                if self._description.page(condition.page).default not in condition.counts:
                    return None
                continue
            counts = tuple(new for c in condition.counts if (new := self._counts(condition.page, c)) is not None)
            if not counts:
                return None
            left.append(replace(condition, counts=counts))
        return tuple(left)

    def _page(self, page: Page) -> Page:
        description = self._description
        missing = [description.page(k).default for k in (page.low_from,) if k and k not in self._kept]
        low = max([page.low, *missing])
        missing = [description.page(k).default for k in (page.high_from,) if k and k not in self._kept]
        high = min([page.high, *missing])
        return replace(
            page,
            choices=tuple(replace(c, option="") for c in page.choices if c.option in self._fitted),
            default=(self._counts(page.key, page.default) or 0) if page.choices else min(max(page.default, low), high),
            low=low,
            high=high,
            low_from=page.low_from if page.low_from in self._kept else "",
            high_from=page.high_from if page.high_from in self._kept else "",
            shown_when=self._conditions(page.shown_when) or (),
            effects=tuple(e for effect in page.effects if (e := self._effect(page, effect)) is not None),
            option="",
        )

    def _effect(self, page: Page, effect: SideEffect) -> SideEffect | None:
        if effect.page not in self._kept:
            return None
        when = tuple(new for c in effect.when if (new := self._counts(page.key, c)) is not None)
        if effect.when and not when:
            return None
        if effect.kind is not SideEffectKind.SETS:
            return replace(effect, when=when)
        counts = self._counts(effect.page, effect.counts)
        return None if counts is None else replace(effect, when=when, counts=counts)
