"""How fast is a hand tool with interchangeable tips, and what does a heavy joint do to each?"""

from dataclasses import dataclass

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number, rows, text
from ...heating.elements import power_on
from ...heating.tips import COPPER_J_G_K, AtWork, Tool, at_work
from ...messages import difference, quantity, temperature
from ...units import Kind
from ..answer import MEMORY, Alternative, Answer, Axis, Curves, Question, Topic, curve
from .element import TOO_MUCH

APART_C = 5.0
"""Tips that differ by more at one setting want an offset each, °C (our choice: what solder notices)."""

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
    """A tip and how it does."""

    tip: Tip
    at_work: AtWork


def _tip(g: TipInput) -> Answer:
    power = power_on(g.power_w, g.rated_v, g.supply_v, "wire")
    tool = Tool(g.working_c, g.idle_c, g.ambient_c, power, g.hold_w)
    judged = [Judged(tip, at_work(tool, tip.mass_g, g.joint_g)) for tip in g.tips]
    slow = max(judged, key=lambda j: j.at_work.cold_s)
    deep = max(judged, key=lambda j: j.at_work.depth_c)
    return Answer(
        f"Ready in {quantity(slow.at_work.cold_s, 's', '.0f')} at the most; the joint takes "
        f"{difference(deep.at_work.depth_c, '.0f')} off the {deep.tip.name or 'tip'}.",
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
                reason=f"{quantity(g.supply_v, 'V')} instead of {quantity(g.rated_v, 'V')} is {quantity(power / g.power_w, '', '.3g')} "
                "times the power.",
                source="Ohm's law",
            ),
            Figure(
                "slowest from cold",
                slow.at_work.cold_s,
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
                    j.at_work.dip.time_s[::4],
                    j.at_work.dip.chamber_c[::4],
                    "main" if j is deep else "other",
                )
                for i, j in enumerate(judged)
            ),
        ),
        alternatives=tuple(_row(g, i, j, power) for i, j in enumerate(judged)),
    )


def _row(g: TipInput, i: int, j: Judged, power: float) -> Alternative:
    lightest = min(tip.mass_g for tip in g.tips)
    back = (
        "not back by itself"
        if j.at_work.dip.recovered_s is None
        else f"joint through in {quantity(j.at_work.dip.recovered_s, 's', '.1f')}"
    )
    return Alternative(
        f"tip-{i}",
        j.tip.name or f"tip {i + 1}",
        Severity.ADVICE if j.at_work.depth_c > SAG_C else None,
        says=f"{quantity(j.at_work.cold_s, 's', '.0f')} from cold, {quantity(j.at_work.idle_s, 's', '.0f')} "
        f"from idle; dips {difference(j.at_work.depth_c, '.0f')}, {back}",
        reasons=(
            f"Set {temperature(g.working_c - j.tip.offset_c, '.0f')} for it: its offset is {difference(j.tip.offset_c, '+.0f')}.",
            f"Its own tuning: full power warms it by {difference((power - g.hold_w) / (j.tip.mass_g * COPPER_J_G_K), '.2g')} "
            f"a second, the lightest here by {difference((power - g.hold_w) / (lightest * COPPER_J_G_K), '.2g')}.",
            f"Preset: idle at {temperature(g.idle_c, '.0f')} after {quantity(g.idle_min, 'min')} in the stand.",
        ),
    )


def _findings(g: TipInput, power: float, judged: list[Judged]) -> tuple[Finding, ...]:
    told = []
    if power > TOO_MUCH * g.power_w:
        told.append(
            Finding(
                "tip.power",
                Severity.DANGER,
                title=f"The heater gives {quantity(power / g.power_w, '', '.2f')} times its nameplate",
                reason="It ages fast or burns through; power limiting only hides it while the controller works.",
                fix=f"The {quantity(g.rated_v, 'V')} it is made for.",
            )
        )
    sagging = [j.tip.name or "tip" for j in judged if j.at_work.depth_c > SAG_C]
    if sagging:
        told.append(
            Finding(
                "tip.sag",
                Severity.ADVICE,
                title=f"This joint is too heavy for: {', '.join(sagging)}",
                reason=f"Warming {g.joint_g:g} g of copper by {difference(g.working_c - g.ambient_c, '.0f')} takes up to "
                f"{difference(max(j.at_work.depth_c for j in judged), '.0f')} off the tip: solder pulls strings.",
                fix="A heavier tip, more power, or preheat the joint: not a hotter tip.",
            )
        )
    spread = max(j.tip.offset_c for j in judged) - min(j.tip.offset_c for j in judged)
    if spread > APART_C:
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
