"""Functions compiled to machine code at their first call.

The compiler costs a process about 100 MB and half a second; most processes that import these functions never call one.
"""

from collections.abc import Callable
from functools import cached_property, update_wrapper
from types import FunctionType
from typing import Any


class Compiled:
    """A function of arrays and numbers that is compiled when it is first called; it may call others of its kind."""

    def __init__(self, written: FunctionType, options: dict[str, Any]) -> None:
        self._written, self._options = written, options
        self._machine: Callable[..., Any] | None = None
        update_wrapper(self, written)

    @cached_property
    def plain(self) -> Callable[..., Any]:
        """The function as written, those it calls too: for the few steps that are not worth a compiler."""
        return self._calling({n: f.plain for n, f in self._callees()})

    def __call__(self, *args: Any) -> Any:
        return (self._machine or self.machine())(*args)

    def machine(self) -> Callable[..., Any]:
        """The compiled function, for callers that are compiled themselves."""
        if self._machine is None:
            from numba import njit  # what this module is for: not before it is needed

            calling = self._calling({n: f.machine() for n, f in self._callees()})
            self._machine = njit(cache=True, **self._options)(calling)
        return self._machine

    def _callees(self) -> list[tuple[str, "Compiled"]]:
        seen = self._written.__globals__
        return [(n, seen[n]) for n in self._written.__code__.co_names if isinstance(seen.get(n), Compiled)]

    def _calling(self, others: dict[str, Any]) -> FunctionType:
        """The function as written, but calling these by their names."""
        written = self._written
        made = FunctionType(written.__code__, written.__globals__ | others, written.__name__, written.__defaults__)
        made.__module__, made.__qualname__ = written.__module__, written.__qualname__
        return made


def compiled(**options: Any) -> Callable[[Callable[..., Any]], Compiled]:
    """Marks a function as one to be compiled, with the compiler's ``options``; the machine code is kept on disk."""

    def mark(plain: Callable[..., Any]) -> Compiled:
        assert isinstance(plain, FunctionType)
        return Compiled(plain, options)

    return mark
