"""What a display is compared with, and what each reference is worth at a temperature.

Values from memory of the trade and of makers' sheets (common practice, no source) except where a formula is given; a certificate
overrules every one of them.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from math import exp, hypot, inf, sqrt

from ..errors import refuse
from ..explain import Figure, Input
from ..form import choice, flag, number
from ..messages import difference, span, temperature
from ..sensing.tolerances import permitted
from ..units import ABSOLUTE_ZERO_C, Kind
from .fixed_points import HIGHEST_HPA, HIGHEST_M, LOWEST_HPA, LOWEST_M, METALS, STANDARD_HPA, boiling, pressure_at

STRIP_STEP_C, STRIP_PERCENT = 5.0, 1.0
"""Marks of a usual temperature strip, °C apart, and its maker's accuracy."""
ICE_U_C, ICE_WITHIN_C, CUBES_C = 0.03, 5.0, 0.5
"""Crushed, drained, stirred ice: ± 0.05 °C; of use for displays near 0 °C only. Cubes in a glass are so much warmer."""
BOILING_U_C, BOILING_C, BOILING_WITHIN_C = 0.1, 100.0, 15.0
"""Boiling water at a known pressure, probe in the steam."""
HPA_U_MEASURED, HPA_U_REPORTED, HPA_U_STANDARD = 1.0, 3.0, 12.0
"""Standard uncertainty of a pressure that was measured there, reduced from a weather report, or taken from the altitude alone, hPa."""
METAL_U_C, METAL_WITHIN_C = 0.3, 30.0
"""A pure metal seen to freeze in a workshop, and how near the display must be to be compared."""
BLOCK_U_C, BLOCK_SHARE, BLOCK_LENGTH = 0.2, 0.001, 2.5
"""A dry block; the stem's loss falls off with this many diameters."""
BLOCK_STEM = 0.05
"""Share of the way to the room that a probe laid on the block would read low."""
INFRARED_U_C, MICROMETRES = 1.5, 10.0
"""A non-contact thermometer's own accuracy, ±, and the wavelength of usual ones, µm."""
RADIATION_UM_K = 14388.0
"""Second constant of radiation, µm K (CODATA)."""
GLOW_C, GLOWS_C = 40.0, 550.0
"""The eye's judgement of a glow, ±, and from where there is one."""
MOST_SHARE = 0.25
"""Part of the tolerance a reference's U may be (common practice: four to one)."""


class ReferenceKind(StrEnum):
    """What it is compared with. The first ones are read like the display; the others have a temperature of their own."""

    THERMOMETER = "thermometer"
    PROBE = "probe"
    BLOCK = "block"
    INFRARED = "infrared"
    STRIP = "strip"
    CRAYON = "crayon"
    ICE = "ice"
    BOILING = "boiling"
    METAL = "metal"
    GLOW = "glow"


KINDS = {
    ReferenceKind.THERMOMETER: "Thermometer with a certificate",
    ReferenceKind.PROBE: "Second probe, class 1",
    ReferenceKind.BLOCK: "Dry block",
    ReferenceKind.INFRARED: "Infrared thermometer",
    ReferenceKind.STRIP: "Temperature strip",
    ReferenceKind.CRAYON: "Melting crayon",
    ReferenceKind.ICE: "Ice bath",
    ReferenceKind.BOILING: "Boiling water",
    ReferenceKind.METAL: "Freezing metal",
    ReferenceKind.GLOW: "Glow, by eye",
}


REACHES_C = {
    ReferenceKind.ICE: (-ICE_WITHIN_C, ICE_WITHIN_C),
    ReferenceKind.BOILING: (BOILING_C - BOILING_WITHIN_C, BOILING_C + BOILING_WITHIN_C),
    ReferenceKind.GLOW: (GLOWS_C, inf),
    ReferenceKind.STRIP: (25.0, 290.0),
    ReferenceKind.CRAYON: (40.0, 1370.0),
    ReferenceKind.BLOCK: (-40.0, 700.0),
}
"""Where each is made for, °C (typical of makers' sheets); the others are read anywhere."""


