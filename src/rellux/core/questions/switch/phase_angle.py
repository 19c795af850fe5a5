"""What firing angle or burst gives this power?"""

from dataclasses import dataclass
from math import degrees, pi, radians

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...heating.phase_angle import (
    CLEAR_S,
    burst_steps,
    neutral_share,
    phase_angle,
    phase_power,
    pin_delay,
    pin_reach,
    rms_share,
)
from ...messages import quantity
from ...units import Kind
from ..answer import Answer, Axis, Curves, Mark, NumberTable, Question, Topic, curve

TABLE_PERCENT = 5
"""A row of the table for each so many percent; between them a straight line is near enough (our choice)."""
FEW_STEPS = 20
"""Fewer power steps than this are coarse: 5 % each (our choice)."""


@dataclass(frozen=True)
class PhaseInput:
    """A wanted share of power, by phase angle or by bursts."""

    delay_deg: float = number("Firing delay", Kind.ANGLE, 0, 180, 90, when=("way", ("delay",)))
    power_percent: float = number(
        "Share of full power", Kind.PERCENT, 0, 100, 50, when=("way", ("angle", "burst", "pin"))
    )
    way: str = choice(
        "Switched by",
        {
            "angle": "Phase angle, from the power",
            "delay": "Phase angle, from the delay",
            "pin": "Phase angle, by a pin of a board",
            "burst": "Bursts of whole cycles",
        },
        "angle",
    )
    mains_hz: str = choice("Mains", {"50": "50 Hz", "60": "60 Hz"}, "50")
    period_s: float = number("Control period", Kind.TIME, 0.01, 600, 2, when=("way", ("burst",)))
    detector_us: float = number(
        "Its detector tells late by",
        Kind.COUNT,
        -2000,
        2000,
        300,
        hint="µs; negative where it tells before the crossing",
        when=("way", ("pin",)),
    )


def _phase(g: PhaseInput) -> Answer:
    hz = float(g.mains_hz)
    if g.way == "burst":
        return _burst(g, hz)
    angle = radians(g.delay_deg) if g.way == "delay" else phase_angle(g.power_percent / 100)
    if g.way == "pin":
        return _by_pin(g, hz)
    power = 100 * phase_power(angle)
    delay = angle / pi / (2 * hz)
    grid = [i * pi / 120 for i in range(121)]
    formula = "p = 1 − α/π + sin 2α / 2π"
    figures = (
        Figure(
            "firing delay",
            degrees(angle),
            Kind.ANGLE,
            formula=formula + ", solved for α",
            inputs=(Input("power", power, Kind.PERCENT, "p", "given"),),
            reason="From the zero crossing; 0° is full power.",
            source="integral of sin² from α to π",
        ),
        Figure(
            "delay",
            delay,
            Kind.TIME,
            formula="α / (2π f)",
            inputs=(Input("mains", hz, Kind.FREQUENCY, "f", "given"),),
            reason=f"{quantity(delay * 1000, 'ms', '.2f')} of the {quantity(500 / hz, 'ms', '.2f')} half-cycle.",
            source="geometry",
        ),
        Figure(
            "rms voltage and current",
            100 * rms_share(angle),
            Kind.PERCENT,
            formula="√p",
            inputs=(),
            reason="What a true-rms meter shows of the full value; cheap meters lie here.",
            source="P = V²/R",
        ),
        Figure(
            "in the neutral of a star",
            100 * neutral_share(angle),
            Kind.PERCENT,
            formula="Σ of three fired phases",
            inputs=(),
            reason="Of full line current, with three equal loads. The neutral needs a full-size wire.",
            source="numerical sum over a period",
        ),
    )
    return Answer(
        f"Fired {quantity(degrees(angle), '°', '.1f')} ({quantity(delay * 1000, 'ms', '.2f')}) "
        f"after the zero crossing it gives {quantity(power, '%', '.1f')}.",
        figures,
        (),
        Curves(
            Axis("firing delay", Kind.ANGLE),
            Axis("power", Kind.PERCENT),
            (
                curve("power", [degrees(a) for a in grid], [100 * phase_power(a) for a in grid]),
                curve("if it were linear", (0, 180), (100, 0), "other"),
            ),
            (Mark("here", degrees(angle), power),),
        ),
    )


