"""Settings changed at a controller's own keys: told from what was written over the link, once they stand still.

A set-point that the controller's own programme moves changes all the time: it is told when it has come to rest.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from .steps import is_held

SETTLED_S = 10.0
"""A value that has stood still for so long was meant, s (our choice: nobody at the keys pauses longer between two digits)."""

Value = float | str


@dataclass(frozen=True)
class Changed:
    """A setting that is another than it was."""

    name: str
    before: Value
    after: Value


@dataclass
class Keys:
    """What a controller holds, and since when. ``steps``: the least change of every setting watched, by its name."""

    steps: Mapping[str, float]
    _known: dict[str, Value] = field(default_factory=dict, init=False)
    _moved: dict[str, tuple[Value, float]] = field(default_factory=dict, init=False)

    def written(self, values: Mapping[str, Value]) -> None:
        """So it was set from here: that is no change at its keys."""
        for name, value in values.items():
            if name in self.steps:
                self._known[name] = value
                self._moved.pop(name, None)

    def look(self, values: Mapping[str, Value | None], now_s: float) -> list[Changed]:
        """One look at the controller at this moment: what has been changed at its keys and stands still. A value it does not say is not
        news; the first one it says is what it had."""
        found = []
        for name, step in self.steps.items():
            value = values.get(name)
            if value is None:
                continue
            known = self._known.setdefault(name, value)
            if is_held(known, value, step):
                self._moved.pop(name, None)
                continue
            moved = self._moved.get(name)
            if moved is None or not is_held(moved[0], value, step):
                self._moved[name] = value, now_s
            elif now_s - moved[1] >= SETTLED_S:
                found.append(Changed(name, known, value))
                self._known[name] = value
                del self._moved[name]
        return found
