"""What kind of loop settings make: how near to swinging, how it answers a load, what noise does to the output."""

from dataclasses import dataclass, replace
from math import inf, isfinite

from ..control.pid import PID
from ..control.settings import FULL_OUTPUT, ControllerSettings
from ..errors import refuse
from ..explain import Figure, Input
from ..plant.rig_models import MOST_HEAT
from ..process.models import FOPDT, SOPDT
from ..units import Kind
from .cascade import HeatedChamber, asked_for_load, margins_of
from .robustness import CALM_MS, NERVOUS_MS, Margins, margins
from .rules.capping import noise_gain
from .situation import Situation, effective_dead_time
from .truths import one_lag


@dataclass(frozen=True)
class Loop:
    """Margins with the process as it was found, and the least and the most Ms of those it may be (infinite: one swings by itself).
    ``asked_for_load``: how much more it gives, %, for each per cent of the heater's power that a load takes."""

    settings: ControllerSettings
    margins: Margins
    least_ms: float
    worst_ms: float
    noise_gain: float
    asked_for_load: float = 1.0

    @property
    def pid(self) -> PID:
        return self.settings.pid


def loop_of(situation: Situation, settings: ControllerSettings) -> Loop:
    """The loop these settings make round the process and round each it may be; of two, the one round the rig's own sensor. Raises
    ``Refused`` for two loops on a rig whose heater has no sensor."""
    found = _margins(situation, settings, situation.plant)
    others = [_margins(situation, settings, m).ms for m in situation.members]
    unruly = noise_gain(settings.pid, situation.settings.sample_s)
    if settings.inner is not None:
        unruly *= settings.inner.span_c / FULL_OUTPUT * settings.inner.gain
    asked = asked_for_load(chamber_as(situation, situation.process), settings) if settings.inner else 1.0
    return Loop(settings, found, min(found.ms, *others), max(found.ms, *others), unruly, asked)


def _margins(situation: Situation, settings: ControllerSettings, process: FOPDT | SOPDT) -> Margins:
    if settings.inner is not None:
        return margins_of(chamber_as(situation, process), settings)
    late = replace(process, dead_time_s=effective_dead_time(situation, process))
    return margins(settings.pid, late, process.lag_s)


def chamber_as(situation: Situation, process: FOPDT | SOPDT) -> HeatedChamber:
    """The rig behind its heater's sensor, had it turned out to be this process. Raises ``Refused`` where that has none."""
    if situation.chamber is None:
        raise refuse("loops", "the rig has no second sensor at its heater", "one loop")
    rig, found = situation.chamber, one_lag(process)
    return replace(rig, process=found, heater_lag_s=min(rig.heater_lag_s, MOST_HEAT * found.lag_s / rig.link))


def ms_figure(situation: Situation, loop: Loop) -> Figure | None:
    """Ms with its interval; ``None`` for a loop that swings by itself."""
    if not isfinite(loop.margins.ms):
        return None
    sure, p = isfinite(loop.worst_ms), situation.process
    return Figure(
        "Ms",
        loop.margins.ms,
        Kind.RATIO,
        low=loop.least_ms if sure else None,
        high=loop.worst_ms if sure else None,
        formula="max |1 / (1 + P C)| over frequency",
        inputs=(
            Input("process gain", p.gain, Kind.GAIN, "K", "identified"),
            Input("lag", p.lag_s, Kind.TIME, "τ", "identified"),
            Input(
                "dead time with actuator", effective_dead_time(situation), Kind.TIME, "L", "L + T_s/2 + duty × period"
            ),
            Input("controller gain", loop.pid.gain, Kind.PERCENT_PER_DEGREE, "K_c", "candidate"),
            Input("integral time", loop.pid.integral_time_s, Kind.TIME, "T_i", "candidate"),
        ),
        reason=f"How near the loop comes to swinging by itself: below {CALM_MS:g} is calm, above {NERVOUS_MS:g} is nervous."
        + ("" if sure else " With some of the processes it may be, it swings by itself."),
        source="Åström & Hägglund, PID Controllers, 2nd ed., ch. 4; dead time exact",
        symbol="Ms",
    )


def margin_figures(situation: Situation, loop: Loop) -> tuple[Figure, ...]:
    """Gain, phase and delay margin, what a load leaves, and what noise does; those of a loop that swings by itself are none."""
    m, pid = loop.margins, loop.pid
    if not isfinite(m.ms):
        return ()
    gain = Input("controller gain", pid.gain, Kind.PERCENT_PER_DEGREE, "K_c", "candidate")
    integral = Input("integral time", pid.integral_time_s, Kind.TIME, "T_i", "candidate")
    found = [
        Figure("gain margin", m.gain_margin, Kind.RATIO, formula="1 / |P C| at −180°", symbol="A_m",
               reason="By how much the process may gain before the loop swings."),
        Figure("phase margin", m.phase_margin, Kind.ANGLE, formula="180° + arg P C at |P C| = 1", symbol="φ_m",
               reason="How far the loop is from turning against itself."),
        Figure("delay margin", m.delay_margin_s, Kind.TIME, formula="φ_m / ω at |P C| = 1", symbol="L_m",
               reason="How much more dead time it bears: a longer control period, a slower filter, a probe moved."),
        Figure("left after a load", _area(pid) * loop.asked_for_load, Kind.DEGREE_TIME,
               formula="∫e dt = T_i / K_c" + (" × what is asked for it" if loop.settings.inner else ""),
               inputs=(integral, gain, *_asked(loop)), symbol="IE",
               reason="Degrees times seconds for each per cent of load: half of it is back twice as soon.",
               source="Åström & Hägglund, PID Controllers, 2nd ed., ch. 4"),
        Figure("noise on the output", loop.noise_gain * situation.noise_c, Kind.PERCENT, formula="σ √Σ h²",
               inputs=(Input("noise of a reading", situation.noise_c, Kind.DIFFERENCE, "σ", "identified"), gain), symbol="σ_u",
               reason="By how much the output wanders (standard deviation) with the noise of the reading alone."),
    ]  # fmt: skip
    return tuple(f for f in found if isfinite(f.value))


def _asked(loop: Loop) -> tuple[Input, ...]:
    """Of two loops: a load is made good by a hotter heater."""
    return (
        (Input("asked for each % of it", loop.asked_for_load, Kind.PERCENT, "", "heater"),)
        if loop.settings.inner
        else ()
    )


def _area(pid: PID) -> float:
    return inf if pid.integral_time_s == inf else pid.integral_time_s / pid.gain
