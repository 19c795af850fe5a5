"""All candidates side by side."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..control.settings import ControllerSettings, CoolingBand, InnerLoop, Mode
from ..explain import Figure, Input
from ..heating.switches import relay_life
from ..units import Kind
from .candidates import (
    HEAT_COOL,
    TWO_LOOPS,
    Candidate,
    ProposedTuning,
    TriedOut,
    first_trials,
    heat_cool,
    proposals,
    try_out,
    two_loops,
)
from .cascade import inner_inputs, outer_inputs
from .choosing import Choice, Priority, choose
from .heat_cool import LEAST_C, MOST_C, OF_THE_ROOM, OVER_SWING, clear_above_c, heats_over_c
from .loop_figures import margin_figures, ms_figure
from .rules.capping import LARGEST_STEP
from .situation import Situation, effective_dead_time
from .trials import Trial
from .truths import judged_on

HOUR_S = 3600.0
TOLD_SHORT = 0.02
"""From such a share of rigs without the power on it is told (our choice)."""


@dataclass(frozen=True)
class Comparison:
    """All candidates, and which one each priority prefers, with the reason."""

    situation: Situation
    candidates: tuple[Candidate, ...]
    preferred: dict[Priority, Choice]

    @property
    def short(self) -> str:
        """What no tuning makes up for, and what was not tried, in sentences; empty where there is neither."""
        return " ".join(s for s in (self._power, self._two, self._cooled) if s)

    @property
    def _two(self) -> str:
        if self.situation.chamber is None or self.candidate(TWO_LOOPS):
            return ""
        return "Two loops are not tried: looked at so seldom they would be later than this rig, or no controller takes bands so wide."

    @property
    def _cooled(self) -> str:
        if self.situation.cooler is None or self.candidate(HEAT_COOL):
            return ""
        return "Heat and cool is not tried: below what is highest no distance is clear of what its heater and its cooler carry on."

    @property
    def _power(self) -> str:
        share = self.situation.truths.short
        if share < TOLD_SHORT:
            return ""
        return (
            f"There is little power to spare: {share:.0%} of the rigs that fit the record, with mains between −10 and +10 %, do not "
            "reach it at all. What is said of the others holds for them alone."
        )

    def candidate(self, key: str) -> Candidate | None:
        return next((c for c in self.candidates if c.key == key), None)


def compare(situation: Situation) -> Comparison:
    """Put every proposal through a heat-up, a door opened for a minute and what else concerns this rig, as it was found and as it may be.

    Raises ``Refused`` where full power cannot reach the set-point."""
    trials = first_trials(situation)
    tried = tuple(try_out(situation, p, trials) for p in proposals(situation))
    preferred = choose(situation, tried)
    calmest = next(c for c in tried if c.key == preferred[Priority.NO_OVERSHOOT].key)
    both = heat_cool(situation, calmest)
    if both is not None:
        tried = (*tried, try_out(situation, both, trials))
        preferred = choose(situation, tried)
    return Comparison(situation, tried, preferred)


def setting_figures(situation: Situation, proposal: ProposedTuning) -> tuple[Figure, ...]:
    """The settings of a proposal, each with how it was found."""
    settings, p = proposal.settings, situation.process
    inputs: tuple[Input, ...] = (
        Input("process gain", p.gain, Kind.GAIN, "K", "identified"),
        Input("lag", p.lag_s, Kind.TIME, "τ", "identified"),
        Input("dead time with actuator", effective_dead_time(situation), Kind.TIME, "L", "L + T_s/2 + duty × period"),
    )
    if proposal.closed_loop_s is not None:
        slowed = Input(
            "closed-loop time", proposal.closed_loop_s, Kind.TIME, "τ_c", "slowed until Ms is calm at the worst"
        )
        inputs = (*inputs, slowed)
    limit, two = situation.known.limit, situation.known.two
    if limit and "K_u" in proposal.formulas[0]:
        inputs = (
            Input("gain at the limit", limit.gain, Kind.PERCENT_PER_DEGREE, "K_u", "computed"),
            Input("period at the limit", limit.period_s, Kind.TIME, "P_u", "computed"),
        )
    elif two and "τ₁" in proposal.formulas[0]:
        inputs = (
            Input("process gain", two.gain, Kind.GAIN, "K", "identified"),
            Input("lag", two.lag_s, Kind.TIME, "τ₁", "identified"),
            Input("second lag", two.second_lag_s, Kind.TIME, "τ₂", "identified"),
            Input("dead time with actuator", two.dead_time_s, Kind.TIME, "L", "L + T_s/2 + duty × period"),
        )
    if settings.mode is not Mode.PID:
        hysteresis = Input("hysteresis", settings.hysteresis_c, Kind.DIFFERENCE, "H", "set-up")
        found = Figure(
            "hysteresis", settings.hysteresis_c, Kind.DIFFERENCE, inputs=(hysteresis,), source=proposal.source
        )
        return (found,)
    pid = settings.pid
    if not any(proposal.formulas):  # nothing was worked out: it stands so in the controller, or was chosen
        where = proposal.source or "chosen by hand"
        inputs = (
            Input("proportional band", pid.proportional_band_c, Kind.DIFFERENCE, "PB", where),
            Input("integral time", pid.integral_time_s, Kind.TIME, "T_i", where),
            Input("derivative time", pid.derivative_time_s, Kind.TIME, "T_d", where),
        )
    cools = tuple(_cooler_figures(situation, settings, settings.cooling)) if settings.cooling else ()
    if settings.inner is not None:
        return _two_settings(situation, proposal, settings.inner, inputs)
    band, integral, derivative = proposal.formulas
    if proposal.capped:
        band = "PB = 100 × digit / 5 %, or by the noise where that asks for more"
        integral += ", at least 4 τ/(K K_c)"
        inputs = (
            *inputs,
            Input("one digit of the reading", situation.digit_c, Kind.DIFFERENCE, "digit", "controller"),
            Input("noise of a reading", situation.noise_c, Kind.DIFFERENCE, "σ", "identified"),
        )
    return (
        Figure(
            "proportional band",
            pid.proportional_band_c,
            Kind.DIFFERENCE,
            formula=band,
            inputs=inputs,
            reason=f"As wide as one digit of the reading and its noise need, which may move the output by {{{LARGEST_STEP:g} %}}; the rule "
            "alone would be narrower."
            if proposal.capped
            else "The width over which the output goes from full to none.",
            source=proposal.source,
            symbol="PB",
        ),
        Figure(
            "integral time",
            pid.integral_time_s,
            Kind.TIME,
            formula=integral,
            inputs=inputs,
            reason="How long it takes to remove a standing error.",
            source=proposal.source,
            symbol="T_i",
        ),
        Figure(
            "derivative time",
            pid.derivative_time_s,
            Kind.TIME,
            formula=derivative,
            inputs=inputs,
            reason="Looks ahead by this long; zero for a process without a clear second lag.",
            source=proposal.source,
            symbol="T_d",
        ),
        *cools,
    )


def _cooler_figures(situation: Situation, settings: ControllerSettings, band: CoolingBand) -> Iterator[Figure]:
    """When the cooler beside the heater is on."""
    plant, too, ambient_c = situation.plant, situation.cooler, situation.ambient_c
    clear = clear_above_c(plant, too, settings, ambient_c) if too else None
    room = situation.window_high_c - settings.setpoint_c
    swing = heats_over_c(plant, settings, ambient_c)
    yield Figure(
        "cools from above", band.above_c, Kind.DIFFERENCE, symbol="A",
        formula=f"max({OF_THE_ROOM:g} R within {LEAST_C:g}…{MOST_C:g}, {OVER_SWING:g} S, C)",
        inputs=(
            Input("left up to the highest allowed", room, Kind.DIFFERENCE, "R", "purpose"),
            Input("the heater’s own swing", swing, Kind.DIFFERENCE, "S", "these numbers on the found process"),
            Input("clear of dead time and least run", clear or 0.0, Kind.DIFFERENCE, "C", "the found process, its cooler on"),
        ),
        reason="Clear of the heater’s own swing, and of what the cooler still takes in its dead time and least run.",
        source="our choice: half as much again",
    )  # fmt: skip
    yield Figure(
        "cooler’s hysteresis", band.hysteresis_c, Kind.DIFFERENCE, formula="A / 2", symbol="H",
        inputs=(Input("cools from above", band.above_c, Kind.DIFFERENCE, "A", "above"),),
        reason="Off half way back: still above the set-point.", source="our choice",
    )  # fmt: skip


def _two_settings(
    situation: Situation, proposal: ProposedTuning, inner: InnerLoop, as_set: tuple[Input, ...]
) -> tuple[Figure, ...]:
    """Those of both loops. The outer one's band is that over which it asks for all and nothing of the heater."""
    band, integral, _ = proposal.formulas
    asks = (
        Input("asked of the heater at 0 %", inner.low_c, Kind.TEMPERATURE, "", "the room"),
        Input("asked of the heater at 100 %", inner.high_c, Kind.TEMPERATURE, "", "what its sensor may show at most"),
    )
    worked_out = two_loops(situation) if proposal.key == TWO_LOOPS else None
    outer = (*(outer_inputs(worked_out) if worked_out else as_set), *asks)
    inputs = inner_inputs(worked_out) if worked_out else as_set
    within, source, pid = "The loop at the heater: tuned first.", proposal.source, proposal.settings.pid
    found = (
        ("proportional band", pid.proportional_band_c, Kind.DIFFERENCE, band, "PB", outer,
         "The width over which the heater is asked for all and for nothing."),
        ("integral time", pid.integral_time_s, Kind.TIME, integral, "T_i", outer, "How long it takes to remove a standing error."),
        ("inner proportional band", inner.band_c, Kind.DIFFERENCE, band, "PB₂", inputs, within),
        ("inner integral time", inner.integral_time_s, Kind.TIME, integral, "T_i2", inputs, within),
    )  # fmt: skip
    return tuple(
        Figure(name, value, kind, formula=formula, inputs=given, reason=reason, source=source, symbol=symbol)
        for name, value, kind, formula, symbol, given, reason in found
    )


