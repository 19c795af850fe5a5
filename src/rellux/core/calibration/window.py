"""How much of the process window is eaten: by what the display is off, how far that is believed, ripple, unevenness and drift; and what
to improve first.

What pushes one way for long (the display's error, drift until the next comparison) and what surely comes (half the ripple, unevenness)
adds up in full; the uncertainty is one half-width more."""

from dataclasses import dataclass

from ..errors import Problem, refuse_all
from ..explain import Figure, Input
from ..messages import difference, percent, temperature
from ..units import Kind

MOST_UNEVEN_C, MOST_SWING_C = 200.0, 500.0
"""The most a chamber may be uneven by, ±, and swing by, that is taken, °C (our choice: a slip of unit is asked back)."""
TIGHT = 0.75
"""Share of the window from which it is called tight (our choice)."""


@dataclass(frozen=True)
class ProcessWindow:
    """Working temperature and the ends it must stay between, °C; ``lowest_c`` may be missing."""

    working_c: float
    highest_c: float
    lowest_c: float | None


@dataclass(frozen=True)
class Eaten:
    """What eats it, all ≥ 0, °C: the display's error now and its expanded uncertainty, drift until the next comparison, ripple from
    trough to peak, and by how much the load's places differ from the sensor's, ±. ``None``: not known."""

    error_c: float
    expanded_c: float
    drift_c: float | None
    swing_c: float | None
    uneven_c: float | None


@dataclass(frozen=True)
class WindowPart:
    """``share`` of the half-window, 0…"""

    key: str
    figure: Figure
    share: float


@dataclass(frozen=True)
class WindowEaten:
    """Parts, the largest first; ``half`` is from the working temperature to the nearer end. ``holds``: the load stays inside."""

    half: Figure
    parts: tuple[WindowPart, ...]
    eaten: Figure
    holds: bool
    says: str


WORDS = {
    "error": "the display's error",
    "belief": "how far that is believed",
    "drift": "drift until the next comparison",
    "ripple": "half the ripple",
    "uneven": "unevenness of the load",
}
IMPROVE = {
    "error": "enter the offset that the comparison asks for.",
    "belief": "compare with a better reference, and more pairs.",
    "drift": "compare sooner, or exchange the sensor.",
    "ripple": "tune the control, or switch more often with a solid state relay.",
    "uneven": "move the sensor to the load, or stir the air.",
}


def window_eaten(window: ProcessWindow, by: Eaten) -> WindowEaten:
    """Raises ``Refused`` for ends that are none and parts nobody can mean."""
    _check(window, by)
    low = window.lowest_c
    to_top = window.highest_c - window.working_c
    half_c = to_top if low is None else min(to_top, window.working_c - low)
    working = Input("working temperature", window.working_c, Kind.TEMPERATURE, "T", "purpose")
    half = Figure(
        "room on the nearer side",
        half_c,
        Kind.DIFFERENCE,
        formula="min(highest − T, T − lowest)",
        inputs=(working, Input("highest", window.highest_c, Kind.TEMPERATURE, "highest", "purpose"))
        + ((Input("lowest", low, Kind.TEMPERATURE, "lowest", "purpose"),) if low is not None else ()),
        reason="What is nearer decides.",
    )
    ripple = None if by.swing_c is None else by.swing_c / 2.0
    known = {"error": by.error_c, "belief": by.expanded_c, "drift": by.drift_c, "ripple": ripple, "uneven": by.uneven_c}
    sizes = {key: c for key, c in known.items() if c is not None}
    unknown = tuple(WORDS[key] for key, c in known.items() if c is None)
    parts = tuple(
        WindowPart(key, _part(key, c), c / half_c)
        for key, c in sorted(sizes.items(), key=lambda item: -item[1])
        if c > 1e-6
    )
    total = sum(sizes.values())
    eaten = Figure(
        "eaten of it",
        total,
        Kind.DIFFERENCE,
        formula="Σ",
        inputs=tuple(p.figure.as_input() for p in parts),
        reason="They can all push the same way, and the first two do for weeks.",
    )
    return WindowEaten(half, parts, eaten, total <= half_c, _says(window, half_c, total, parts, unknown))


def _part(key: str, c: float) -> Figure:
    given = Input(WORDS[key], c, Kind.DIFFERENCE, "", "record, run or entered")
    return Figure(
        WORDS[key], c, Kind.DIFFERENCE, formula="in full", inputs=(given,), reason="On the nearer side of the window."
    )


def _says(
    window: ProcessWindow, half_c: float, total: float, parts: tuple[WindowPart, ...], unknown: tuple[str, ...]
) -> str:
    if not parts:
        return "Nothing is known that would eat of it: compare the display first."
    improve = f"First: {IMPROVE[parts[0].key]}"
    left = half_c - total
    if left < 0:
        at = temperature(window.working_c)
        return f"It may leave the window by {difference(-left, '.2g')} with the display at {at}. {improve}"
    used = f"{percent(total / half_c)} of the room on the nearer side is eaten"
    missing = f" Not counted, because nobody knows: {', '.join(unknown)}." if unknown else ""
    if total > TIGHT * half_c:
        return f"Tight: {used}, {difference(left, '.2g')} left. {improve}{missing}"
    return (
        f"{'As far as is known it holds' if unknown else 'It holds'}: {used}, {difference(left, '.2g')} left.{missing}"
    )


def _check(window: ProcessWindow, by: Eaten) -> None:
    problems = []
    if not window.highest_c > window.working_c:
        problems.append(Problem("highest_c", "is not above the working temperature", "more than it"))
    if window.lowest_c is not None and not window.lowest_c < window.working_c:
        problems.append(Problem("lowest_c", "is not below the working temperature", "less than it"))
    for name, most in (("uneven_c", MOST_UNEVEN_C), ("swing_c", MOST_SWING_C)):
        value = getattr(by, name)
        if value is not None and not 0 <= value <= most:
            problems.append(Problem(name, f"{value:g} cannot be right; a slip of unit?", f"{{0…{most:g} Δ°C}}"))
    refuse_all(problems)
