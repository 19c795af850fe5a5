"""All zones of a chamber from cold, each under its own controller: together, or one after the other where the supply does not carry all.

Every zone is simulated by itself over a short time in which the others are taken to stay as warm as they are, then they tell one another.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..control.settings import ControllerSettings, Mode, climb_s
from ..plant.simulation import Record, Simulation, looking, resolving_s
from ..process.modes import time_63
from ..process.networks import Array, ThermalNetwork
from .chamber import Chamber, beside_each, gains_of, joints_of, networks_of
from .steady import tuning_order

LAGS = 6.0
"""A heat-up is looked at for so many times to 63 % of the slowest, in each turn."""
LONGEST_S = 48 * 3600.0
TELLS, MOST_TELLS = 400.0, 8000
"""They tell one another so often in the time to 63 % of the quickest, and in all at the most."""
STEPS_A_LAG, LEAST_STEP_S, MOST_STEP_S = 8.0, 0.05, 1.0
AFTER = 2.5
"""Once all hold, it is looked at for so many times as long as that took."""
ROWS = 600
"""Rows of a course at the most."""
THERE, LEAST_THERE_C = 0.02, 1.0
"""A zone holds from when it is so near its set-point for the first time: this share of its rise, °C at least (our choice)."""


@dataclass(frozen=True)
class ZoneCourse:
    """One zone; columns of equal length. ``begins_s``: when its controller was switched on, ``holds_s``: when it first held (``None``:
    never); ``over_c``: how far it passed its set-point."""

    reading_c: Array
    begins_s: float | None
    holds_s: float | None
    over_c: float


@dataclass(frozen=True)
class HeatUp:
    """``time_s`` of every column; ``most_w``: what all of them draw at once at the most, their pulses as they fall."""

    time_s: Array
    zones: tuple[ZoneCourse, ...]
    most_w: float

    @property
    def holds_s(self) -> float | None:
        """When all of them hold; ``None``: never."""
        times = [z.holds_s for z in self.zones]
        return None if None in times else max(t for t in times if t is not None)


class _Zone:
    """One of them while it is simulated."""

    def __init__(self, network: ThermalNetwork, settings: ControllerSettings, room_c: float, step_s: float) -> None:
        self.settings, self.power_w = settings, network.heater_power_w
        self.near_c = settings.setpoint_c - max(THERE * (settings.setpoint_c - room_c), LEAST_THERE_C)
        self.plant = Simulation(network, replace(settings, mode=Mode.OFF), room_c, step_s)
        self.begins_s: float | None = None
        self.holds_s: float | None = None
        self.peak_c = room_c

    def begin(self, now_s: float) -> None:
        self.begins_s = now_s
        self.plant.apply(self.settings)

    def advance(self, now_s: float, for_s: float) -> Record:
        record = self.plant.advance(for_s)
        self.peak_c = max(self.peak_c, float(record.reading_c.max()))
        if self.holds_s is None and self.plant.reading_c >= self.near_c:
            self.holds_s = now_s + for_s
        return record


def heat_up(chamber: Chamber, turns: bool = False) -> HeatUp:
    """From the room, all at once, or (``turns``) in the order they are tuned, the next when the one before holds."""
    networks, joints = networks_of(chamber), joints_of(chamber)
    rooms = [z.rig.purpose.ambient_c for z in chamber.zones]
    settings = [_controls(z.settings, z.rig.purpose.working_c) for z in chamber.zones]
    step = min(_step(n, s) for n, s in zip(networks, settings, strict=True))
    looked = [looking(s, n, step) for n, s in zip(networks, settings, strict=True)]
    zones = [_Zone(*one, step) for one in zip(networks, looked, rooms, strict=True)]
    waiting = [zones[i] for i in tuning_order(gains_of(networks, joints))] if turns else []
    for zone in waiting[:1] or zones:
        zone.begin(0.0)
    own = [time_63(n) for n in networks]
    climbs = max(climb_s(s.setpoint_c - room, s.ramp_c_per_s) for s, room in zip(settings, rooms, strict=True))
    length = min(LAGS * max(own) * max(len(waiting), 1) + climbs, LONGEST_S)
    piece = max(round(max(min(own) / TELLS, length / MOST_TELLS) / step), 1) * step
    pieces = int(length / piece)
    every, rows, most = max(pieces // ROWS, 1), [], 0.0
    for k in range(pieces):
        now = k * piece
        for before, zone in pairwise(waiting):
            if zone.begins_s is None and before.holds_s is not None:
                zone.begin(now)
        _tell([z.plant for z in zones], joints)
        records = [z.advance(now, piece) for z in zones]
        most = max(
            most, float(np.sum([r.switch * z.power_w for r, z in zip(records, zones, strict=True)], axis=0).max())
        )
        if all(z.holds_s is not None and now > AFTER * z.holds_s for z in zones):
            break
        if k % every == 0:
            rows.append([now, *(float(r.reading_c[0]) for r in records)])
    columns = np.array(rows).T
    courses = (
        ZoneCourse(
            columns[1 + i],
            z.begins_s,
            z.holds_s,
            max(z.peak_c - z.settings.setpoint_c, 0.0),
        )
        for i, z in enumerate(zones)
    )
    return HeatUp(columns[0], tuple(courses), most)


def _tell(plants: Sequence[Simulation], joints: Sequence[float]) -> None:
    """Every zone how warm those beside it are."""
    chambers = [p.true_c for p in plants]
    for plant, beside in zip(plants, beside_each(joints), strict=True):
        plant.lie_beside(*((g, chambers[j]) for j, g in beside.items()))


def _controls(settings: ControllerSettings, working_c: float) -> ControllerSettings:
    """At its working temperature; what its sheet has off, or by hand, is tried on and off."""
    mode = settings.mode if settings.mode in (Mode.PID, Mode.ON_OFF) else Mode.ON_OFF
    return replace(settings, mode=mode, setpoint_c=working_c, offset_c=0.0)


def _step(network: ThermalNetwork, settings: ControllerSettings) -> float:
    return min(max(resolving_s(network, settings, STEPS_A_LAG, settings.sample_s), LEAST_STEP_S), MOST_STEP_S)
