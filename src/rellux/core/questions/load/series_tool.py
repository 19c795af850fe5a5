"""When can a sensor in series with its heater be read, and which supply may the tool have?"""

from dataclasses import dataclass
from math import exp

import numpy as np

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...heating.series_sensor import full_duty, supply_range
from ...messages import percent, quantity, span
from ...units import Kind
from ..answer import MEMORY, Answer, Axis, Curves, Mark, Question, Topic, curve

SHARE = 0.8
"""Of a rating that is used, so that a spike of the leads does not pass it (common practice, no source)."""
SETTLED = 5.0
"""After so many of its time constants an amplifier is within a digit of what it will show (our choice: 0.7 %)."""
POINTS = 121
TRANSISTOR, CAPACITOR, REGULATOR, PULSE = "the transistor", "the capacitor", "the regulator", "the heater's pulse"


@dataclass(frozen=True)
class SeriesInput:
    """A tool’s cartridge, its timing, and what is on the supply."""

    supply_v: float = number("Supply", Kind.VOLTAGE, 3, 60, 20)
    heater_ohm: float = number("Heater", Kind.RESISTANCE, 0.2, 500, 8)
    most_w: float = number("Most it may have", Kind.POWER, 1, 500, 70, hint="the cartridge, for the length of a pulse")
    period_ms: float = number("Control period, ms", Kind.COUNT, 2, 2000, 50)
    off_ms: float = number("Off to read, ms", Kind.COUNT, 0.2, 500, 6)
    recovery_ms: float = number(
        "The amplifier recovers in, ms", Kind.COUNT, 0.05, 50, 0.8, hint="to a third; 1 to 10 ms until it is right"
    )
    sample_ms: float = number("Reading takes, ms", Kind.COUNT, 0.01, 50, 0.5)
    rail_v: float = number("Highest rail", Kind.VOLTAGE, 1, 30, 5)
    dropout_v: float = number("Its regulator needs more by", Kind.VOLTAGE, 0, 10, 2)
    regulator_v: float = number("Regulator stands", Kind.VOLTAGE, 3, 100, 30)
    transistor_v: float = number("Transistor stands", Kind.VOLTAGE, 3, 200, 40)
    capacitor_v: float = number("Capacitor stands", Kind.VOLTAGE, 3, 200, 35)
    input_v: float = number("Amplifier’s input stands", Kind.VOLTAGE, 0.3, 60, 5.5)


def _series(g: SeriesInput) -> Answer:
    duty = full_duty(g.period_ms, g.off_ms)
    watts = g.supply_v**2 / g.heater_ohm
    ready = g.off_ms - g.sample_ms
    settled = SETTLED * g.recovery_ms
    left = 100.0 * exp(-max(ready, 0.0) / g.recovery_ms)
    by_pulse = (g.most_w * g.heater_ohm) ** 0.5 / SHARE  # the same share is taken of all
    ratings = {REGULATOR: g.regulator_v, TRANSISTOR: g.transistor_v, CAPACITOR: g.capacitor_v, PULSE: by_pulse}
    low, high = supply_range(g.rail_v, g.dropout_v, ratings, SHARE)
    time = (
        Input("period, ms", g.period_ms, Kind.COUNT, "T", "given"),
        Input("off, ms", g.off_ms, Kind.COUNT, "t_off", "given"),
    )
    figures = (
        Figure(
            "full duty",
            100.0 * duty,
            Kind.PERCENT,
            formula="(T − t_off) / T",
            inputs=time,
            reason="More it cannot be on: without the window it is blind.",
        ),
        Figure(
            "power at full duty",
            watts * duty,
            Kind.POWER,
            formula="V² / R × duty",
            inputs=(
                Input("supply", g.supply_v, Kind.VOLTAGE, "V", "given"),
                Input("heater", g.heater_ohm, Kind.RESISTANCE, "R", "given"),
            ),
            reason="On this supply.",
        ),
        Figure(
            "in a pulse",
            watts,
            Kind.POWER,
            formula="V² / R",
            inputs=(Input("supply", g.supply_v, Kind.VOLTAGE, "V", "given"),),
            reason="What heater and supply see.",
        ),
        Figure(
            "window needed, ms",
            settled + g.sample_ms,
            Kind.COUNT,
            formula="5 τ + t_s",
            inputs=(
                Input("recovery, ms", g.recovery_ms, Kind.COUNT, "τ", "given"),
                Input("reading, ms", g.sample_ms, Kind.COUNT, "t_s", "given"),
            ),
            reason="Until the amplifier has forgotten the supply, and the reading is taken.",
            source=MEMORY,
        ),
        Figure(
            "left of the pulse when read",
            left,
            Kind.PERCENT,
            formula="e^(−t/τ)",
            inputs=time,
            reason="Of what the amplifier was driven to.",
            source="one time constant",
        ),
        Figure(
            "supply at least",
            low.volts,
            Kind.VOLTAGE,
            formula="rail + drop-out",
            inputs=(
                Input("rail", g.rail_v, Kind.VOLTAGE, "", "given"),
                Input("drop-out", g.dropout_v, Kind.VOLTAGE, "", "given"),
            ),
            reason=f"Set by {low.by}.",
        ),
        Figure(
            "supply at most",
            high.volts,
            Kind.VOLTAGE,
            formula="0.8 × the weakest",
            inputs=tuple(Input(n, v, Kind.VOLTAGE, "", "given") for n, v in ratings.items()),
            reason=f"Set by {high.by}.",
        ),
    )
    return Answer(
        f"Heater on for {percent(duty)} at most, {quantity(watts * duty, 'W', '.0f')}; supply {span(low.volts, high.volts, 'V', '.3g')}.",
        figures,
        tuple(_findings(g, settled, low.volts, high.volts, high.by)),
        _picture(g),
    )


