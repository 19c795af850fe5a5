"""What is this probe? Ohms, their change on warming, a magnet, millivolts in boiling water and colours, each against every kind.

Every kind is judged by every observation that was made; a kind that contradicts one is out, and says by which. Nothing observed
rules nothing out. Reference functions: NIST Monograph 175, IEC 60751; beads and silicon sensors: typical of data sheets, from memory.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from ..errors import refuse
from ..messages import quantity, span, temperature
from .colours import which_is_positive
from .older_types import OLDER
from .resistance import resistance
from .sensors import NOMINAL_OHM
from .thermocouples import TYPES, emf

LEAD_OHM = 12.0
"""Leads of a resistance thermometer add at most so much between two of its wires (common practice, no source)."""
CLASS_OHM_SHARE = 0.02
"""A resistance thermometer and a hand meter are within so much of nominal (our choice)."""
COUPLE_OHM = 300.0
"""A thermocouple's own loop: a long thin mineral-insulated one reaches hundreds of ohms (common practice, no source)."""
OPEN_OHM = 1e6
"""From here on a loop counts as open (our choice)."""
MV_SLACK, MV_SHARE = 0.12, 0.06
"""A hand meter's millivolt reading, and terminals and water some degrees off (our choice): ± mV and share."""
SLOPE_SHARE = 0.25
"""Ohms per degree, measured with a warm hand and a cup of tea, are within so much (our choice)."""
LEAST_WARMING_C = 8.0
"""A smaller rise tells nothing (our choice)."""
KTY_PER_K, NI_PER_K = 0.0078, 0.0055
"""Rise per kelvin near room temperature of silicon sensors and of nickel ones (DIN 43760, from memory)."""
NTC_FALLS = (-0.065, -0.02)
"""Change per kelvin of NTC beads near room temperature (typical of data sheets)."""
NTC_OHM = (200.0, 2e6)
"""Span of beads near room temperature (typical of data sheets)."""


class Magnet(StrEnum):
    """How a small magnet takes to the bare legs."""

    UNTRIED = "untried"
    NONE = "none"
    WEAK = "weak"
    STRONG = "strong"


@dataclass(frozen=True)
class Seen:
    """What was observed; None or empty where it was not. ``ohm`` between the two wires that show most, at ``room_c``; ``warm_ohm``
    at ``warm_c``; ``wires`` that come out; ``boiling_mv`` with the tip in boiling water and the meter's terminals at ``room_c``,
    either sign; ``colours`` of the two legs."""

    room_c: float = 20.0
    wires: int | None = None
    ohm: float | None = None
    warm_c: float | None = None
    warm_ohm: float | None = None
    magnet: Magnet = Magnet.UNTRIED
    boiling_mv: float | None = None
    colours: tuple[str, str] | None = None


@dataclass(frozen=True)
class Candidate:
    """One kind of probe: what speaks for it and against it, in words."""

    key: str
    name: str
    pro: tuple[str, ...] = ()
    contra: tuple[str, ...] = ()

    @property
    def possible(self) -> bool:
        return not self.contra


@dataclass(frozen=True)
class Identified:
    """Every kind, the possible ones first and those with most to speak for them before the others; the test that would tell most of
    those apart, empty where one or none is left or no test is; the leg that is positive, where it is known."""

    candidates: tuple[Candidate, ...]
    next_test: str
    positive: str = ""
    is_open: bool = False

    @property
    def possible(self) -> tuple[Candidate, ...]:
        return tuple(c for c in self.candidates if c.possible)


@dataclass(frozen=True)
class _Kind:
    key: str
    name: str
    ohm: tuple[float, float]
    per_kelvin: tuple[float, float] | None
    magnets: tuple[Magnet, ...]
    wires: tuple[int, ...]
    boiling: Callable[[float], float] | None = None
    letter: str = field(default="")