def _of(*kinds: ReferenceKind) -> tuple[str, tuple[str, ...]]:
    return "kind", tuple(kinds)


@dataclass(frozen=True)
class ReferenceInput:
    """What is asked of a reference, by its kind."""

    kind: ReferenceKind = choice("Compared with", KINDS, ReferenceKind.THERMOMETER)
    expanded_c: float | None = number(
        "U on its certificate", Kind.DIFFERENCE, 0.001, 50, None, optional=True, when=_of(ReferenceKind.THERMOMETER)
    )
    coverage: float = number("with k =", Kind.RATIO, 1, 4, 2, when=_of(ReferenceKind.THERMOMETER))
    aged_c: float = number(
        "It may have drifted since, ±", Kind.DIFFERENCE, 0, 50, 0, when=_of(ReferenceKind.THERMOMETER)
    )
    last_c: float | None = number(
        "Last mark that changed", Kind.TEMPERATURE, -30, 700, None, optional=True, when=_of(ReferenceKind.STRIP)
    )
    next_c: float | None = number(
        "next mark, unchanged", Kind.TEMPERATURE, -30, 700, None, optional=True, when=_of(ReferenceKind.STRIP)
    )
    melted_c: float | None = number(
        "Hottest crayon that melted", Kind.TEMPERATURE, 30, 1400, None, optional=True, when=_of(ReferenceKind.CRAYON)
    )
    unmelted_c: float | None = number(
        "coolest that did not", Kind.TEMPERATURE, 30, 1500, None, optional=True, when=_of(ReferenceKind.CRAYON)
    )
    maker_percent: float = number(
        "Maker's accuracy, ± % of it",
        Kind.PERCENT,
        0,
        10,
        STRIP_PERCENT,
        when=_of(ReferenceKind.STRIP, ReferenceKind.CRAYON),
    )
    emissivity: float = number("Emissivity set", Kind.RATIO, 0.05, 1, 0.95, when=_of(ReferenceKind.INFRARED))
    emissivity_by: float = number("known to ±", Kind.RATIO, 0, 0.5, 0.03, when=_of(ReferenceKind.INFRARED))
    crushed: bool = flag("Crushed, drained and stirred", True, when=_of(ReferenceKind.ICE))
    pressure_hpa: float | None = number(
        "Air pressure, hPa",
        Kind.RATIO,
        LOWEST_HPA,
        HIGHEST_HPA,
        None,
        optional=True,
        hint="empty: by the altitude alone",
        when=_of(ReferenceKind.BOILING),
    )
    sea_level: bool = flag("as a weather report gives it, for sea level", False, when=_of(ReferenceKind.BOILING))
    altitude_m: float | None = number(
        "Altitude of the place", Kind.METRES, LOWEST_M, HIGHEST_M, None, optional=True, when=_of(ReferenceKind.BOILING)
    )
    salt_g_per_kg: float = number("Salt in it, g/kg", Kind.RATIO, 0, 350, 0, when=_of(ReferenceKind.BOILING))
    metal: str = choice("Metal", {name: name.capitalize() for name in METALS}, "tin", when=_of(ReferenceKind.METAL))
    diameters: float = number("Depth, in probe diameters", Kind.RATIO, 1, 100, 10, when=_of(ReferenceKind.BLOCK))


@dataclass(frozen=True)
class ReferenceWorth:
    """``value``: its own temperature, ``None`` where it is read; ``u``: its standard uncertainty, ``None`` where only its certificate says.
    ``warns``: what to heed with it."""

    kind: ReferenceKind
    title: str
    value: Figure | None
    u: Figure | None
    warns: str


def worth(given: ReferenceInput, near_c: float, room_c: float) -> ReferenceWorth:
    """Of a reference for a display near ``near_c``, in a room of ``room_c``, °C.

    Raises ``Refused`` for one that has no value there, and where something its value needs is missing."""
    if given.kind in REACHES_C and not _reaches(given.kind, near_c):
        low, high = REACHES_C[given.kind]
        accepted = f"from {temperature(low)}" if high == inf else span(low, high, "°C")
        raise refuse("kind", f"{KINDS[given.kind]}: of no use at {temperature(near_c, '.0f')}", accepted)
    value, u, warns = _WORTH[given.kind](given, near_c, room_c)
    return ReferenceWorth(given.kind, KINDS[given.kind], value, u, warns)


