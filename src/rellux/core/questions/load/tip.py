"""How fast is a hand tool with interchangeable tips, and what does a heavy joint do to each?"""

from dataclasses import dataclass
from math import log

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...heating.dips import ColdLoad, Dip, HotChamber, dip
from ...heating.elements import power_on
from ...messages import difference, quantity, span, temperature
from ...units import Kind
from ..answer import MEMORY, Alternative, Answer, Axis, Curves, Question, Topic, curve
from ..form import number, rows, text

COPPER_J_G_K = 0.39
"""Specific heat of copper (and, within a tenth, of iron), J/g·K."""
CONTACT_W_K = 0.6
"""Wetted contact of a tip on a joint (typical, from memory)."""
STEP_S = 0.05
SAG_C = 60.0
"""A dip by which usual solder no longer wets (common practice, no source)."""


@dataclass(frozen=True)
class Tip:
    """A tip with the heated part it sits on, and what it differs from the display when at work."""

    name: str = text("Tip", "chisel 2 mm")
    mass_g: float = number("with its heater, g", Kind.COUNT, 0.5, 500, 8)
    offset_c: float = number("differs from the display by", Kind.DIFFERENCE, -150, 150, 0)


TIPS = (Tip("needle", 6, -12), Tip("chisel 2 mm", 8, -5), Tip("block", 25, -18))


@dataclass(frozen=True)
class TipInput:
    """A tool on its supply, a joint, and the tips in the drawer."""

    working_c: float = number("Tip at", Kind.TEMPERATURE, 50, 600, 350)
    ambient_c: float = number("Room", Kind.TEMPERATURE, -20, 60, 21)
    power_w: float = number("Nameplate power", Kind.POWER, 1, 2000, 50)
    rated_v: float = number("made for", Kind.VOLTAGE, 1, 250, 24)
    supply_v: float = number("Supply", Kind.VOLTAGE, 1, 250, 24)
    hold_w: float = number("Power that only holds it", Kind.POWER, 0.1, 500, 8)
    joint_g: float = number("Joint, copper, g", Kind.COUNT, 0.01, 500, 3)
    idle_min: float = number("Idle after, minutes", Kind.COUNT, 0.5, 120, 5)
    idle_c: float = number("idles at", Kind.TEMPERATURE, 21, 500, 200)
    tips: tuple[Tip, ...] = rows("Tips", Tip, TIPS, 1, 12)


@dataclass(frozen=True)
class Judged:
    """A tip at work: seconds from cold, from idle, and back after the joint; the dip in °C."""

    tip: Tip
    cold_s: float
    idle_s: float
    dip: Dip
    depth_c: float


def _tip(g: TipInput) -> Answer:
    power = power_on(g.power_w, g.rated_v, g.supply_v, "wire")
    if g.working_c <= g.ambient_c:
        raise refuse("working_c", "the tip is not hotter than the room", f"above {temperature(g.ambient_c)}")
    if power <= g.hold_w * 1.05:
        raise refuse(
            "hold_w",
            f"the heater gives {quantity(power, 'W', '.3g')} here and would not get there",
            f"below {quantity(power / 1.05, 'W', '.3g')}",
        )
    if not g.ambient_c <= g.idle_c < g.working_c:
        raise refuse("idle_c", "idling is cooler than working", span(g.ambient_c, g.working_c, "°C"))
    judged = [_judge(g, tip, power) for tip in g.tips]
    slow = max(judged, key=lambda j: j.cold_s)
    deep = max(judged, key=lambda j: j.depth_c)
    return Answer(
        f"Ready in {quantity(slow.cold_s, 's', '.0f')} at the most; the joint takes {difference(deep.depth_c, '.0f')} off the"
        f" {deep.tip.name or 'tip'}.",
        (
            Figure(
                "power here",
                power,
                Kind.POWER,
                formula="P₂ = P₁ (V₂/V₁)²",
                inputs=(
                    Input("made for", g.rated_v, Kind.VOLTAGE, "V₁", "given"),
                    Input("supply", g.supply_v, Kind.VOLTAGE, "V₂", "given"),
                ),
                reason="24 V instead of 18 V is 1.78 times the power.",
                source="Ohm's law",
            ),
            Figure(
                "slowest from cold",
                slow.cold_s,
                Kind.TIME,
                formula="−(C/G) ln(1 − G ΔT/P)",
                inputs=(Input("heat capacity, J/K", slow.tip.mass_g * COPPER_J_G_K, Kind.RATIO, "C", "copper"),),
                reason=f"The {slow.tip.name or 'tip'}.",
                source="one lump",
            ),
        ),
        _findings(g, power, judged),
        Curves(
            Axis("seconds on the joint", Kind.COUNT),
            Axis("tip", Kind.TEMPERATURE),
            tuple(
                curve(
                    j.tip.name or f"tip {i + 1}",
                    j.dip.time_s[::4],
                    j.dip.chamber_c[::4],
                    "main" if j is deep else "other",
                )
                for i, j in enumerate(judged)
            ),
        ),
        alternatives=tuple(_row(g, i, j) for i, j in enumerate(judged)),
    )