def outcome_figures(situation: Situation, tried: TriedOut, trial: Trial) -> tuple[Figure, ...]:
    """What a trial shows: on the rig as it was found, and the worst of those it may be."""
    over, under = ("overshoot", "max(y) − SP"), ("undershoot", "SP − min(y)")
    away = {Trial.HEAT_UP: over, Trial.UP: over, Trial.RAMP: over, Trial.DOWN: under}
    name, formula = away.get(trial, ("furthest off", "max |y − SP|"))
    found, worst, judged = tried.found, tried.worst, judged_on(len(situation.judges))
    figures = [
        _judged(judged, name, found.away_c, worst.away_c, Kind.DIFFERENCE, formula, "M"),
        _judged(judged, "mean distance", found.mean_c, worst.mean_c, Kind.DIFFERENCE, "∫|e| dt / t", "ē"),
    ]
    if found.back_s < float("inf"):
        figures.append(
            _judged(judged, "there for good", found.back_s, worst.back_s, Kind.TIME, "last |y − SP| > band", "t_s")
        )
    if trial is Trial.RAMP:
        figures.append(
            _judged(judged, "behind the ramp", found.behind_c, worst.behind_c, Kind.DIFFERENCE, "max(SP − y)", "b")
        )
    if situation.chamber is not None:
        figures.append(
            _judged(judged, "heater gets to", found.heater_c, worst.heater_c, Kind.TEMPERATURE, "max(heater)", "y_h")
        )
    return tuple(figures)


