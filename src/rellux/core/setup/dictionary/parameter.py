"""What one parameter of a controller is."""

from collections.abc import Mapping
from dataclasses import dataclass

from ...units import Kind

Value = float | str
ANYTHING = "*"
"""As ``without``: a controller that has no such setting is as good as one set to any value of it."""


@dataclass(frozen=True)
class Applies:
    """A parameter applies while the one of this ``name`` is one of ``values``."""

    name: str
    values: tuple[str, ...]


@dataclass(frozen=True)
class Parameter:
    """One parameter; numbers have ``kind``, ``low`` and ``high``, choices have ``choices`` (value, words). ``applies``: all of it must
    hold. ``without``: what a controller does that has no such setting; ``None`` where every one has it."""

    name: str
    title: str
    meaning: str
    group: str
    kind: Kind | None = None
    low: float = 0.0
    high: float = 0.0
    choices: tuple[tuple[str, str], ...] = ()
    applies: tuple[Applies, ...] = ()
    without: Value | None = None

    def applies_in(self, sheet: Mapping[str, Value]) -> bool:
        """Whether it has a meaning beside the other values of a sheet; what the sheet leaves open hinders nothing."""
        return all(str(sheet.get(a.name, a.values[0])) in a.values for a in self.applies)
