"""How do heating and cooling share one output?"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ...control.split import SplitOutput, split_output
from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, flag, number
from ...messages import difference, spoken_time
from ...purpose.heater import heat_w
from ...units import Kind
from ..answer import Answer, Axis, Curves, Known, Question, Topic, curve

SOURCE = "common practice, no source"
DEAD_BAND_OVER_OWN = 1.5
"""The dead band proposed, over what the reading jumps and swings by itself (our choice)."""
DRAWN = 1.2
"""Of the longer band is drawn so much to each side."""
COMPRESSOR, MODULE, VALVE = "compressor", "module", "valve"
COOLERS = {COMPRESSOR: "a compressor", MODULE: "a thermo-electric module", VALVE: "a fan, valve or pump"}


@dataclass(frozen=True)
class SplitInput:
    """A rig that heats and cools: how fast each side moves it, and how it swings by itself."""

    ambient_c: float = number("Room", Kind.TEMPERATURE, -40, 60, 21)
    setpoint_c: float = number("Set-point", Kind.TEMPERATURE, -90, 1800, 25)
    heats: float = number(
        "Full heating raises it by", Kind.RATE, 0.001, 3000, 3, hint="read at the set-point, the other side off"
    )
    cools: float = number(
        "Full cooling lowers it by", Kind.RATE, 0.001, 3000, 1, hint="read at the set-point, the other side off"
    )
    drifts: float = number("Left alone it goes towards the room by", Kind.RATE, 0, 1000, 0.1, hint="at the set-point")
    band_c: float = number(
        "Heating’s band", Kind.DIFFERENCE, 0.05, 1000, 6, hint="over it the output goes from nothing to full"
    )
    noise_c: float = number("The reading jumps by", Kind.DIFFERENCE, 0.001, 50, 0.2, hint="peak to peak")
    swing_c: float = number(
        "Its switching swings it by", Kind.DIFFERENCE, 0, 50, 0.3, hint="peak to peak; 0 where nothing switches"
    )
    dead_c: float = number("Dead band", Kind.DIFFERENCE, 0, 100, 0, hint="0: as proposed")
    cooler: str = choice("It is cooled by", COOLERS, VALVE)
    rest_s: float = number(
        "The compressor rests and runs at least", Kind.TIME, 1, 3600, 300, when=("cooler", (COMPRESSOR,))
    )
    interlocked: bool = flag("A contact keeps each side off while the other is on", False)

    @property
    def own_c(self) -> float:
        """What it moves by itself, °C peak to peak."""
        return self.noise_c + self.swing_c

    @property
    def drift(self) -> float:
        """How it moves with both sides off, °C/min."""
        away = self.ambient_c - self.setpoint_c
        return 0.0 if not away else self.drifts if away > 0 else -self.drifts


def _own(g: SplitInput) -> tuple[float, float]:
    """What heating and cooling add to what the room does, °C/min. Raises ``Refused`` where one adds nothing."""
    heat, cool = g.heats - g.drift, g.cools + g.drift
    for field, does, own in (("heats", "rises", heat), ("cools", "falls", cool)):
        if own <= 0.0:
            raise refuse(
                field,
                f"left alone it {does} as fast: full output adds nothing to that",
                f"more than {difference(g.drifts, '.3g')} a minute",
            )
    return heat, cool


def _split(g: SplitInput) -> Answer:
    heat, cool = _own(g)
    proposed = DEAD_BAND_OVER_OWN * g.own_c
    found = split_output(100.0 / g.band_c, heat, cool, g.dead_c or proposed)
    return Answer(
        f"Cooling’s band is {difference(100.0 / found.cool_gain, '.3g')}, and within {difference(found.dead_band_c / 2.0, '.2g')} of the "
        "set-point nothing acts.",
        tuple(_figures(g, found, proposed)),
        tuple(_findings(g, found, proposed)),
        _picture(found),
    )


def _figures(g: SplitInput, found: SplitOutput, proposed: float) -> Iterator[Figure]:
    heat, cool = _own(g)
    rates = (
        Input("heating by itself", heat, Kind.RATE, "r_heat", "full heating less what the room does"),
        Input("cooling by itself", cool, Kind.RATE, "r_cool", "full cooling less what the room does"),
    )
    yield Figure(
        "cooling’s band", 100.0 / found.cool_gain, Kind.DIFFERENCE, formula="B_heat · r_cool / r_heat",
        inputs=(Input("heating’s band", g.band_c, Kind.DIFFERENCE, "B_heat", "given"), *rates),
        reason="So a deviation is answered as fast either way: the stronger side gets the wider band.", source=SOURCE,
    )  # fmt: skip
    yield Figure(
        "cooling’s gain", found.cool_gain, Kind.PERCENT_PER_DEGREE, formula="K_heat · r_heat / r_cool", inputs=rates,
        reason="The same in the words of a controller that counts a gain.", source=SOURCE,
    )  # fmt: skip
    yield Figure(
        "least dead band", proposed, Kind.DIFFERENCE, formula=f"{DEAD_BAND_OVER_OWN:g} · (noise + swing)",
        inputs=(
            Input("noise", g.noise_c, Kind.DIFFERENCE, "noise", "given"),
            Input("swing", g.swing_c, Kind.DIFFERENCE, "swing", "given"),
        ),
        reason="Wider than what the reading does by itself: or that alone calls one side after the other.", source=SOURCE,
    )  # fmt: skip
    if g.drift:
        side, rate = ("cooling", cool) if g.drift > 0 else ("heating", heat)
        yield Figure(
            f"{side} that holds it", 100.0 * g.drifts / rate, Kind.PERCENT,
            inputs=(Input("left alone", g.drifts, Kind.RATE, "", "given"), *rates),
            reason="With nothing else going on only this side works; the other is for what is put in or taken out.", source=SOURCE,
        )  # fmt: skip


def _findings(g: SplitInput, found: SplitOutput, proposed: float) -> Iterator[Finding]:
    if not g.interlocked:
        yield Finding(
            "split.interlock", Severity.DANGER, title="Nothing keeps both sides from being on together",
            reason="A switch that sticks on one side is answered by the other: the reading looks right, and nobody sees that one failed.",
            fix="A contact of each side in the feed of the other, an alarm where both are on, and a limiter of its own for each.",
            source=SOURCE,
        )  # fmt: skip
    if found.dead_band_c <= g.own_c:
        yield Finding(
            "split.overlap", Severity.FAULT, title="Heating and cooling take turns",
            reason=f"The reading moves {difference(g.own_c, '.2g')} by itself; the dead band is {difference(found.dead_band_c, '.2g')}.",
            fix=f"A dead band of {difference(proposed, '.2g')}, or less noise and swing.",
            source=SOURCE,
        )  # fmt: skip
    carried = g.cools * g.rest_s / 60.0
    if g.cooler == COMPRESSOR and carried > found.dead_band_c:
        yield Finding(
            "split.compressor", Severity.FAULT, title="Heating comes on after every run of the compressor",
            reason=f"Once started it runs {spoken_time(g.rest_s)} at least and takes {difference(carried, '.2g')} off: through the whole "
            f"dead band of {difference(found.dead_band_c, '.2g')}.",
            fix=f"A dead band of {difference(carried, '.2g')}, a weaker compressor, or more mass; never a shorter rest.",
            source=SOURCE,
        )  # fmt: skip
    if g.cooler == MODULE:
        yield Finding(
            "split.module", Severity.ADVICE, title="A module that is reversed needs a pause",
            reason="It heats and cools by its polarity: a sudden change, and on/off or slow pulses too, tire its solder joints.",
            fix="Direct current from a linear output, or some kilohertz behind a choke; the dead band is where it rests.",
            source=SOURCE,
        )  # fmt: skip


def _picture(found: SplitOutput) -> Curves:
    """Both outputs over what is asked, by the reading's distance from the set-point."""
    ends = found.dead_band_c / 2.0 + 100.0 / found.heat_gain, found.dead_band_c / 2.0 + 100.0 / found.cool_gain
    far, half = DRAWN * max(ends), found.dead_band_c / 2.0
    off = (-far, -ends[0], -half, half, ends[1], far)
    heat, cool = zip(*(found.shares(-x) for x in off), strict=True)
    return Curves(
        Axis("reading above the set-point", Kind.DIFFERENCE),
        Axis("output", Kind.PERCENT),
        (curve("heating", off, heat), curve("cooling", off, cool, "other")),
    )