def usable(near_c: float) -> tuple[ReferenceKind, ...]:
    """The kinds there are for a display near ``near_c``, °C."""
    return tuple(kind for kind in ReferenceKind if _reaches(kind, near_c))


def _reaches(kind: ReferenceKind, near_c: float) -> bool:
    if kind is ReferenceKind.METAL:
        return any(abs(near_c - m) <= METAL_WITHIN_C for m in METALS.values())
    if kind is ReferenceKind.PROBE:
        return permitted("K", "IEC class 1", near_c) is not None
    low, high = REACHES_C.get(kind, (-inf, inf))
    return low <= near_c <= high


Worth = tuple[Figure | None, Figure | None, str]


def _thermometer(g: ReferenceInput, _near: float, _room: float) -> Worth:
    warns = "Clamp it, do not hold it: a second tip within millimetres of the first."
    if g.expanded_c is None:
        return None, None, warns
    u = hypot(g.expanded_c / g.coverage, g.aged_c / sqrt(3.0))
    inputs = (
        Input("on its certificate", g.expanded_c, Kind.DIFFERENCE, "U", "certificate"),
        Input("with", g.coverage, Kind.RATIO, "k", "certificate"),
        Input("drifted since, at most", g.aged_c, Kind.DIFFERENCE, "a", "entered"),
    )
    return None, _u(u, "√((U/k)² + a²/3)", inputs, "A certificate says how well it was known on its day."), warns


def _probe(_g: ReferenceInput, near: float, _room: float) -> Worth:
    allowed = permitted("K", "IEC class 1", near)
    if allowed is None:
        raise refuse("kind", f"class 1 does not cover {temperature(near)}", span(-40, 1000, "°C"))
    given = Input("class 1 at this temperature", allowed, Kind.DIFFERENCE, "a", "IEC 60584-1")
    return (
        None,
        _u(allowed / sqrt(3.0), "a / √3", (given,), "As delivered; one that was used hot may have left its class."),
        "Tape or clamp it beside the other, tip to tip.",
    )


def _block(g: ReferenceInput, near: float, room: float) -> Worth:
    stem = BLOCK_STEM * abs(near - room) * exp(-g.diameters / BLOCK_LENGTH)
    parts = (hypot(BLOCK_U_C, BLOCK_SHARE * near), stem / sqrt(3.0))
    inputs = (
        Input("of the block", parts[0], Kind.DIFFERENCE, "u_b", "typical"),
        Input("lost along the stem, at most", stem, Kind.DIFFERENCE, "a", "e^(−depth / 2.5 diameters)"),
    )
    return (
        None,
        _u(hypot(*parts), "√(u_b² + a²/3)", inputs, "Axial gradient and the heat the stem carries off."),
        "Ten diameters deep.",
    )


def _infrared(g: ReferenceInput, near: float, _room: float) -> Worth:
    kelvin = near - ABSOLUTE_ZERO_C
    by = MICROMETRES * kelvin**2 / RADIATION_UM_K * g.emissivity_by / g.emissivity
    inputs = (
        Input("its own accuracy, ±", INFRARED_U_C, Kind.DIFFERENCE, "a", "typical"),
        Input("emissivity off by, relative", g.emissivity_by / g.emissivity, Kind.RATIO, "Δε/ε", "entered"),
        Input("so much in temperature", by, Kind.DIFFERENCE, "b", "λ T² / 14388 · Δε/ε, λ = 10 µm"),
    )
    u = hypot(INFRARED_U_C, by) / sqrt(3.0)
    return (
        None,
        _u(u, "√((a² + b²) / 3)", inputs, "Emissivity decides."),
        "No hot element in its sight: its reflection adds.",
    )


def _strip(g: ReferenceInput, _near: float, _room: float) -> Worth:
    warns = "It keeps the peak: compare with the highest the display showed."
    marks = None if g.last_c is None or g.next_c is None else _between("last_c", g.last_c, "next_c", g.next_c, "mark")
    return _stepped(g, marks, STRIP_STEP_C, warns)


