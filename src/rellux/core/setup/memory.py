"""The memory a controller keeps a value in: what writes cost it, and when they have worn it out.

A register that is stored goes to memory that stands a number of writes, often 100 000 (common practice, no source): written once a second
that is 28 hours. A programme may take a hundredth of it; a write by hand is told what is left.
"""

from dataclasses import dataclass

from ..messages import quantity

WORN = 0.01
"""Share of the endurance of a set-point's memory that one run may take (our choice: a hundred runs)."""
MUCH = 0.8
"""Share of the endurance from which its end is told ahead (our choice: time enough to change the register)."""


@dataclass(frozen=True)
class Memory:
    """Where a value is kept. ``stored``: it wears, after ``endurance`` writes where that is stated; ``written``: how often it was, from
    here."""

    stored: bool
    endurance: int | None = None
    written: int = 0


def run_says(memory: Memory, writes: int) -> str:
    """What a run of so many writes costs the memory of the set-point."""
    if not memory.stored:
        return f"About {quantity(writes)} set-points are written. The map does not say that their memory wears out."
    times = f"it is written once a minute at the most, {quantity(writes)} times{_of_life(memory)}"
    before = f", and was {quantity(memory.written)} times before" if memory.written else ""
    return f"The set-point is kept in memory that wears out: {times}{before}."


def wears_out(memory: Memory, writes: int) -> bool:
    """Whether a run would take too much of it, go past its end, or nobody knows how much it stands."""
    if not memory.stored:
        return False
    return memory.endurance is None or writes > WORN * memory.endurance or memory.written + writes > memory.endurance


def write_says(memory: Memory) -> str:
    """What is to be known before one more write; empty where its memory does not wear."""
    if not memory.stored:
        return ""
    written = f"written {quantity(memory.written)} times from here{_of_life(memory)}"
    if memory.endurance is None or memory.written < MUCH * memory.endurance:
        return f"kept in memory that wears out: {written}"
    if memory.written < memory.endurance:
        return f"its memory is nearly worn out: {written}"
    return f"its memory is worn out by what its map says: {written}; what it holds may be lost at any power-up"


def _of_life(memory: Memory) -> str:
    return (
        f" of the {quantity(memory.endurance)} it stands"
        if memory.endurance
        else "; how many it stands its map does not say"
    )