def _findings(g: SeriesInput, settled: float, low_v: float, high_v: float, by: str) -> list[Finding]:
    found = []
    if g.off_ms < settled + g.sample_ms:
        found.append(
            Finding(
                "series.window",
                Severity.FAULT,
                title="It is read before the amplifier has recovered",
                reason=f"Off for {quantity(g.off_ms, 'ms')}, and {quantity(settled + g.sample_ms, 'ms', '.2g')} are needed: it reads "
                "too hot and heats too little, more so the higher the supply.",
                fix="A longer window, a quicker amplifier, and the reading at the end of the window.",
            )
        )
    if not low_v <= g.supply_v <= high_v:
        too = "low" if g.supply_v < low_v else "high"
        found.append(
            Finding(
                "series.supply",
                Severity.DANGER if too == "high" else Severity.FAULT,
                title=f"{quantity(g.supply_v, 'V')} is too {too}",
                reason=f"It works from {span(low_v, high_v, 'V', '.3g')}"
                + (
                    f"; {by} sets the upper end."
                    if too == "high"
                    else ": its rail fails, and with it whatever keeps the heater off."
                ),
                fix="A supply inside, or the part that binds changed.",
            )
        )
    if g.supply_v > g.input_v:
        found.append(
            Finding(
                "series.clamp",
                Severity.ADVICE,
                title="The amplifier's input needs a clamp",
                reason=f"In every pulse {quantity(g.supply_v, 'V')} stand at its wire; its input bears {quantity(g.input_v, 'V')}.",
                fix="A series resistor with a diode to the rail, or a switch that opens during the pulse; both slow it: enter that too.",
            )
        )
    return found


def _picture(g: SeriesInput) -> Curves:
    on = g.period_ms - g.off_ms
    grid = np.linspace(on - 0.5 * g.off_ms, g.period_ms + 0.2 * g.off_ms, POINTS)
    fades = [100.0 * exp(-(t - on) / g.recovery_ms) if on <= t <= g.period_ms else 100.0 for t in grid]
    heater = [0.0 if on <= t <= g.period_ms else 100.0 for t in grid]
    read = g.period_ms - g.sample_ms
    return Curves(
        Axis("ms in the period", Kind.COUNT),
        Axis("of full", Kind.PERCENT),
        (curve("amplifier, of the pulse", grid, fades), curve("heater", grid, heater, "other")),
        (Mark("read", read, 100.0 * exp(-max(read - on, 0.0) / g.recovery_ms)),),
    )


SERIES = Question(
    "series_tool",
    "When can a sensor in series with its heater be read?",
    Topic.LOAD,
    SeriesInput,
    _series,
    None,
    (
        "The junction's sign goes with the tip: one that falls when heated is wired the other way round.",
        "Read at the end of the window, never at its beginning.",
        "A tip that is pulled leaves the amplifier open: that must end the heat, not ask for more.",
    ),
    "A tip burns skin and tables for minutes after it is off: a stand, and a lamp that follows the reading.",
)