def _crayon(g: ReferenceInput, near: float, _room: float) -> Worth:
    marks = (
        None
        if g.melted_c is None or g.unmelted_c is None
        else _between("melted_c", g.melted_c, "unmelted_c", g.unmelted_c, "crayon")
    )
    return _stepped(
        g,
        marks,
        max(STRIP_STEP_C, 0.05 * near),
        "Mark the hot part, not the crayon's own stick: it must melt at once, wet.",
    )


def _between(low: str, below: float, high: str, above: float, what: str) -> tuple[float, float]:
    if not above > below:
        raise refuse(high, f"the next {what} is above the last", f"more than {temperature(below)}")
    if above - below > 100.0:
        raise refuse(low, f"{difference(above - below)} from one {what} to the next is no step", "{1…100 Δ°C}")
    return below, above


def _stepped(g: ReferenceInput, marks: tuple[float, float] | None, step: float, warns: str) -> Worth:
    low, high = marks or (0.0, 0.0)
    middle = (low + high) / 2.0
    if marks:
        step = high - low
    maker = g.maker_percent / 100.0 * abs(middle)
    inputs = (
        Input("from mark to mark", step, Kind.DIFFERENCE, "step", "entered" if marks else "usual"),
        Input("its maker's", maker, Kind.DIFFERENCE, "a", "entered"),
    )
    u = _u(hypot(step / sqrt(12.0), maker / sqrt(3.0)), "√(step²/12 + a²/3)", inputs, "Anywhere between two marks.")
    if not marks:
        return None, u, warns
    between = (
        Input("changed", low, Kind.TEMPERATURE, "below", "entered"),
        Input("unchanged", high, Kind.TEMPERATURE, "above", "entered"),
    )
    return _own(middle, "(below + above) / 2", between, "The best value lies midway."), u, warns


def _ice(g: ReferenceInput, _near: float, _room: float) -> Worth:
    half = ICE_U_C if g.crushed else CUBES_C / sqrt(3.0)
    given = Input("spread", half, Kind.DIFFERENCE, "u", "typical")
    reason = "Ice and water together, where they touch." if g.crushed else "Between the cubes the water is warmer."
    value = 0.0 if g.crushed else CUBES_C / 2.0
    return (
        _own(value, "0" if g.crushed else "half of 0.5", (given,), "Melting ice."),
        _u(half, "u", (given,), reason),
        "Crushed and drained, tip deep in the ice and off the glass.",
    )


def _boiling(g: ReferenceInput, _near: float, _room: float) -> Worth:
    pressure, of = _pressure(g)
    celsius = boiling(pressure, g.salt_g_per_kg)
    slope = (
        boiling(min(pressure + 1.0, HIGHEST_HPA), g.salt_g_per_kg)
        - boiling(max(pressure - 1.0, LOWEST_HPA), g.salt_g_per_kg)
    ) / 2.0
    inputs = (
        Input("pressure there, hPa", pressure, Kind.RATIO, "p", of[1]),
        Input("its standard uncertainty, hPa", of[0], Kind.RATIO, "u_p", "typical"),
        Input("for each hPa", slope, Kind.DIFFERENCE, "dT/dp", "IAPWS R7-97"),
    )
    value = _own(
        celsius, "T_sat(p)", inputs[:1], "Where its steam has the pressure of the air.", "IAPWS R7-97, region 4"
    )
    u = _u(
        hypot(BOILING_U_C, of[0] * slope), "√(0.1² + (u_p dT/dp)²)", inputs, "The pressure, and how the tip is held."
    )
    return value, u, "In the steam, or in free water off the bottom."


def _pressure(g: ReferenceInput) -> tuple[float, tuple[float, str]]:
    """Pressure of the place in hPa, its uncertainty, and where it comes from."""
    if g.pressure_hpa is not None and not g.sea_level:
        return g.pressure_hpa, (HPA_U_MEASURED, "measured there")
    if g.altitude_m is None:
        raise refuse(
            "altitude_m",
            "a pressure for sea level must be taken up to the place"
            if g.sea_level
            else "without a pressure the altitude is needed",
            f"{LOWEST_M:g}…{HIGHEST_M:g} m",
        )
    if g.pressure_hpa is not None:
        return pressure_at(g.altitude_m, g.pressure_hpa), (HPA_U_REPORTED, "taken up from sea level")
    return pressure_at(g.altitude_m, STANDARD_HPA), (HPA_U_STANDARD, "standard atmosphere: weather is ± 2 % of it")


