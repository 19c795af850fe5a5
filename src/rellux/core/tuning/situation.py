"""What candidates are made for and tried on."""

from dataclasses import dataclass, replace
from functools import cached_property

from ..control.pid import PID
from ..control.settings import ControllerSettings, Mode
from ..errors import refuse
from ..messages import temperature
from ..process.models import FOPDT, SOPDT
from ..process.networks import ThermalNetwork, from_model
from .cascade import HeatedChamber
from .cooled_too import CooledToo
from .family import family
from .rules.book import Known
from .rules.limit import limit_of
from .trials import Stage, stage, step_of
from .truths import Truths, truths

REACHES = 0.98
"""Share of full-power rise up to which a set-point is one the process reaches (our choice: a hundredth for each of its errors)."""


@dataclass(frozen=True)
class Situation:
    """The process, the settings in force, ambient, the window and the reading's digit. ``model``: the process as it was found, where it has
    a second lag; ``possible``: those it may be instead; ``noise_c`` of a reading; ``now``: what is in the controller, where it is known;
    ``life``: operations its switch is made for, where it wears. ``chamber``: the same with the heater its second sensor sits at, where
    there is one. ``beside``: the share other zones have of what it loses. ``cooler``: left out wherever something is judged that must do
    without it."""

    process: FOPDT
    settings: ControllerSettings
    ambient_c: float
    window_low_c: float
    window_high_c: float
    digit_c: float = 0.1
    model: SOPDT | None = None
    possible: tuple[FOPDT | SOPDT, ...] = ()
    noise_c: float = 0.0
    now: ControllerSettings | None = None
    life: float | None = None
    chamber: HeatedChamber | None = None
    cooler: CooledToo | None = None
    beside: float = 0.0

    @property
    def plant(self) -> FOPDT | SOPDT:
        return self.model or self.process

    @property
    def rise_c(self) -> float:
        return self.settings.setpoint_c - self.ambient_c

    @cached_property
    def members(self) -> tuple[FOPDT | SOPDT, ...]:
        """Where nothing else is told, processes near the one."""
        p = self.process
        rate = p.gain / p.lag_s
        return self.possible or family((p.gain,) * 3, (rate,) * 3, (p.dead_time_s,) * 3)

    @cached_property
    def truths(self) -> Truths:
        """The rigs that could be behind the record."""
        return truths(self.members, self.rise_c, self.ambient_c, REACHES, at_heater=self.chamber)

    @cached_property
    def network(self) -> ThermalNetwork:
        """The rig as it was found."""
        return self.chamber.seen() if self.chamber else self._with_cooler(from_model(self.plant))

    @cached_property
    def judges(self) -> tuple[ThermalNetwork, ...]:
        """Those it is judged on."""
        return tuple(map(self._with_cooler, self.truths.networks))

    def _with_cooler(self, network: ThermalNetwork) -> ThermalNetwork:
        return self.cooler.on(network) if self.cooler else network

    @cached_property
    def stage(self) -> Stage:
        s = self.settings
        own = stage(self.process, effective_dead_time(self), s.setpoint_c, self.ambient_c, s.ramp_c_per_s)
        return replace(own, cooling=self.cooler.band if self.cooler else None, beside=self.beside)

    @cached_property
    def known(self) -> Known:
        """What rules start from: dead times with what sampling and actuator add."""
        one = replace(self.process, dead_time_s=effective_dead_time(self))
        two = None
        if self.model:
            two = replace(self.model, dead_time_s=effective_dead_time(self, self.model))
        return Known(one, two, limit_of(two or one, one.lag_s + one.dead_time_s), self.settings.sample_s)

    def step_s(self, settings: ControllerSettings) -> float:
        step = step_of(self.process, settings)
        return min(step, settings.sample_s) if settings.in_cascade else step

    def duty(self, process: FOPDT | SOPDT | None = None) -> float:
        """The share of full power that holds the set-point, 0 to 1."""
        return min(max(self.rise_c / (100.0 * (process or self.process).gain), 0.0), 1.0)

    def with_pid(self, pid: PID) -> ControllerSettings:
        """The settings in force with other PID numbers; how much of a set-point it sees is the controller's own."""
        weighted = replace(pid, setpoint_weight=self.settings.pid.setpoint_weight)
        return replace(self.settings, mode=Mode.PID, pid=weighted)


def effective_dead_time(situation: Situation, process: FOPDT | SOPDT | None = None) -> float:
    """Dead time for tuning in s: L + T_s/2 + d·T_c, of its process or another. A duty latched at the cycle start acts late by its
    on-share."""
    s, p = situation.settings, process or situation.process
    return p.dead_time_s + s.sample_s / 2.0 + situation.duty(p) * s.period_s


def check_reaches(situation: Situation) -> None:
    """Raises ``Refused`` for a set-point that full power does not reach with this process, or that needs no heat."""
    p = situation.process
    if situation.rise_c >= p.full_power_rise_c * REACHES:
        raise refuse(
            "setpoint_c",
            f"full power only reaches {temperature(situation.ambient_c + p.full_power_rise_c, '.0f')} with this process",
            "a lower working temperature, or more power",
        )
    if situation.rise_c <= 0.0:
        raise refuse("setpoint_c", "it is no warmer than the room", "a working temperature above the room's")
