"""How early must it switch off on the way up, so that it does not overshoot?"""

from dataclasses import dataclass

import numpy as np

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import difference, quantity, spoken_time, temperature
from ...process.cut_off import EarlyOff, early_off, held_course, over_by_rule, plain_course
from ...process.models import FOPDT, SOPDT
from ...units import Kind
from ..answer import Answer, Axis, Curves, Question, Topic, curve
from .swing import process_from, process_of

OTHERS = (0.3, 0.5, 0.7, 0.85)
"""Other set-points the constant is tried at, as shares of what full power reaches."""
LITTLE_C = 0.2
"""An overshoot nobody minds, °C (our choice)."""
OTHERWISE = 0.3
"""What was seen and what the process says may differ by such a share (our choice)."""
DRAWN = 1.7
"""So many times as long as it takes to the set-point is drawn."""
SOURCE = "exact step response of two lags behind their dead time"


@dataclass(frozen=True)
class EarlyInput:
    """A process, where it is to go, the pulses that hold it, and what was seen."""

    gain: float = number("Process gain", Kind.GAIN, 0.001, 100, 0.94)
    lag_s: float = number("Lag", Kind.TIME, 1, 200_000, 620)
    second_s: float = number("Second lag", Kind.TIME, 0, 100_000, 30, hint="of the element or the sensor; 0 for none")
    dead_s: float = number("Dead time", Kind.TIME, 0, 50_000, 35)
    ambient_c: float = number("It starts at", Kind.TEMPERATURE, -40, 1400, 21)
    setpoint_c: float = number("Set-point", Kind.TEMPERATURE, -30, 1500, 60)
    pulse_s: float = number("Then pulses, one in", Kind.TIME, 0.1, 3600, 10)
    seen_c: float = number(
        "Overshoot that was seen", Kind.DIFFERENCE, 0, 300, 0, hint="switched off at the set-point; 0: none looked at"
    )
    seen_rate: float = number("Rising then at", Kind.RATE, 0, 1000, 0, hint="just before it was switched off")

    @property
    def process(self) -> FOPDT | SOPDT:
        return process_from(self.gain, self.lag_s, self.second_s, self.dead_s)


def _early(g: EarlyInput) -> Answer:
    process, rise = g.process, g.setpoint_c - g.ambient_c
    found = early_off(process, rise)
    left = _left_elsewhere(process, found) if found.moves else 0.0
    return Answer(_headline(g, found), tuple(_figures(g, found, left)), tuple(_findings(g, found)), _picture(g, found))


def _left_elsewhere(process: FOPDT | SOPDT, found: EarlyOff) -> float:
    """The most it passes or falls short of other set-points by, with the same constant."""
    reach = 100.0 * process.gain
    misses = [over_by_rule(process, share * reach, found.lead_s) for share in OTHERS]
    return max(misses, key=abs)


def _headline(g: EarlyInput, found: EarlyOff) -> str:
    over = f"Switched off at {temperature(g.setpoint_c, '.4g')} it runs on by {difference(found.over_c, '.2g')}"
    if found.over_c <= LITTLE_C:
        return f"{over}: nothing needs to be done."
    if not found.moves:
        return f"{over}. It must be off {spoken_time(found.cut_s)} after the start, before the reading moves."
    return (
        f"{over}. Switch off {difference(found.lead_c, '.2g')} before, or when the reading and {quantity(found.lead_s, 's', '.3g')} of its "
        "rise together come to the set-point."
    )


