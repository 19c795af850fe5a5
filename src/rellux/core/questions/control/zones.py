"""Do two or three zones hold temperatures of their own, and in which order are they tuned?"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...errors import Problem, refuse_all
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number, rows
from ...messages import percent, quantity, temperature
from ...process.interaction import better_paired, check_apart, holding_outputs, kept_at_c, relative_gains
from ...process.networks import Array
from ...units import Kind
from ..answer import Answer, Bar, Known, Question, Topic

SOURCE = "relative gain array, Bristol 1966"
TOGETHER = 1.5
"""From here on loops that are tuned alone are too slow or too quick together (our choice: half as much again)."""
FULL = 100.0
"""All of an output, %."""
NOTHING = 0.01
"""An output no farther below nothing is none, %."""
ENOUGH = 95.0
"""Holding output above which hardly anything is left to control with, % (our choice)."""


@dataclass(frozen=True)
class ZoneRow:
    """One zone and what a step of its own output alone does to all of them."""

    setpoint_c: float = number("It is to hold", Kind.TEMPERATURE, -90, 1800, 400)
    power_w: float = number("Its heater", Kind.POWER, 1, 200_000, 1000)
    rise_1_c: float = number("Zone 1 rises", Kind.DIFFERENCE, 0, 2000, 40, hint="by this zone’s step alone, settled")
    rise_2_c: float = number("zone 2", Kind.DIFFERENCE, 0, 2000, 10)
    rise_3_c: float | None = number("zone 3", Kind.DIFFERENCE, 0, 2000, None, optional=True)

    @property
    def rises_c(self) -> tuple[float | None, ...]:
        return self.rise_1_c, self.rise_2_c, self.rise_3_c


TWO = (ZoneRow(), ZoneRow(setpoint_c=380.0, rise_1_c=10.0, rise_2_c=40.0))
"""Where somebody starts: two like ones."""


@dataclass(frozen=True)
class ZonesInput:
    """Every zone's output was raised once by itself, all others left alone, until all had settled."""

    ambient_c: float = number("Room", Kind.TEMPERATURE, -40, 60, 21)
    step: float = number(
        "Each output was raised by", Kind.PERCENT, 1, 100, 10, hint="alone, the others left as they were"
    )
    supply_w: float = number("The supply gives", Kind.POWER, 1, 400_000, 3600)
    zones: tuple[ZoneRow, ...] = rows("Zones", ZoneRow, TWO, 2, 3)

    @property
    def gains(self) -> Array:
        """``K[i, j]``: °C of zone i for each % of heater j."""
        n = len(self.zones)
        return np.array([[z.rises_c[i] or 0.0 for z in self.zones] for i in range(n)]) / self.step

    @property
    def rises_c(self) -> Array:
        return np.array([z.setpoint_c - self.ambient_c for z in self.zones])


def _check(g: ZonesInput) -> None:
    n = len(g.zones)
    problems = []
    for i, zone in enumerate(g.zones):
        if n == 3 and zone.rise_3_c is None:
            problems.append(Problem(f"zones[{i}].rise_3_c", "say what the third zone did", "{0 Δ°C} or more"))
        if n == 2 and zone.rise_3_c is not None:
            problems.append(Problem(f"zones[{i}].rise_3_c", "there are two zones", "left empty"))
        if not zone.rises_c[i]:
            problems.append(
                Problem(f"zones[{i}].rise_{i + 1}_c", "its own heater does not move it", "more than {0 Δ°C}")
            )
    refuse_all(problems)
    check_apart(g.gains)


def _zones(g: ZonesInput) -> Answer:
    _check(g)
    outputs, findings = holding_outputs(g.gains, g.rises_c), tuple(_findings(g))
    figures = tuple(_figures(g, outputs))
    order = np.argsort(-(g.gains.sum(axis=0) - np.diag(g.gains)), kind="stable")
    first = ", then ".join(f"zone {i + 1}" for i in order)
    said = {f.rule for f in findings}
    headline = (
        "A sensor seems to sit at another zone’s heater."
        if "zones.exchanged" in said
        else "They cannot all hold what they are to."
        if said & {"zones.too-hot", "zones.short"}
        else "The supply does not carry them."
        if any(f.rule == "zones.supply" and f.severity is Severity.DANGER for f in findings)
        else f"Each holds its own. Tune {first}, each with those before it closed."
    )
    bars = tuple(
        Bar(f"zone {i + 1}", figure, FULL, FULL, verdict=None if -NOTHING <= figure.value <= ENOUGH else Severity.FAULT)
        for i, figure in enumerate(figures[: len(g.zones)])
    )
    return Answer(headline, figures, findings, bars=bars)


