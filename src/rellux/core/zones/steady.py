"""Zones at work: what each gives, how strongly its loop feels the others, whether the supply carries them, and in which order they are
tuned."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
from scipy.optimize import linprog

from ..control.settings import FULL_OUTPUT
from ..explain import Figure, Input
from ..findings import Finding, Severity
from ..messages import percent, quantity, temperature
from ..process.interaction import better_paired, holding_outputs, kept_at_c, relative_gains
from ..process.networks import Array
from ..units import Kind

SOURCE = "relative gain array, Bristol 1966"
TOGETHER = 1.5
"""From here on loops that are tuned alone are too slow or too quick together (our choice: half as much again)."""
NOTHING = 0.01
"""An output no farther below nothing is none, %."""
ENOUGH = 95.0
"""Holding output above which hardly anything is left to control with, % (our choice)."""


@dataclass(frozen=True)
class Steady:
    """``names`` and ``subjects`` of n zones; ``gains`` (n, n): ``K[i, j]`` °C of zone i for each % of heater j, as ``found``; what each is
    to hold in °C, its heater in W, and what the supply of all of them gives, W, where that is known. ``assumed``: those of whom nothing
    was found."""

    names: tuple[str, ...]
    subjects: tuple[str, ...]
    gains: Array
    setpoints_c: tuple[float, ...]
    powers_w: tuple[float, ...]
    ambient_c: float
    supply_w: float | None
    found: str
    assumed: tuple[str, ...] = ()

    @property
    def rises_c(self) -> Array:
        return np.array(self.setpoints_c) - self.ambient_c

    @property
    def outputs(self) -> Array:
        """(n,) What holds them, %."""
        return holding_outputs(self.gains, self.rises_c)

    @property
    def held_w(self) -> float:
        """All of them at work, on average, W."""
        return float(np.clip(self.outputs, 0.0, FULL_OUTPUT) / FULL_OUTPUT @ np.array(self.powers_w))

    @property
    def in_turns(self) -> bool:
        """Whether the supply carries what holds them where no more are on together than it can."""
        duties = np.clip(self.outputs, 0.0, FULL_OUTPUT) / ENOUGH
        return self.supply_w is None or takes_turns(duties, np.array(self.powers_w), self.supply_w)


def tuning_order(gains: Array) -> tuple[int, ...]:
    """From gains in °C/%, shape (n, n): first whichever moves the others most: it disturbs them, they hardly disturb it.

    >>> tuning_order(np.array([[4.0, 1.0], [2.0, 3.0]]))
    (0, 1)
    """
    return tuple(int(i) for i in np.argsort(-(gains.sum(axis=0) - np.diag(gains)), kind="stable"))


def headline(zones: Steady, findings: Sequence[Finding]) -> str:
    """The answer in a sentence."""
    said = {f.rule for f in findings}
    if "zones.exchanged" in said:
        return "A sensor seems to sit at another zone’s heater."
    if said & {"zones.too-hot", "zones.short"}:
        return "They cannot all hold what they are to."
    if any(f.rule == "zones.supply" and f.severity is Severity.DANGER for f in findings):
        return "The supply does not carry them."
    first = ", then ".join(zones.names[i] for i in tuning_order(zones.gains))
    holds = (
        f"As rigs of their kind ({', '.join(zones.assumed)}) each would hold its own"
        if zones.assumed
        else "Each holds its own"
    )
    return f"{holds}. Tune {first}, each with those before it closed."


def holding_figures(zones: Steady) -> Iterator[Figure]:
    """What holds each."""
    told = tuple(
        Input(f"{name} above the room", float(r), Kind.DIFFERENCE, f"ΔT{i + 1}", "given")
        for i, (name, r) in enumerate(zip(zones.names, zones.rises_c, strict=True))
    )
    for i, u in enumerate(zones.outputs):
        yield Figure(
            f"{zones.names[i]} holds with",
            float(u),
            Kind.PERCENT,
            formula="u = K⁻¹ ΔT",
            inputs=told,
            symbol=f"u{i + 1}",
            reason="What its heater adds to what comes from the others.",
            source=f"steady state of {zones.found}",
        )


def figures_of(zones: Steady) -> Iterator[Figure]:
    """What holds each, how its loop feels the others, and what they draw at work."""
    yield from holding_figures(zones)
    relative = relative_gains(zones.gains)
    for i, name in enumerate(zones.names):
        own = float(zones.gains[i, i])
        alone = Input("others left alone", own, Kind.GAIN, f"K{i + 1}{i + 1}", zones.found)
        yield Figure(
            f"{name} feels the others",
            float(relative[i, i]),
            Kind.RATIO,
            formula="λ = K (K⁻¹)ᵀ",
            inputs=(alone,),
            symbol=f"λ{i + 1}",
            reason="Its gain with the others left alone over that with them held. 1: it does not notice them.",
            source=SOURCE,
        )
        yield Figure(
            f"{name}, the others held",
            own / float(relative[i, i]),
            Kind.GAIN,
            formula="K / λ",
            inputs=(alone, Input("feels the others", float(relative[i, i]), Kind.RATIO, "λ", "computed")),
            reason="Tune for the larger of both gains: one of the others may be off, or at its limit.",
            source=SOURCE,
        )
    yield Figure(
        "all of them at work",
        zones.held_w,
        Kind.POWER,
        inputs=tuple(
            Input(name, w, Kind.POWER, f"P{i + 1}", "nameplate")
            for i, (name, w) in enumerate(zip(zones.names, zones.powers_w, strict=True))
        ),
        reason="On average: pulses that fall together draw more for a moment.",
        source="sum of holding output times nameplate",
    )


def findings_of(zones: Steady) -> Iterator[Finding]:
    """What keeps them from holding what they are to."""
    paired = better_paired(zones.gains)
    if paired:
        moved = [f"{zones.names[i]} by heater {j + 1}" for i, j in enumerate(paired) if i != j]
        yield Finding(
            "zones.exchanged",
            Severity.DANGER,
            title="A zone is moved more by another zone’s heater",
            reason=f"Most is moved {' and '.join(moved)}. A loop whose sensor sits at another heater goes to full power "
            "where it does not look.",
            fix="Warm one sensor by hand and see which display moves; put them right before any loop is closed.",
            source=SOURCE,
        )
    for i in range(len(zones.names)):
        yield from _holds(zones, i)
    most = float(np.diag(relative_gains(zones.gains)).max())
    if not paired and most > TOGETHER:
        yield Finding(
            "zones.together",
            Severity.ADVICE,
            title="The loops feel one another",
            reason=f"Alone a zone answers up to {quantity(most, '', '.2g')} times as much as with the others held.",
            fix="Find each gain with the others left alone, tune for that, and let the zones beside it be the slower ones.",
            source=SOURCE,
        )
    yield from _supply(zones)


def found_elsewhere(share: float) -> Iterator[Finding]:
    """Of a rig by itself whose process was found with other zones beside it, which had ``share`` of what it lost."""
    if share <= 0.0:
        return
    yield Finding(
        "zones.found-among",
        Severity.FAULT,
        title="Its process was found among other zones",
        reason=f"By itself it gets {quantity(1.0 / (1.0 - share), '', '.2g')} times as hot for the same output: its guards reckon with "
        "that, settings found then are too strong.",
        fix="Record a heat-up of it by itself, find the process again, then choose the control.",
        subjects=("process",),
        source="steady state: what went to its neighbours no longer does",
    )


def not_reckoned(chamber: str, reason: str) -> Finding:
    """Of a zone whose chamber is none as it is now, for a ``reason`` in words."""
    return Finding(
        "zones.not-reckoned",
        Severity.FAULT,
        title=f"The other zones of {chamber} are not reckoned with",
        reason=f"Because {reason}. It is guarded and tuned as if it stood by itself.",
        fix="Put that right, or part the zones under Zones of a chamber.",
        subjects=("zones",),
    )


def _holds(zones: Steady, i: int) -> Iterator[Finding]:
    name, asked, u = zones.names[i], zones.setpoints_c[i], float(zones.outputs[i])
    name, source = name[:1].upper() + name[1:], f"steady state of {zones.found}"
    if u < -NOTHING:
        kept = zones.ambient_c + kept_at_c(zones.gains, zones.rises_c, i)
        yield Finding(
            "zones.too-hot",
            Severity.FAULT,
            title=f"{name} is kept hotter than it is to be",
            reason=f"With its own heater off the others keep it at {temperature(kept, '.0f')}; it is to hold {temperature(asked)}.",
            fix="Set-points nearer to one another, a baffle between, or more loss there: no tuning does it.",
            subjects=(zones.subjects[i],),
            source=source,
        )
    elif u > ENOUGH:
        yield Finding(
            "zones.short",
            Severity.FAULT,
            title=f"{name} needs all its heater gives" if u <= FULL_OUTPUT else f"{name} never gets there",
            reason=f"Holding takes {percent(u / FULL_OUTPUT)} of it, with what comes from the others.",
            fix="More power there, less loss, or a lower set-point.",
            subjects=(zones.subjects[i],),
            source=source,
        )


def takes_turns(duties: Array, powers_w: Array, supply_w: float) -> bool:
    """Whether outputs on for these shares of the time (n) can be laid so that what is on together never draws more than the supply gives:
    shares of time for every set that it carries, which come to all duties (a linear programme, exact)."""
    n = len(duties)
    sets = [s for s in product((0.0, 1.0), repeat=n) if np.dot(s, powers_w) <= supply_w]
    if not sets:
        return False
    on = -np.array(sets).T
    found = linprog(np.zeros(len(sets)), A_ub=on, b_ub=-duties, A_eq=np.ones((1, len(sets))), b_eq=[1.0])
    return bool(found.success)


def _supply(zones: Steady) -> Iterator[Finding]:
    powers = np.array(zones.powers_w)
    if zones.supply_w is None or powers.sum() <= zones.supply_w:
        return
    turns = zones.in_turns
    yield Finding(
        "zones.supply",
        Severity.FAULT if turns else Severity.DANGER,
        title="The supply does not carry all of them at once",
        reason=f"Together they draw {quantity(float(powers.sum()), 'W', '.0f')}, it gives {quantity(zones.supply_w, 'W', '.0f')}; at work "
        f"they need {quantity(zones.held_w, 'W', '.0f')} on average.",
        fix="Lock the outputs so that no more are on together than it carries, by one clock; then the next is heated when the one before "
        "holds."
        if turns
        else "Another supply, or smaller heaters: even taking turns they do not all hold.",
        source="common practice, no source",
    )


def drawn(zones: Steady, most_w: float) -> str:
    """What a heat-up draws at once, as a sentence."""
    draws = f"At once they draw up to {quantity(most_w, 'W', '.0f')}"
    if zones.supply_w is None or most_w <= zones.supply_w:
        return f"{draws}."
    locked = "With one it takes longer" if zones.in_turns else "With one they do not all hold"
    there = quantity(zones.supply_w, "W", ".0f")
    return f"{draws}, more than the {there} there are: this is without a lock between their outputs. {locked}."
