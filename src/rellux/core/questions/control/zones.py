"""Do two or three zones hold temperatures of their own, and in which order are they tuned?"""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ...control.settings import FULL_OUTPUT
from ...errors import Problem, refuse_all
from ...findings import Severity
from ...form import number, rows
from ...process.interaction import check_apart
from ...process.networks import Array
from ...units import Kind
from ...zones.steady import ENOUGH, NOTHING, Steady, figures_of, findings_of, headline
from ..answer import Answer, Bar, Known, Question, Topic


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
    zones = steady_of(g)
    findings, figures = tuple(findings_of(zones)), tuple(figures_of(zones))
    bars = tuple(
        Bar(
            name,
            figure,
            FULL_OUTPUT,
            FULL_OUTPUT,
            verdict=None if -NOTHING <= figure.value <= ENOUGH else Severity.FAULT,
        )
        for name, figure in zip(zones.names, figures, strict=False)
    )
    return Answer(headline(zones, findings), figures, findings, bars=bars)


def steady_of(g: ZonesInput) -> Steady:
    """The zones of this form."""
    n = len(g.zones)
    return Steady(
        tuple(f"zone {i + 1}" for i in range(n)),
        tuple(f"zones[{i}].setpoint_c" for i in range(n)),
        g.gains,
        tuple(z.setpoint_c for z in g.zones),
        tuple(z.power_w for z in g.zones),
        g.ambient_c,
        g.supply_w,
        "what was measured",
    )


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