def _couple(letter: str) -> _Kind:
    pull = {"J": (Magnet.STRONG,), "L": (Magnet.STRONG,), "K": (Magnet.WEAK,)}.get(letter, (Magnet.NONE,))

    def boiling(room_c: float) -> float:
        older = next((o for o in OLDER.values() if o.letter == letter), None)
        hot, cold = older.emf(np.array([100.0, room_c])) if older else emf(letter, [100.0, room_c])
        return float(hot - cold)

    name = f"Type {letter} thermocouple"
    return _Kind(letter, name, (0.05, COUPLE_OHM), None, pull, (2,), boiling, letter)


def _platinum(name: str, r0: float, room_c: float) -> _Kind:
    low = float(resistance(room_c, r0))
    span_ = (low * (1 - CLASS_OHM_SHARE), low * (1 + CLASS_OHM_SHARE) + LEAD_OHM)
    slope = float(resistance(room_c + 1.0, r0) - low) / low
    return _Kind(name, name, span_, (slope, slope), (Magnet.NONE, Magnet.WEAK), (2, 3, 4))


def kinds(room_c: float) -> tuple[_Kind, ...]:
    """Every kind that is told apart here, as it is at ``room_c`` in °C."""
    anything = (Magnet.NONE, Magnet.WEAK, Magnet.STRONG)
    return (
        *(_couple(t) for t in (*TYPES, *(o.letter for o in OLDER.values()))),
        *(_platinum(name, r0, room_c) for name, r0 in NOMINAL_OHM.items()),
        _Kind(
            "Ni100",
            "Nickel thermometer, 100 Ω",
            _about(100.0, NI_PER_K, room_c),
            (NI_PER_K, NI_PER_K),
            anything,
            (2, 3, 4),
        ),
        _Kind("KTY", "Silicon thermometer, 1 or 2 kΩ", (850.0, 2100.0), (KTY_PER_K, KTY_PER_K), anything, (2,)),
        _Kind("NTC", "Thermistor (NTC)", NTC_OHM, NTC_FALLS, anything, (2,)),
    )


def _about(r0: float, per_kelvin: float, room_c: float) -> tuple[float, float]:
    middle = r0 * (1.0 + per_kelvin * room_c)
    return middle * (1 - CLASS_OHM_SHARE), middle * (1 + CLASS_OHM_SHARE) + LEAD_OHM


def identify_probe(seen: Seen) -> Identified:
    """What the probe can be. Raises ``Refused`` for a warming that is none, and for colours that are no conductor's."""
    if (seen.warm_ohm is None) != (seen.warm_c is None):
        raise refuse("warm_ohm", "ohms when warm and how warm belong together", "both, or neither")
    if seen.warm_c is not None and abs(seen.warm_c - seen.room_c) < LEAST_WARMING_C:
        least = quantity(LEAST_WARMING_C, "Δ°C", ".0f")
        raise refuse("warm_c", "too little warming to tell anything", f"{least} and more from the first")
    if seen.warm_ohm is not None and seen.ohm is None:
        raise refuse("ohm", "ohms when warm tell nothing without those before", "both")
    is_open = seen.ohm is not None and seen.ohm >= OPEN_OHM
    all_kinds = kinds(seen.room_c)
    judged = [_judge(k, seen, is_open) for k in all_kinds]
    judged.sort(key=lambda c: (not c.possible, len(c.contra), -len(c.pro)))
    left = [k for k in all_kinds if any(c.key == k.key and c.possible for c in judged)]
    return Identified(tuple(judged), _next_test(left, seen, is_open), _positive(left, seen), is_open)


