"""Functions compiled to machine code at their first call.

The compiler costs a process about 100 MB and half a second; most processes that import these functions never call one.
"""

from collections.abc import Callable
from functools import update_wrapper
from types import FunctionType
from typing import Any


class Compiled:
    """A function of arrays and numbers that is compiled when it is first called; it may call others of its kind. ``plain`` is the
    function as written, for the few steps that are not worth a compiler."""

    def __init__(self, plain: FunctionType, options: dict[str, Any]) -> None:
        self.plain, self._options = plain, options
        self._machine: Callable[..., Any] | None = None
        update_wrapper(self, plain)

    def __call__(self, *args: Any) -> Any:
        return (self._machine or self.machine())(*args)

    def machine(self) -> Callable[..., Any]:
        """The compiled function, for callers that are compiled themselves."""
        if self._machine is None:
            from numba import njit  # what this module is for: not before it is needed

            seen = self.plain.__globals__
            called = {n: seen[n].machine() for n in self.plain.__code__.co_names if isinstance(seen.get(n), Compiled)}
            plain = FunctionType(self.plain.__code__, seen | called, self.plain.__name__, self.plain.__defaults__)
            plain.__module__, plain.__qualname__ = self.plain.__module__, self.plain.__qualname__
            self._machine = njit(cache=True, **self._options)(plain)
        return self._machine


def compiled(**options: Any) -> Callable[[Callable[..., Any]], Compiled]:
    """Marks a function as one to be compiled, with the compiler's ``options``; the machine code is kept on disk."""

    def mark(plain: Callable[..., Any]) -> Compiled:
        assert isinstance(plain, FunctionType)
        return Compiled(plain, options)

    return mark
