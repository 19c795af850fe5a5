"""Going about in a controller's menus with nothing changed: from every page to every other in the fewest keys, by a general shortest path.

It stands for a controller in which no way in hangs on a value and nothing is forgotten by leaving; else going somewhere may mean changing
something for a while, and :mod:`.walk` searches.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from .description import Description, Gesture, Press, Values
from .entry import cost
from .machine import Panel, Standing

Step = tuple[Gesture, int]
"""What is done, and the page one is on then."""


def going(description: Description, panel: Panel, here: Standing) -> Iterator[Gesture]:
    """Whatever may lead to another page from here."""
    group = panel.group(here)
    yield group.next
    if group.previous:
        yield group.previous
    if group.leave:
        yield group.leave
    for way in description.ways:
        if way.gesture.press is Press.POWER or way.at == group.key:
            yield way.gesture
    if description.timeout_s:
        yield Gesture(Press.WAIT, "", description.timeout_s)


@dataclass(frozen=True)
class Routes:
    """All moves of a controller that holds ``values``: ``costs`` in taps from page to page, and the cheapest gesture of each."""

    description: Description
    values: Values
    costs: "scipy.sparse.csr_matrix"
    gestures: dict[tuple[int, int], Gesture]

    def to(self, here: int, page: int) -> list[Step] | None:
        """The fewest keys from one page to another; ``None`` where none lead there."""
        before: NDArray[np.int32]
        _, before = scipy.sparse.csgraph.dijkstra(self.costs, indices=here, return_predecessors=True)
        steps, at = list[Step](), page
        while at != here:
            if before[at] < 0:
                return None
            steps.append((self.gestures[int(before[at]), at], at))
            at = int(before[at])
        return steps[::-1]


def is_plain(description: Description) -> bool:
    """Whether going about never means changing something for a while."""
    return not any(w.when for w in description.ways) and not any(p.forgets for p in description.pages)


def routes(description: Description, values: Values) -> Routes:
    """The moves of a controller; those of the last few are kept."""
    for kept in _kept:
        if kept.description is description and kept.values == values:
            return kept
    panel, best = Panel(description), dict[tuple[int, int], Gesture]()
    for at in range(len(description.pages)):
        here = Standing(at, values)
        for gesture in going(description, panel, here):
            there = panel.do(here, gesture)
            way = (at, there.page)
            if there.page != at and there.values == values and (way not in best or cost(gesture) < cost(best[way])):
                best[way] = gesture
    count = len(description.pages)
    ends = np.array(list(best), np.int32).reshape(-1, 2)
    costs = scipy.sparse.csr_matrix(([cost(g) for g in best.values()], (ends[:, 0], ends[:, 1])), (count, count))
    found = Routes(description, values, costs, best)
    _kept.insert(0, found)
    del _kept[KEPT:]
    return found


KEPT = 4
"""Controllers whose moves are kept (our choice: a few people at a few rigs)."""
_kept: list[Routes] = []
