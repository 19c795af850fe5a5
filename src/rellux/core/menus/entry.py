"""The fewest keys from one value of a page to another, as its controller counts them.

A tap costs one, a held second :data:`SECOND`, switching the supply off and on, or opening the case for a switch on the board, more.
"""

from collections.abc import Iterator
from functools import lru_cache
from math import ceil, floor

from .description import Editing, Gesture, Page, Press
from .machine import places

SECOND = 1.0
"""A second of holding a key or waiting, in taps (our choice)."""
POWER, SWITCH = 10.0, 20.0
"""The supply switched off and on with a key held; the case opened for a switch on the board; in taps (our choice)."""
FAR = 10**9


@lru_cache(maxsize=4096)
def cost(gesture: Gesture) -> float:
    """In taps.

    >>> cost(Gesture(Press.TAP, "A")), cost(Gesture(Press.HOLD, "A", 3.0)), cost(Gesture(Press.WAIT, "", 2.0))
    (1.0, 4.0, 2.0)
    """
    begins = {Press.TAP: 1.0, Press.HOLD: 1.0, Press.POWER: POWER, Press.SWITCH: SWITCH, Press.WAIT: 0.0}[gesture.press]
    return begins + SECOND * gesture.seconds


def total(gestures: tuple[Gesture, ...]) -> float:
    """Of all, as a number of taps."""
    return sum(map(cost, gestures))


def entries(
    editing: Editing, page: Page, before: int, after: int, low: int, high: int
) -> Iterator[tuple[Gesture, ...]]:
    """Ways to bring a page whose editing has begun from one value to another, between ``low`` and ``high``; what keeps it is not among
    them. The cheapest of each kind: of a list both ways round, for what is passed may matter."""
    if page.choices:
        yield from _choices(editing, before, after, low, high)
    elif editing.shift:
        found = _digits(editing, page, before, after)
        if found is not None:
            yield found
    else:
        yield _steps(editing, before, after, low, high)


def _choices(editing: Editing, before: int, after: int, low: int, high: int) -> Iterator[tuple[Gesture, ...]]:
    if not low <= after <= high:
        return
    count = high - low + 1
    up, down = Gesture(Press.TAP, editing.up), Gesture(Press.TAP, editing.down)
    if editing.round:
        yield (up,) * ((after - before) % count)
        if editing.down:
            yield (down,) * ((before - after) % count)
    elif after >= before:
        yield (up,) * (after - before)
    elif editing.down:
        yield (down,) * (before - after)


@lru_cache(maxsize=4096)
def _steps(editing: Editing, before: int, after: int, low: int, high: int) -> tuple[Gesture, ...]:
    """Taps, a hold and taps, or against an end of the range and back from it."""
    found = list(_free(editing, before, after, low, high))
    if editing.per_second:
        for end, key in ((high, editing.up), (low, editing.down)):
            if key and end != before:
                against = Gesture(Press.HOLD, key, float(ceil(abs(end - before) / editing.per_second)))
                found += [(against, *rest) for rest in _free(editing, end, after, low, high)]
    return min(found, key=total, default=())


def _free(editing: Editing, before: int, after: int, low: int, high: int) -> Iterator[tuple[Gesture, ...]]:
    """Taps, and a hold that ends short of the value or beyond it inside the range, with taps."""
    start = min(max(before, low), high)
    keys = {1: editing.up, -1: editing.down}
    away = after - before
    side = 1 if away > 0 else -1
    if start != before:  # found outside its range: the first tap brings it to the nearest end
        first = 1 if start > before else -1
        if keys[first]:
            for rest in _free(editing, start, after, low, high):
                yield (Gesture(Press.TAP, keys[first]), *rest)
    elif not away or keys[side]:
        yield (Gesture(Press.TAP, keys[side]),) * abs(away)
    if not editing.per_second or not away or not keys[side]:
        return
    exact = abs(away) / editing.per_second
    for seconds in {floor(exact), ceil(exact)} - {0}:
        at = min(max(before + side * editing.per_second * seconds, low), high)
        back = 1 if after > at else -1
        if at == after or keys[back]:
            yield (
                Gesture(Press.HOLD, keys[side], float(seconds)),
                *(Gesture(Press.TAP, keys[back]),) * abs(after - at),
            )


@lru_cache(maxsize=4096)
def _digits(editing: Editing, page: Page, before: int, after: int) -> tuple[Gesture, ...] | None:
    """Digit by digit: how often each is pressed, and how far the cursor has to go; ``None`` where the keys cannot do it."""
    width = places(page) - (page.low < 0)
    if abs(before) >= 10**width or abs(after) >= 10**width:
        return None
    turns = (
        _carried(editing, abs(before), abs(after), width)
        if editing.carry
        else _single(editing, abs(before), abs(after), width)
    )
    order = list(range(width))
    if page.low < 0:
        order.append(width)
        turns = (*turns, int((before < 0) != (after < 0) and after != 0))
    if editing.from_first:
        order.reverse()
    last = max((i for i, place in enumerate(order) if turns[place]), default=-1)
    made: list[Gesture] = []
    for i, place in enumerate(order[: last + 1]):
        if i:
            made.append(Gesture(Press.TAP, editing.shift))
        key = editing.up if turns[place] > 0 else editing.down
        made += [Gesture(Press.TAP, key)] * abs(turns[place])
    return tuple(made)


def _single(editing: Editing, before: int, after: int, width: int) -> tuple[int, ...]:
    """Every digit by itself, from 9 on to 0."""
    turns = []
    for place in range(width):
        up = (after // 10**place - before // 10**place) % 10
        turns.append(up if up <= 10 - up or not editing.down else up - 10)
    return tuple(turns)


def _carried(editing: Editing, before: int, after: int, width: int) -> tuple[int, ...]:
    """Digits that carry into the next: the least turns that add up to the difference, over the end of the display too, the cursor's way
    counted."""
    size = 10**width
    away = (after - before) % size
    found: list[tuple[float, tuple[int, ...]]] = []

    def add(place: int, rest: int, turns: tuple[int, ...], so_far: int) -> None:
        if place == width:
            last = max((i if not editing.from_first else width - 1 - i for i, t in enumerate(turns) if t), default=0)
            found.append((so_far + last, turns))
            return
        digit = rest % 10
        for turn in {digit, digit - 10} if editing.down and digit else {digit}:
            add(place + 1, (rest - turn) // 10 % 10 ** (width - place - 1), (*turns, turn), so_far + abs(turn))

    add(0, away, (), 0)
    return min(found)[1]