def _judged(judged: str, name: str, found: float, worst: float, kind: Kind, formula: str, symbol: str) -> Figure:
    never = worst == float("inf")
    reason = judged + (" With some of them it is not there by the end." if never else "")
    return Figure(name, found, kind, formula=formula, high=None if never else worst, reason=reason, symbol=symbol)


def loop_figures(situation: Situation, candidate: Candidate) -> tuple[Figure, ...]:
    """Margins, what it does to the switch, and the power it takes to hold."""
    found = [*(margin_figures(situation, candidate.loop) if candidate.loop else ())]
    course, lasts = candidate.heat_up.course, situation.stage.lasts_s(Trial.HEAT_UP)
    found.append(
        Figure("output travel", course.travel / lasts * HOUR_S, Kind.PERCENT, formula="Σ|Δu| / h", symbol="Σ|Δu|",
               reason="How far the output goes up and down in an hour of the heat-up.")
    )  # fmt: skip
    found.append(
        Figure("full power in the heat-up", course.full_s, Kind.TIME, formula="∫u dt / 100 %", symbol="E",
               reason="Energy, as so long at full power.")
    )  # fmt: skip
    rate = candidate.metrics.switch_rate
    if situation.life and rate and rate.value > 0:
        found.append(relay_life(HOUR_S / rate.value, situation.life))
    return tuple(found)


def ms_of(situation: Situation, candidate: Candidate) -> Figure | None:
    """Its Ms; ``None`` where there is no loop or it swings by itself."""
    return ms_figure(situation, candidate.loop) if candidate.loop else None
