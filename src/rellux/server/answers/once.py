"""Answers that are worked out once and kept, also while several ask at the same moment; some of them for the next process too.

Every request has a thread of its own. Where ten pages ask for the same slow thing before it is known, ``lru_cache`` lets all ten work it
out, each slowing down the others; here the first works and the others wait for its answer.
"""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock, RLock
from time import perf_counter
from typing import Any

from . import lasting

WORTH_S = 0.05
"""What is worked out faster is not kept for the next process. Our choice: about ten times what keeping takes."""


class Remembered:
    """A function of hashable arguments with its newest ``most`` answers. What is raised is not kept."""

    def __init__(self, function: Callable[..., Any], most: int, lasts: bool) -> None:
        self.__wrapped__, self.__doc__, self.__name__ = function, function.__doc__, function.__name__
        self._most, self._lasts, self._of = most, lasts, f"{function.__module__}.{function.__qualname__}"
        self._kept: OrderedDict[tuple[Any, ...], Any] = OrderedDict()
        self._under_way: dict[tuple[Any, ...], RLock] = {}
        self._lock, self._cleared = Lock(), 0

    def __call__(self, *key: Any) -> Any:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
            mine = self._under_way.setdefault(key, RLock())
        with mine:
            with self._lock:
                if key in self._kept:
                    return self._kept[key]
                cleared = self._cleared
            try:
                made = self._made(key)
                with self._lock:
                    if cleared == self._cleared:
                        self._kept[key] = made
                        if len(self._kept) > self._most:
                            self._kept.popitem(last=False)
                return made
            finally:
                with self._lock:
                    self._under_way.pop(key, None)

    def _made(self, key: tuple[Any, ...]) -> Any:
        if not self._lasts:
            return self.__wrapped__(*key)
        digest = lasting.digest_of(self._of, key)
        made = lasting.known(digest)
        if made is lasting.MISSING:
            began = perf_counter()
            made = self.__wrapped__(*key)
            if perf_counter() - began > WORTH_S:
                lasting.keep(digest, self._of, made)
        return made

    def cache_clear(self) -> None:
        """Forget every answer, also those that are being worked out."""
        with self._lock:
            self._kept.clear()
            self._cleared += 1
        if self._lasts:
            lasting.forget(self._of)


def remembered(most: int, lasts: bool = False) -> Callable[[Callable[..., Any]], Remembered]:
    """Keep the newest ``most`` answers of a function; it is called once for each, whoever asks. ``lasts``: also by the processes that come
    after this one, for what takes long and hangs on nothing but its arguments and the rows they name."""
    return lambda function: Remembered(function, most, lasts)