def _metal(g: ReferenceInput, near: float, _room: float) -> Worth:
    point = METALS[g.metal]
    if abs(near - point) > METAL_WITHIN_C:
        near_one = f"{g.metal} freezes at {temperature(point, '.2f')}, far from {temperature(near, '.0f')}"
        raise refuse("metal", near_one, "a metal that freezes nearby")
    given = Input("fixed point", point, Kind.TEMPERATURE, "t", "ITS-90")
    spread = Input("of a workshop's melt", METAL_U_C, Kind.DIFFERENCE, "u", "typical")
    return (
        _own(point, "t", (given,), "It stands still while it freezes.", "ITS-90"),
        _u(METAL_U_C, "u", (spread,), "Impure metal and a short plateau."),
        "Molten metal burns: face, gloves, dry moulds; no damp probe goes in.",
    )


def _glow(_g: ReferenceInput, _near: float, _room: float) -> Worth:
    given = Input("by eye, ±", GLOW_C, Kind.DIFFERENCE, "a", "typical")
    return (
        None,
        _u(GLOW_C / sqrt(3.0), "a / √3", (given,), "The light of the room decides much."),
        "Finds a wrong sensor type, not an offset.",
    )


_WORTH: dict[ReferenceKind, Callable[[ReferenceInput, float, float], Worth]] = {
    ReferenceKind.THERMOMETER: _thermometer,
    ReferenceKind.PROBE: _probe,
    ReferenceKind.BLOCK: _block,
    ReferenceKind.INFRARED: _infrared,
    ReferenceKind.STRIP: _strip,
    ReferenceKind.CRAYON: _crayon,
    ReferenceKind.ICE: _ice,
    ReferenceKind.BOILING: _boiling,
    ReferenceKind.METAL: _metal,
    ReferenceKind.GLOW: _glow,
}


def _u(value: float, formula: str, inputs: tuple[Input, ...], reason: str) -> Figure:
    return Figure(
        "reference, standard uncertainty",
        value,
        Kind.DIFFERENCE,
        formula=formula,
        inputs=inputs,
        reason=reason,
        symbol="u_ref",
    )


def _own(value: float, formula: str, inputs: tuple[Input, ...], reason: str, source: str = "") -> Figure:
    return Figure(
        "the reference's own temperature",
        value,
        Kind.TEMPERATURE,
        formula=formula,
        inputs=inputs,
        reason=reason,
        source=source,
    )


@dataclass(frozen=True)
class ReferencePlan:
    """A kind as it is offered: what it is worth with usual answers, and what to heed."""

    kind: ReferenceKind
    title: str
    u_c: float | None
    warns: str


def offered(near_c: float, room_c: float) -> tuple[ReferencePlan, ...]:
    """What a display near ``near_c`` can be compared with."""
    found = []
    for kind in usable(near_c):
        usual = replace(ReferenceInput(), kind=kind, altitude_m=0.0, metal=_nearest_metal(near_c))
        it = worth(usual, near_c, room_c)
        found.append(ReferencePlan(kind, it.title, it.u.value if it.u else None, it.warns))
    return tuple(found)


def _nearest_metal(near_c: float) -> str:
    return min(METALS, key=lambda name: abs(METALS[name] - near_c))


def check_good_enough(expanded_c: float, tolerance_c: float) -> str:
    """A warning where the reference's U is more than a quarter of what is allowed; empty where it is good enough."""
    if expanded_c <= MOST_SHARE * tolerance_c:
        return ""
    return (
        f"The reference's own uncertainty, {difference(expanded_c, '.2g')}, is more than a quarter of the "
        f"{difference(tolerance_c, '.2g')} allowed: it can find a gross error, not settle a small one."
    )