def _figures(g: EarlyInput, found: EarlyOff, left: float) -> list[Figure]:
    inputs = (
        Input("full-power rise", 100.0 * g.gain, Kind.DIFFERENCE, "ΔT₊", "given"),
        Input("lag", g.lag_s, Kind.TIME, "τ", "given"),
        Input("second lag", g.second_s, Kind.TIME, "τ₂", "given"),
        Input("dead time", g.dead_s, Kind.TIME, "L", "given"),
        Input("from start to set-point", g.setpoint_c - g.ambient_c, Kind.DIFFERENCE, "ΔT", "given"),
    )

    def figure(name: str, value: float, kind: Kind, why: str, symbol: str = "", formula: str = "") -> Figure:
        return Figure(name, value, kind, formula=formula, inputs=inputs, reason=why, source=SOURCE, symbol=symbol)

    duty = (g.setpoint_c - g.ambient_c) / g.gain
    why = "Switched off where the reading comes to the set-point."
    figures = [figure("overshoot without", found.over_c, Kind.DIFFERENCE, why)]
    if found.moves:
        why, rule = "One constant for a firmware, for every set-point.", "off when y + t_l dy/dt ≥ SP"
        figures.append(figure("lead time", found.lead_s, Kind.TIME, why, "t_l", rule))
        why = "For this set-point; the higher it is, the less."
        figures.append(figure("off before the set-point", found.lead_c, Kind.DIFFERENCE, why, "ΔT_l"))
        why = "At full power, when it is switched off."
        figures.append(figure("rising then by", 60.0 * found.rate, Kind.RATE, why))
        why = "The most that the one constant leaves, from a third to nearly all it reaches."
        figures.append(figure("left at other set-points", left, Kind.DIFFERENCE, why))
    figures.append(figure("off after", found.cut_s, Kind.TIME, "From a start at rest."))
    why = "The reading stands still for a moment: the pulses' heat arrives."
    figures.append(figure("turns after", found.peak_s, Kind.TIME, why))
    why, rule = "In each: what it loses at the set-point.", "(SP − T_a)/K × T_c/100"
    figures.append(figure("pulses on for", duty / 100.0 * g.pulse_s, Kind.TIME, why, "t_on", rule))
    why = "Of output above the room: the same as a constant."
    figures.append(figure("to hold, for each degree", 1.0 / g.gain, Kind.PERCENT_PER_DEGREE, why, "1/K"))
    if g.seen_c > 0 and g.seen_rate > 0:
        seen = 60.0 * g.seen_c / g.seen_rate
        why = "Overshoot over rate of rise, as it was seen: a first guess without any process."
        figures.append(figure("lead by what was seen", seen, Kind.TIME, why, formula="overshoot / (dy/dt)"))
    return figures


def _findings(g: EarlyInput, found: EarlyOff) -> list[Finding]:
    findings = []
    if not found.moves and found.over_c > LITTLE_C:
        findings.append(
            Finding(
                "early.blind",
                Severity.FAULT,
                title="It must be off before the reading moves",
                reason="The set-point is so near that the heat already on its way passes it: no rule that looks at the reading is in time.",
                fix="Less power, or heat for a fixed time, or a sensor nearer to the heater.",
            )
        )
    if found.moves and g.seen_c > 0 and g.seen_rate > 0:
        seen = 60.0 * g.seen_c / g.seen_rate
        if abs(seen - found.lead_s) > OTHERWISE * max(seen, found.lead_s):
            says = (quantity(v, "s", ".3g") for v in (seen, found.lead_s))
            findings.append(
                Finding(
                    "early.otherwise",
                    Severity.FAULT,
                    title="What was seen is not what the process says",
                    reason="By the overshoot seen the lead is {}, by the process {}.".format(*says),
                    fix="Look at the run: was it at full power until the set-point, and from rest? Else find the process anew.",
                )
            )
    return findings


def _picture(g: EarlyInput, found: EarlyOff) -> Curves:
    until = DRAWN * max(found.peak_s, found.cut_s + g.dead_s)
    rise = g.setpoint_c - g.ambient_c
    t, plain = plain_course(g.process, rise, until)
    _, early = held_course(g.process, rise, found, g.pulse_s, until)
    minutes = t / 60.0
    return Curves(
        Axis("minutes", Kind.COUNT),
        Axis("temperature", Kind.TEMPERATURE),
        (
            curve("off early, then pulses", minutes, g.ambient_c + early),
            curve("off at the set-point", minutes, g.ambient_c + plain, "other"),
            curve("set-point", (0.0, float(minutes[-1])), np.full(2, g.setpoint_c), "limit"),
        ),
    )


EARLY = Question(
    "early",
    "How early must it switch off on the way up?",
    Topic.SWITCH,
    EarlyInput,
    _early,
    process_of,
    (
        "The rate of rise is taken over some seconds: over a third of the lead time its noise hardly counts.",
        "A load makes the way up slower, and the lead in degrees smaller; the lead in time stays.",
        "A controller with integral action needs none of this.",
    ),
    "Try it without product first, and with the independent limiter in place: a constant typed wrongly heats on.",
    ("actuator",),
)
