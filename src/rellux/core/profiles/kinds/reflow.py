"""Reflow soldering: each limit scored by whose it is. IPC/JEDEC J-STD-020 (revision D/E, from memory) classifies *components*: its peak
is the hottest that a body may be taken to, its slopes and times are bounds for the part. What makes a good joint is in the paste's sheet.
"""

from dataclasses import dataclass
from enum import StrEnum

from ...findings import Finding, Severity
from ...form import choice, number
from ...messages import temperature
from ...units import Kind
from ..profile import Profile
from ..scoring import Score, Span, first_at, peak, score, span_above, span_between, steepest
from .kind import OFF, Places, ProfileKind, per_minute, ramp, ramp_in

COMPONENT, PASTE = "component", "paste"
PER_MIN = 60.0


class Solder(StrEnum):
    TIN_LEAD = "tin_lead"
    LEAD_FREE = "lead_free"


SOLDERS = {Solder.TIN_LEAD: "Tin-lead", Solder.LEAD_FREE: "Lead-free"}


@dataclass(frozen=True)
class Class:
    """Limits of a component: preheat between two temperatures for s, time above liquidus in s, slopes in °C/s up (from liquidus to the
    peak) and down, time near the peak, from 25 °C to it."""

    preheat_c: tuple[float, float]
    preheat_s: tuple[float, float]
    liquidus_c: float
    above_s: tuple[float, float]
    body_c: float
    near_peak_s: float
    up: float = 3.0
    down: float = 6.0
    whole_s: float = 360.0


CLASSES = {
    Solder.TIN_LEAD: Class((100.0, 150.0), (60.0, 120.0), 183.0, (60.0, 150.0), 235.0, 20.0),
    Solder.LEAD_FREE: Class((150.0, 200.0), (60.0, 120.0), 217.0, (60.0, 150.0), 260.0, 30.0, whole_s=480.0),
}
"""J-STD-020 revision D/E, from memory."""
BODY_C = {Solder.TIN_LEAD: (220.0, 235.0), Solder.LEAD_FREE: (245.0, 260.0)}
"""Range of classified body temperatures by package (the same)."""
NEAR_PEAK_C = 5.0
SHORT = "it does not melt, or is too short"
ROOM_C = 25.0


@dataclass(frozen=True)
class Reflow:
    """The component's class, and what the paste asks for on top of it."""

    solder: Solder = choice("Solder", SOLDERS, Solder.LEAD_FREE)
    body_c: float = number(
        "Hottest for the part", Kind.TEMPERATURE, 200, 280, 250.0, hint="classified by package: 220…235 or 245…260"
    )
    peak_c: float = number("Peak meant", Kind.TEMPERATURE, 190, 270, 240.0)
    paste_peak_c: float | None = number("Paste: peak at least", Kind.TEMPERATURE, 180, 260, 230.0, optional=True)
    paste_least_s: float | None = number("above liquidus at least", Kind.TIME, 5, 200, 40.0, optional=True)
    paste_most_s: float | None = number("at most", Kind.TIME, 10, 300, 90.0, optional=True)
    soak_s: float = number("Preheat lasts", Kind.TIME, 20, 300, 90.0)


def _build(g: Reflow) -> Profile:
    c = CLASSES[g.solder]
    low, high = c.preheat_c
    return Profile(
        (
            ramp(low, 1.5 * PER_MIN),
            ramp_in(high, g.soak_s, "flux works"),
            ramp(g.peak_c, 1.5 * PER_MIN, "it melts"),
            ramp(ROOM_C + 25.0, 3.0 * PER_MIN, "open the lid now"),
            OFF,
        )
    )


def _judge(g: Reflow, places: Places) -> tuple[Score, ...]:
    hot, cold, c = places.hottest, places.coldest, CLASSES[g.solder]
    top = first_at(hot, peak(hot).value) or 0.0
    melt = first_at(hot, c.liquidus_c)
    begin = first_at(hot, ROOM_C)
    whole = None if begin is None else Span(top - begin, top - begin, top - begin)
    found = [
        score("body", "peak of the part", COMPONENT, Kind.TEMPERATURE, peak(hot), most=g.body_c),
        score(
            "preheat", f"{temperature(c.preheat_c[0])} to {temperature(c.preheat_c[1])} on the way up", COMPONENT, Kind.TIME,
            span_between(hot, *c.preheat_c, until_s=top), *c.preheat_s,
        ),
        score(
            "up", "steepest from liquidus to the peak", COMPONENT, Kind.RATE,
            per_minute(steepest(hot, c.liquidus_c, 1e9, False, until_s=top)), most=c.up * PER_MIN, none=SHORT,
        ),
        score("above", "above liquidus", COMPONENT, Kind.TIME, span_above(hot, c.liquidus_c), *c.above_s),
        score(
            "near", f"within {NEAR_PEAK_C:g} K of what the part may have", COMPONENT, Kind.TIME,
            span_above(hot, g.body_c - NEAR_PEAK_C), most=c.near_peak_s,
        ),
        score(
            "down", "steepest from the peak to liquidus", COMPONENT, Kind.RATE,
            per_minute(steepest(hot, c.liquidus_c, 1e9, True, since_s=top)), most=c.down * PER_MIN, none=SHORT,
        ),
        score("whole", "from room to the peak", COMPONENT, Kind.TIME, whole, most=c.whole_s, none="it begins warmer than a room"),
    ]  # fmt: skip
    if g.paste_peak_c is not None:
        none = "" if melt is not None else "it does not melt"
        found.append(
            score("joint", "peak of the joint", PASTE, Kind.TEMPERATURE, peak(cold), least=g.paste_peak_c, none=none)
        )
    if g.paste_least_s is not None or g.paste_most_s is not None:
        found.append(
            score(
                "wet",
                "joint above liquidus, coldest",
                PASTE,
                Kind.TIME,
                span_above(cold, c.liquidus_c),
                g.paste_least_s,
            )
        )
        found.append(
            score(
                "long",
                "joint above liquidus, hottest",
                PASTE,
                Kind.TIME,
                span_above(hot, c.liquidus_c),
                most=g.paste_most_s,
            )
        )
    return tuple(found)


def _findings(g: Reflow) -> tuple[Finding, ...]:
    found = []
    low, high = BODY_C[g.solder]
    if not low <= g.body_c <= high:
        found.append(
            Finding(
                "profiles.reflow-class",
                Severity.ADVICE,
                title="No package is classified for that",
                reason=f"Parts for this solder are classified between {temperature(low)} and {temperature(high)}.",
                fix="Take what the part's own sheet or its label says.",
                source="IPC/JEDEC J-STD-020, from memory",
            )
        )
    if g.peak_c > g.body_c:
        found.append(
            Finding(
                "profiles.reflow-peak",
                Severity.FAULT,
                title="The peak meant is hotter than the part stands",
                reason=f"{temperature(g.peak_c)} is meant, {temperature(g.body_c)} allowed.",
                fix="A lower peak, or another part.",
            )
        )
    return tuple(found)


KIND = ProfileKind(
    "reflow",
    "Reflow",
    Reflow,
    _build,
    _judge,
    source="IPC/JEDEC J-STD-020 revision D/E for components, from memory; the paste's limits are those of its sheet",
    findings=_findings,
    caution="Flux smokes: extract it. The board stays hot after the lid is open.",
)