def _judge(g: TipInput, tip: Tip, power: float) -> Judged:
    capacity = tip.mass_g * COPPER_J_G_K
    conductance = g.hold_w / (g.working_c - g.ambient_c)
    found = dip(
        HotChamber(g.working_c, g.ambient_c, capacity, g.hold_w, power),
        ColdLoad(g.joint_g / 1000, COPPER_J_G_K * 1000, g.ambient_c, CONTACT_W_K),
        STEP_S,
    )

    def rise(start_c: float) -> float:
        left = (power - conductance * (start_c - g.ambient_c)) / (power - g.hold_w)
        return capacity / conductance * log(left)

    return Judged(tip, rise(g.ambient_c), rise(g.idle_c), found, g.working_c - found.lowest_c)


def _row(g: TipInput, i: int, j: Judged) -> Alternative:
    back = (
        "not back by itself"
        if j.dip.recovered_s is None
        else f"joint through in {quantity(j.dip.recovered_s, 's', '.1f')}"
    )
    return Alternative(
        f"tip-{i}",
        j.tip.name or f"tip {i + 1}",
        Severity.ADVICE if j.depth_c > SAG_C else None,
        says=f"{quantity(j.cold_s, 's', '.0f')} from cold, {quantity(j.idle_s, 's', '.0f')} "
        f"from idle; dips {difference(j.depth_c, '.0f')}, {back}",
        reasons=(
            f"Set {temperature(g.working_c - j.tip.offset_c, '.0f')} for it: its offset is {difference(j.tip.offset_c, '+.0f')}.",
            "Keep its own tuning: a heavier tip answers more slowly to the same heat.",
            f"Preset: idle at {temperature(g.idle_c, '.0f')} after {quantity(g.idle_min, 'min')} in the stand.",
        ),
    )


def _findings(g: TipInput, power: float, judged: list[Judged]) -> tuple[Finding, ...]:
    told = []
    if power > 1.21 * g.power_w:
        told.append(
            Finding(
                "tip.power",
                Severity.DANGER,
                title=f"The heater gives {quantity(power / g.power_w, '', '.2f')} times its nameplate",
                reason="It ages fast or burns through; power limiting only hides it while the controller works.",
                fix="The supply it is made for.",
            )
        )
    sagging = [j.tip.name or "tip" for j in judged if j.depth_c > SAG_C]
    if sagging:
        told.append(
            Finding(
                "tip.sag",
                Severity.ADVICE,
                title=f"This joint is too heavy for: {', '.join(sagging)}",
                reason="The tip falls so far that solder pulls strings before the joint is through.",
                fix="A heavier tip, more power, or preheat the joint: not a hotter tip.",
            )
        )
    spread = max(j.tip.offset_c for j in judged) - min(j.tip.offset_c for j in judged)
    if spread > 5:
        told.append(
            Finding(
                "tip.offset",
                Severity.ADVICE,
                title=f"The tips differ by {difference(spread, '.0f')} at one setting",
                reason="One sensor in the handle serves all; each tip loses differently on its way to the point.",
                fix="An offset per tip in the presets; measure it at the point with a fine probe.",
            )
        )
    return tuple(told)


TIP = Question(
    "tip",
    "How does a hand tool do with this tip?",
    Topic.LOAD,
    TipInput,
    _tip,
    None,
    (
        "Offset, tuning and presets belong to the tip, not to the tool.",
        f"Contact and offsets: {MEMORY}.",
    ),
    "It burns skin and lights paper: a stand that holds it, and a power-off time even for the idle setting.",
    ("heater",),
)