def _judge(kind: _Kind, seen: Seen, is_open: bool) -> Candidate:
    pro: list[str] = []
    contra: list[str] = []

    def says(fits: bool, good: str, bad: str) -> None:
        (pro if fits else contra).append(good if fits else bad)

    if seen.wires is not None and seen.wires in kind.wires:  # a screen or a second element adds wires: never against it
        pro.append(f"usually {seen.wires} wires")
    if seen.ohm is not None and not is_open:
        low, high = kind.ohm
        here = span(low, high, "Ω", ".3g")
        says(low <= seen.ohm <= high, f"{quantity(seen.ohm, 'Ω', '.3g')} is within {here}", f"it would show {here}")
    if seen.warm_c is not None and seen.warm_ohm is not None and seen.ohm and not is_open:
        _by_warming(kind, (seen.warm_ohm / seen.ohm - 1.0) / (seen.warm_c - seen.room_c), says)
    if seen.magnet is not Magnet.UNTRIED:
        says(
            seen.magnet in kind.magnets, f"a magnet: {seen.magnet.value}", f"a magnet would be: {kind.magnets[0].value}"
        )
    if seen.boiling_mv is not None:
        expected = kind.boiling(seen.room_c) if kind.boiling else 0.0
        near = abs(abs(seen.boiling_mv) - abs(expected)) <= MV_SLACK + MV_SHARE * abs(expected)
        shown = quantity(expected, "mV", ".2f")
        says(near, f"boiling water gives {shown}", f"boiling water would give {shown}")
    if seen.colours and kind.letter:
        fits = [f.standard for f in which_is_positive(*seen.colours).fits if f.type == kind.letter]
        says(bool(fits), f"colours of {', '.join(fits)}", "no standard gives it these colours")
    return Candidate(kind.key, kind.name, tuple(pro), tuple(contra))


def _by_warming(kind: _Kind, per_kelvin: float, says: Callable[[bool, str, str], None]) -> None:
    """A thermocouple's loop hardly changes: only its tip was warmed."""
    low, high = kind.per_kelvin or (-NI_PER_K * SLOPE_SHARE, NI_PER_K * SLOPE_SHARE)
    if kind.per_kelvin:
        slack = SLOPE_SHARE * max(abs(low), abs(high)) if low == high else 0.0
        low, high = low - slack, high + slack
    shown = quantity(per_kelvin * 100.0, "%", ".2f")
    want = span(low * 100.0, high * 100.0, "%", ".2f")
    says(low <= per_kelvin <= high, f"{shown} per degree is within {want}", f"it would change {want} per degree")


def _next_test(left: list[_Kind], seen: Seen, is_open: bool) -> str:
    """The test not yet made whose outcomes part what is left into most groups."""
    if len(left) < 2:
        return ""
    tests: list[tuple[int, str]] = []
    if seen.ohm is None:
        groups = len({round(k.ohm[1], 0) for k in left})
        tests.append((groups, "Measure ohms between its wires: a thermocouple is a few, a Pt100 about 108."))
    if seen.boiling_mv is None and not is_open:
        millivolts = {round(k.boiling(seen.room_c) / 0.4) if k.boiling else 0 for k in left}
        tests.append(
            (
                len(millivolts),
                f"Tip in boiling water, millivolts at its ends, which are at {temperature(seen.room_c, '.0f')}.",
            )
        )
    if seen.magnet is Magnet.UNTRIED:
        tests.append((len({k.magnets for k in left}), "Hold a small magnet to each bare leg."))
    if seen.warm_ohm is None and seen.ohm is not None and not is_open:
        slopes = {round(sum(k.per_kelvin) * 200) if k.per_kelvin else 0 for k in left}
        tests.append((len(slopes), "Warm the tip in water of known temperature and measure the ohms again."))
    best = max(tests, key=lambda t: t[0], default=(0, ""))
    return best[1] if best[0] > 1 else ""


def _positive(left: list[_Kind], seen: Seen) -> str:
    """The leg that is positive in every kind and standard left, by colour."""
    if not seen.colours or not left:
        return ""
    letters = {k.letter for k in left if k.letter}
    legs = {f.positive for f in which_is_positive(*seen.colours).fits if f.type in letters}
    return legs.pop() if len(legs) == 1 else ""
