"""What kind of loop settings make: how near to swinging, how it answers a load, what noise does to the output."""

from dataclasses import dataclass, replace
from math import inf, isfinite

from ..control.pid import PID
from ..explain import Figure, Input
from ..process.models import FOPDT, SOPDT
from ..units import Kind
from .robustness import CALM_MS, NERVOUS_MS, Margins, margins
from .rules.capping import noise_gain
from .situation import Situation, effective_dead_time


@dataclass(frozen=True)
class Loop:
    """Margins with the process as it was found, and the least and the most Ms of those it may be (infinite: one swings by itself)."""

    pid: PID
    margins: Margins
    least_ms: float
    worst_ms: float
    noise_gain: float


def loop_of(situation: Situation, pid: PID) -> Loop:
    """The loop these numbers make round the process and round each it may be."""
    found = _margins(situation, pid, situation.plant)
    others = [_margins(situation, pid, m).ms for m in situation.members]
    return Loop(
        pid, found, min(found.ms, *others), max(found.ms, *others), noise_gain(pid, situation.settings.sample_s)
    )


def _margins(situation: Situation, pid: PID, process: FOPDT | SOPDT) -> Margins:
    late = replace(process, dead_time_s=effective_dead_time(situation, process))
    return margins(pid, late, process.lag_s)


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
        Figure("left after a load", _area(pid), Kind.DEGREE_TIME, formula="∫e dt = T_i / K_c", inputs=(integral, gain), symbol="IE",
               reason="Degrees times seconds for each per cent of load: half of it is back twice as soon.",
               source="Åström & Hägglund, PID Controllers, 2nd ed., ch. 4"),
        Figure("noise on the output", loop.noise_gain * situation.noise_c, Kind.PERCENT, formula="σ √Σ h²",
               inputs=(Input("noise of a reading", situation.noise_c, Kind.DIFFERENCE, "σ", "identified"), gain), symbol="σ_u",
               reason="By how much the output wanders (standard deviation) with the noise of the reading alone."),
    ]  # fmt: skip
    return tuple(f for f in found if isfinite(f.value))


def _area(pid: PID) -> float:
    return inf if pid.integral_time_s == inf else pid.integral_time_s / pid.gain
