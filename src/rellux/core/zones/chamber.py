"""A chamber of two or three zones, each a rig with its own sensor, heater, controller and limiter, and how they are joined.

Neighbours exchange heat in proportion to how far they are apart. How strongly is told by one number of each pair, which a trial gives:
with one of the two heated alone, the other comes to so many hundredths of its rise. Between zones that lose heat alike a share ``s`` is
``s / (1 − s)`` times what each of them loses to the room; of different ones the geometric mean is taken.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..control.settings import FULL_OUTPUT, ControllerSettings
from ..errors import Problem, refuse_all
from ..guarding.cooling import cooling_s
from ..guarding.family import HeatedRig, Identified, family
from ..messages import temperature
from ..plant.rig_models import HOLDS, network_for, with_cooler
from ..process.networks import Array, ThermalNetwork
from ..purpose.neighbours import Neighbours
from ..purpose.purpose import Purpose
from .steady import Steady

FEWEST, MOST = 2, 3
"""Zones of a chamber (our choice: more have a controller of their own for all of them)."""
LEAST_PERCENT, MOST_PERCENT = 1.0, 80.0
"""How far a neighbour comes along: less is no neighbour, more is the same zone (our choice)."""
USUAL_PERCENT = 30.0
"""What is taken until it was tried (common practice, no source)."""
SUPPLY_W = (1.0, 400_000.0)
"""What a supply gives, W (our choice: all zones of the largest)."""
ROUNDS, TOWARDS = 300, 0.15
"""Losses are found in so many rounds, each going this share of the way."""
LEFT = 0.05
"""A zone loses at least this share of its heat to the room (our choice)."""


@dataclass(frozen=True)
class Zone:
    """One of them. ``rig`` has a purpose without neighbours; what was identified of it was found with the others held where they work,
    unless it says otherwise."""

    name: str
    subject: str
    rig: HeatedRig
    settings: ControllerSettings


@dataclass(frozen=True)
class Chamber:
    """``zones`` in the order they lie; ``along_percent`` of each pair of neighbours; ``supply_w``: what all of them may draw at once."""

    zones: tuple[Zone, ...]
    along_percent: tuple[float, ...]
    supply_w: float | None = None

    @property
    def rigs(self) -> list[HeatedRig]:
        return [z.rig for z in self.zones]


def check_chamber(
    zones: Sequence[tuple[str, HeatedRig]], along_percent: Sequence[float], supply_w: float | None
) -> None:
    """Raise ``Refused`` for what is no chamber of zones, by their names; and for zones that the others keep so warm that nothing is left
    to control."""
    refuse_all([*_zone_problems(zones), *_joint_problems(len(zones), along_percent), *_supply_problems(supply_w)])
    rigs = [rig for _, rig in zones]
    warm = (_warm(name, rig.purpose, neighbours_of(rigs, along_percent, i), i) for i, (name, rig) in enumerate(zones))
    refuse_all([problem for found in warm for problem in found])


def _warm(name: str, purpose: Purpose, neighbours: Neighbours, i: int) -> Iterator[Problem]:
    kept = neighbours.keep_at_c(purpose.ambient_c)
    if kept < purpose.ambient_c + HOLDS * (purpose.working_c - purpose.ambient_c):
        return
    reason = f"with its own heater off the others would keep {name} at {temperature(kept, '.0f')}: no control holds"
    yield Problem(
        f"zones[{i}]",
        f"{reason} {temperature(purpose.working_c)}",
        "set-points nearer to one another, or less between them",
    )


def _zone_problems(zones: Sequence[tuple[str, HeatedRig]]) -> list[Problem]:
    found = []
    if not FEWEST <= len(zones) <= MOST:
        found.append(Problem("zones", f"a chamber here has two zones or three, not {len(zones)}", "2 or 3 rigs"))
    if len({name for name, _ in zones}) < len(zones):
        found.append(Problem("zones", "one rig is there twice", "each rig once"))
    room = zones[0][1].purpose.ambient_c if zones else 0.0
    for i, (name, rig) in enumerate(zones):
        if rig.purpose.ambient_c != room:
            there, here = temperature(rig.purpose.ambient_c), temperature(room)
            found.append(
                Problem(f"zones[{i}]", f"{name} stands in a room at {there}, the first at {here}", "one room for all")
            )
        if not rig.purpose.heats or rig.purpose.fire is not None:
            found.append(Problem(f"zones[{i}]", f"{name} is not heated by elements", "rigs that heat, without a fire"))
    return found


def _joint_problems(n: int, along_percent: Sequence[float]) -> list[Problem]:
    if len(along_percent) != max(n - 1, 0):
        return [
            Problem("along_percent", f"{n} zones have {max(n - 1, 0)} places where they meet", "one number for each")
        ]
    return [
        Problem(
            f"along_percent[{i}]",
            "so far no neighbour comes along: below it is none, above it is the same zone",
            f"{LEAST_PERCENT:g}…{MOST_PERCENT:g} %",
        )
        for i, share in enumerate(along_percent)
        if not LEAST_PERCENT <= share <= MOST_PERCENT
    ]


def _supply_problems(supply_w: float | None) -> list[Problem]:
    if supply_w is None or SUPPLY_W[0] <= supply_w <= SUPPLY_W[1]:
        return []
    return [Problem("supply_w", "no supply gives that", f"{SUPPLY_W[0]:g}…{SUPPLY_W[1]:g} W, or left empty")]


def neighbours_of(rigs: Sequence[HeatedRig], along_percent: Sequence[float], i: int) -> Neighbours:
    """What the others do to zone ``i`` while they hold what they are to.

    >>> from ..purpose.purpose import RigKind, Supply
    >>> like = Purpose(800.0, 900.0, "", Supply.SINGLE_PHASE, 230.0, 1000.0, 230.0, ambient_c=20.0)
    >>> neighbours_of([HeatedRig(RigKind.MUFFLE, like, 1000.0)] * 2, [30.0], 0)
    Neighbours(at_c=800.0, share=0.3)
    """
    losses = losses_of(rigs, along_percent)
    beside = beside_each(between(losses, along_percent))[i]
    total = sum(beside.values())
    at_c = sum(g * rigs[j].purpose.working_c for j, g in beside.items()) / total
    return Neighbours(round(at_c, 6), round(total / (total + losses[i]), 6))


def losses_of(rigs: Sequence[HeatedRig], along_percent: Sequence[float]) -> list[float]:
    """What each zone by itself loses to the room, W/K: as one of its kind, as it was found by itself, or where it was found with the others
    held, what is left of that after what goes to them."""
    losses = [_loss(rig) for rig in rigs]
    held = [
        loss if rig.identified and not rig.identified.by_itself else None
        for rig, loss in zip(rigs, losses, strict=True)
    ]
    for _ in range(ROUNDS):
        to_others = [sum(beside.values()) for beside in beside_each(between(losses, along_percent))]
        for i, h in enumerate(held):
            if h is not None:
                losses[i] += TOWARDS * (max(h - to_others[i], LEFT * h) - losses[i])
    return losses


def between(losses: Sequence[float], along_percent: Sequence[float]) -> list[float]:
    """W/K between each pair of neighbours, from what each zone loses to the room, W/K."""
    shares = [p / 100.0 for p in along_percent]
    return [s / (1.0 - s) * float(np.sqrt(a * b)) for s, (a, b) in zip(shares, pairwise(losses), strict=True)]


def beside_each(joints: Sequence[float]) -> list[dict[int, float]]:
    """Of every zone those beside it, and what joins them, W/K.

    >>> beside_each([2.0, 3.0])
    [{1: 2.0}, {0: 2.0, 2: 3.0}, {1: 3.0}]
    """
    n = len(joints) + 1
    return [{j: joints[min(i, j)] for j in (i - 1, i + 1) if 0 <= j < n} for i in range(n)]


def joints_of(chamber: Chamber) -> list[float]:
    """W/K between each pair of neighbours."""
    return between(losses_of(chamber.rigs, chamber.along_percent), chamber.along_percent)


def networks_of(chamber: Chamber) -> list[ThermalNetwork]:
    """Every zone by itself, the others at the room. What was found with the others held has a gain, and a lag, that are less by what goes
    to them."""
    found = []
    for loss, rig in zip(losses_of(chamber.rigs, chamber.along_percent), chamber.rigs, strict=True):
        known = rig.identified
        if known is not None:
            known = known.times(rig.power_w / (FULL_OUTPUT * known.gain.value * loss))
        found.append(with_cooler(family(replace(rig, identified=known)).likely, rig.purpose))
    return found


def gains_of(networks: Sequence[ThermalNetwork], joints: Sequence[float]) -> Array:
    """(n, n) ``K[i, j]``: °C of zone i for each % of heater j for ever, the other heaters off."""
    sizes = [len(n.capacities) for n in networks]
    first = np.cumsum([0, *sizes])
    matrix = np.zeros((first[-1], first[-1]))
    for at, network in zip(first, networks, strict=False):
        matrix[at : at + len(network.capacities), at : at + len(network.capacities)] = network.conductance_matrix()
    sensors = [int(at) + n.sensor_node for at, n in zip(first, networks, strict=False)]
    for g, a, b in zip(joints, sensors, sensors[1:], strict=False):
        matrix[[a, b], [a, b]] += g
        matrix[[a, b], [b, a]] -= g
    heat = np.zeros((first[-1], len(networks)))
    for j, (at, n) in enumerate(zip(first, networks, strict=False)):
        heat[at + n.heater_node, j] = n.heater_power_w / FULL_OUTPUT
    return np.asarray(np.linalg.solve(matrix, heat)[sensors])


def steady_of(chamber: Chamber) -> Steady:
    """The chamber at work."""
    zones = chamber.zones
    return Steady(
        tuple(z.name for z in zones),
        tuple(z.subject for z in zones),
        gains_of(networks_of(chamber), joints_of(chamber)),
        tuple(z.rig.purpose.working_c for z in zones),
        tuple(z.rig.power_w for z in zones),
        zones[0].rig.purpose.ambient_c,
        chamber.supply_w,
        "what was found, or is usual, and what lies between",
        tuple(z.name for z in zones if z.rig.identified is None),
    )


def cools_s(rigs: Sequence[HeatedRig]) -> float | None:
    """Time in s, with nothing heating, until every part of these zones (or of the one rig) can be touched; ``None`` where the room is too
    warm for that. They keep one another warm, but none warmer than the slowest would be by itself out of the hottest."""
    hottest = max(r.purpose.working_c for r in rigs)
    times = [cooling_s(family(r), r.purpose.ambient_c, hottest) for r in rigs]
    known = [t for t in times if t is not None]
    return max(known) if len(known) == len(times) else None


MOST_SHARE = 0.95
"""Of what a zone loses to all, what others can have of it at the most."""


def times_as_hot_now(found_among: float, is_zone: bool, share: float) -> float:
    """How many times as hot a rig gets as when it was found. ``found_among``: the share others then had of what it lost (0: by itself);
    ``share``: what they have of it now. What was found among others holds while it is a zone.

    >>> times_as_hot_now(0.25, False, 0.0), times_as_hot_now(0.0, True, 0.4), times_as_hot_now(0.25, True, 0.4)
    (1.3333333333333333, 0.6, 1.0)
    """
    if not is_zone:
        return 1.0 / (1.0 - found_among)
    return 1.0 if found_among else 1.0 - share


def as_now(known: Identified, share: float, is_zone: bool) -> Identified:
    """What was found of a rig while others had ``share`` of what it lost (0: by itself), as it is now: a zone that was found by itself says
    so; one that was found among others and is by itself now gets as much hotter as they no longer carry away."""
    if not is_zone:
        return known.times(times_as_hot_now(share, is_zone, 0.0))
    return known if share else replace(known, by_itself=True)


def _loss(rig: HeatedRig) -> float:
    """As it was found, or as one of its kind, W/K."""
    if rig.identified:
        return rig.power_w / (FULL_OUTPUT * rig.identified.gain.value)
    network = network_for(rig.kind, rig.purpose, rig.power_w)
    return network.heater_power_w / float(network.equilibrium_rise()[network.sensor_node])
