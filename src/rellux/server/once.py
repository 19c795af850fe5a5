"""Answers that are worked out once and kept, also while several ask at the same moment.

Every request has a thread of its own. Where ten pages ask for the same slow thing before it is known, ``lru_cache`` lets all ten work it
out, each slowing down the others; here the first works and the others wait for its answer.
"""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock, RLock
from typing import Any


class Remembered:
    """A function of hashable arguments with its newest ``most`` answers. What is raised is not kept."""

    def __init__(self, function: Callable[..., Any], most: int) -> None:
        self.__wrapped__, self.__doc__, self.__name__ = function, function.__doc__, function.__name__
        self._most = most
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
                made = self.__wrapped__(*key)
                with self._lock:
                    if cleared == self._cleared:
                        self._kept[key] = made
                        if len(self._kept) > self._most:
                            self._kept.popitem(last=False)
                return made
            finally:
                with self._lock:
                    self._under_way.pop(key, None)

    def cache_clear(self) -> None:
        """Forget every answer, also those that are being worked out."""
        with self._lock:
            self._kept.clear()
            self._cleared += 1


def remembered(most: int) -> Callable[[Callable[..., Any]], Remembered]:
    """Keep the newest ``most`` answers of a function; it is called once for each, whoever asks."""
    return lambda function: Remembered(function, most)