def _figures(g: ZonesInput, outputs: Array) -> Iterator[Figure]:
    gains, rises = g.gains, g.rises_c
    told = tuple(
        Input(f"zone {i + 1} above the room", float(r), Kind.DIFFERENCE, f"ΔT{i + 1}", "given")
        for i, r in enumerate(rises)
    )
    for i, u in enumerate(outputs):
        yield Figure(
            f"zone {i + 1} holds with", float(u), Kind.PERCENT, formula="u = K⁻¹ ΔT", inputs=told, symbol=f"u{i + 1}",
            reason="What its heater adds to what comes from the others.", source="steady state of what was measured",
        )  # fmt: skip
    relative = relative_gains(gains)
    for i in range(len(gains)):
        alone = Input("others left alone", float(gains[i, i]), Kind.GAIN, f"K{i + 1}{i + 1}", "measured")
        yield Figure(
            f"zone {i + 1} feels the others", float(relative[i, i]), Kind.RATIO, formula="λ = K (K⁻¹)ᵀ", inputs=(alone,),
            symbol=f"λ{i + 1}",
            reason="Its gain with the others left alone over that with them held. 1: it does not notice them.", source=SOURCE,
        )  # fmt: skip
        yield Figure(
            f"zone {i + 1}, the others held", float(gains[i, i] / relative[i, i]), Kind.GAIN, formula="K / λ",
            inputs=(alone, Input("feels the others", float(relative[i, i]), Kind.RATIO, "λ", "computed")),
            reason="Tune for the larger of both gains: one of the others may be off, or at its limit.", source=SOURCE,
        )  # fmt: skip
    held = float(sum(np.clip(outputs, 0.0, FULL) / FULL * [z.power_w for z in g.zones]))
    yield Figure(
        "all of them at work", held, Kind.POWER,
        inputs=tuple(Input(f"zone {i + 1}", z.power_w, Kind.POWER, f"P{i + 1}", "nameplate") for i, z in enumerate(g.zones)),
        reason="On average: pulses that fall together draw more for a moment.", source="sum of holding output times nameplate",
    )  # fmt: skip


def _findings(g: ZonesInput) -> Iterator[Finding]:
    gains, rises = g.gains, g.rises_c
    outputs, relative = holding_outputs(gains, rises), relative_gains(gains)
    paired = better_paired(gains)
    if paired:
        moved = [f"zone {i + 1} by heater {j + 1}" for i, j in enumerate(paired) if i != j]
        yield Finding(
            "zones.exchanged", Severity.DANGER, title="A zone is moved more by another zone’s heater",
            reason=f"Most is moved {' and '.join(moved)}. A loop whose sensor sits at another heater goes to full power "
            "where it does not look.",
            fix="Warm one sensor by hand and see which display moves; put them right before any loop is closed.", source=SOURCE,
        )  # fmt: skip
    for i, u in enumerate(outputs):
        name, asked = f"Zone {i + 1}", g.zones[i].setpoint_c
        if u < -NOTHING:
            kept = g.ambient_c + kept_at_c(gains, rises, i)
            yield Finding(
                "zones.too-hot", Severity.FAULT, title=f"{name} is kept hotter than it is to be",
                reason=f"With its own heater off the others keep it at {temperature(kept, '.0f')}; it is to hold {temperature(asked)}.",
                fix="Set-points nearer to one another, a baffle between, or more loss there: no tuning does it.",
                subjects=(f"zones[{i}].setpoint_c",), source="steady state of what was measured",
            )  # fmt: skip
        elif u > ENOUGH:
            yield Finding(
                "zones.short", Severity.FAULT, title=f"{name} needs all its heater gives" if u <= FULL else f"{name} never gets there",
                reason=f"Holding takes {percent(float(u) / FULL)} of it, with what comes from the others.",
                fix="More power there, less loss, or a lower set-point.", subjects=(f"zones[{i}].setpoint_c",),
                source="steady state of what was measured",
            )  # fmt: skip
    most = float(np.diag(relative).max())
    if not paired and most > TOGETHER:
        yield Finding(
            "zones.together", Severity.ADVICE, title="The loops feel one another",
            reason=f"Alone a zone answers up to {quantity(most, '', '.2g')} times as much as with the others held.",
            fix="Find each gain with the others left alone, tune for that, and let the zones beside it be the slower ones.", source=SOURCE,
        )  # fmt: skip
    yield from _supply(g, outputs)


def _supply(g: ZonesInput, outputs: Array) -> Iterator[Finding]:
    powers = np.array([z.power_w for z in g.zones])
    if powers.sum() <= g.supply_w:
        return
    held = float((np.clip(outputs, 0.0, FULL) / FULL * powers).sum())
    turns = held <= g.supply_w and float(powers.max()) <= g.supply_w
    yield Finding(
        "zones.supply", Severity.FAULT if turns else Severity.DANGER,
        title="The supply does not carry all of them at once",
        reason=f"Together they draw {quantity(float(powers.sum()), 'W', '.0f')}, it gives {quantity(g.supply_w, 'W', '.0f')}; at work they "
        f"need {quantity(held, 'W', '.0f')} on average.",
        fix="Heat one after the other, the next when the one before holds, and let their pulses take turns: one clock, never all on."
        if turns
        else "Another supply, or smaller heaters: not even their average fits.",
        source="common practice, no source",
    )  # fmt: skip


def of_rig(known: Known) -> dict[str, Any]:
    """The room, and its set-point for every zone."""
    p = known.purpose
    like = [{"setpoint_c": p.working_c}, {"setpoint_c": p.working_c}]
    zones = tuple(
        ZoneRow(**{**{n: getattr(z, n) for n in ("power_w", "rise_1_c", "rise_2_c")}, **at})
        for z, at in zip(TWO, like, strict=True)
    )
    return {"ambient_c": p.ambient_c, "zones": zones}


ZONES = Question(
    "zones",
    "Do zones hold temperatures of their own?",
    Topic.CONTROL,
    ZonesInput,
    _zones,
    of_rig,
    (
        "Raise one output by hand, leave the others as they are, and wait until every zone has settled: their rises are one row.",
        "Measured near the work: colder, less goes by radiation and the zones feel each other less.",
        "Neighbours far apart in temperature heat one another: no tuning stops that, a baffle does.",
        "First is tuned whichever moves the others most: it disturbs them, they hardly disturb it.",
    ),
    "Each zone needs a limiter of its own, or one sensor where the hottest can be: one that runs away elsewhere is not felt.",
)