def of_rig(known: Known) -> dict[str, Any]:
    """Room and set-point; the rates of a heater whose process Tuning found, and of the cooler beside it."""
    p, process = known.purpose, known.process
    found: dict[str, Any] = {"ambient_c": p.ambient_c, "setpoint_c": p.working_c}
    rise = p.working_c - p.ambient_c
    if process is None or not 0.0 < rise < 100.0 * process.gain:
        return found
    found |= {
        "heats": 60.0 * (100.0 * process.gain - rise) / process.lag_s,
        "drifts": 60.0 * rise / process.lag_s,
    }
    if p.cooler is None:
        return found
    if p.cooler.pumps:
        found |= {"cooler": COMPRESSOR if p.cooler.rests else MODULE}
    takes = p.cooler.cooler_w / heat_w(p) * 100.0 * process.gain
    return found | {"cools": 60.0 * (rise + takes) / process.lag_s}


SPLIT = Question(
    "split",
    "How do heating and cooling share one output?",
    Topic.CONTROL,
    SplitInput,
    _split,
    of_rig,
    (
        "Both rates are read at the set-point, with the other side off: colder a compressor takes less, hotter a heater gives less.",
        "Each side keeps the rules of its own switch: a relay its period, a compressor its rest, a valve its travel.",
        "Tune heating first with cooling off; then cooling, by this share of it.",
    ),
    "Two outputs are two ways to run away: a limiter on the hot side and one on the cold side, each with a switch of its own.",
)