def _by_pin(g: PhaseInput, hz: float) -> Answer:
    """A table for a firmware: what to wait after the detector's edge for each share of power."""
    rows = tuple(
        (float(p), 1e6 * pin_delay(p / 100, hz, g.detector_us / 1e6)) for p in range(TABLE_PERCENT, 101, TABLE_PERCENT)
    )
    wait = 1e6 * pin_delay(g.power_percent / 100, hz, g.detector_us / 1e6)
    low, high = (100 * p for p in pin_reach(hz))
    findings = []
    if min(us for _, us in rows) < 0:
        findings.append(
            Finding(
                "phase_angle.late",
                Severity.FAULT,
                title="The detector tells too late for full power",
                reason=f"Its edge comes {quantity(g.detector_us, 'µs')} after the crossing: the shortest delays are over by then.",
                fix="Wait for the next half-cycle: add half a period to every negative delay of the table; or a quicker detector.",
            )
        )
    inputs = (
        Input("mains", hz, Kind.FREQUENCY, "f", "given"),
        Input("detector, µs", g.detector_us, Kind.COUNT, "t_d", "given"),
        Input("clear of both ends", CLEAR_S, Kind.TIME, "", "our choice"),
    )
    return Answer(
        f"For {quantity(g.power_percent, '%')} wait {quantity(wait, 'µs', '.0f')} after the edge.",
        (
            Figure(
                "wait after the edge, µs",
                wait,
                Kind.COUNT,
                formula="α / (2π f) − t_d",
                inputs=inputs,
                reason="Then a short pulse to the gate.",
                source="inverse of the law of phase angle",
            ),
            Figure(
                "least it gives",
                low,
                Kind.PERCENT,
                formula="fired as late as may be",
                inputs=inputs,
                reason="Later, the next half-wave might be fired instead.",
                source="integral of sin²",
            ),
            Figure(
                "most it gives",
                high,
                Kind.PERCENT,
                formula="fired as early as may be",
                inputs=inputs,
                reason="Earlier, there is no voltage yet to latch on.",
                source="integral of sin²",
            ),
        ),
        tuple(findings),
        table=NumberTable((Axis("power", Kind.PERCENT), Axis("µs after the edge", Kind.COUNT)), rows),
    )


def _burst(g: PhaseInput, hz: float) -> Answer:
    steps = burst_steps(g.period_s, hz)
    on = round(g.power_percent / 100 * steps)
    got = 100 * on / max(round(steps), 1)
    findings = []
    if steps < FEW_STEPS:
        findings.append(
            Finding(
                "phase_angle.steps",
                Severity.FAULT,
                title=f"Only {steps:.0f} power steps",
                reason=f"A zero-cross switch acts on half-cycles of {quantity(500 / hz, 'ms', '.2f')}; "
                f"the period holds {steps:.0f} of them.",
                fix="A longer control period: 1 s gives 100 steps at 50 Hz.",
            )
        )
    return Answer(
        f"{steps:.0f} steps of {quantity(100 / steps, '%', '.2g')}: {on} half-cycles on gives {quantity(got, '%', '.1f')}.",
        (
            Figure(
                "power steps",
                steps,
                Kind.COUNT,
                formula="period × 2 f",
                inputs=(
                    Input("period", g.period_s, Kind.TIME, "", "given"),
                    Input("mains", hz, Kind.FREQUENCY, "f", "given"),
                ),
                reason="Finer than this no zero-cross switch can be.",
                source="half-cycles in a period",
            ),
            Figure("one step", 100 / steps, Kind.PERCENT, reason="Of full power.", source="half-cycles in a period"),
        ),
        tuple(findings),
    )


PHASE_ANGLE = Question(
    "phase_angle",
    "Which phase angle or burst gives this power?",
    Topic.SWITCH,
    PhaseInput,
    _phase,
    None,
    (
        "A linear angle is not linear power: a controller for phase angle must invert the law.",
        "The law holds per phase for single-phase loads and star with neutral only.",
    ),
    "Phase angle disturbs radio and neighbours: filter it, and know that the neutral carries current in a balanced star.",
    ("actuator",),
)
