"""Functions compiled to machine code at their first call.

The compiler costs a process about 100 MB and half a second; most processes that import these functions never call one.
"""

import marshal
from collections.abc import Callable
from functools import cached_property, update_wrapper
from types import FunctionType, ModuleType
from typing import Any
from zlib import crc32


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
            calling.__qualname__ += f"_{self.version():08x}"  # by which the machine code on disk is found again
            self._machine = njit(cache=True, **self._options)(calling)
        return self._machine

    def version(self) -> int:
        """Another number where anything is another that this was compiled from: its own code, that of those it calls, the constants of
        either. The compiler itself looks at the function's own file only."""
        code, seen = self._written.__code__, self._written.__globals__
        modules = [seen[n] for n in code.co_names if isinstance(seen.get(n), ModuleType)]
        places = [seen, *(vars(m) for m in modules)]
        constants = [(n, p[n]) for p in places for n in code.co_names if isinstance(p.get(n), int | float | str)]
        below = [f.version() for _, f in self._callees()]
        return crc32(repr((marshal.dumps(code), constants, below)).encode())

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
