"""What will on/off control swing, and is that good enough?"""

from dataclasses import dataclass, replace
from typing import Any

from ...errors import Refused, refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, flag, number
from ...heating.switches import relay_life
from ...messages import difference, quantity, spoken_time
from ...process.cycles import Cycle
from ...process.models import FOPDT, SOPDT
from ...process.on_off import SOURCE, Switching, course, hysteresis_for_period, hysteresis_for_swing, smallest, steady
from ...units import Kind
from ..answer import Answer, Axis, Curves, Known, Question, Topic, curve

SHORTEST_S = 1e-3


def process_from(gain: float, lag_s: float, second_s: float, dead_s: float) -> FOPDT | SOPDT:
    """The process that a form's fields say, the longer lag first; no second one where it is nothing."""
    if second_s < SHORTEST_S:
        return FOPDT(gain, lag_s, dead_s)
    return SOPDT(gain, max(lag_s, second_s), min(lag_s, second_s), dead_s)


def process_of(known: Known) -> dict[str, Any]:
    """Those fields, room and set-point of a rig; nothing where its process is not known yet: the example stays."""
    p, process = known.purpose, known.process
    if process is None:
        return {}
    return {
        "ambient_c": p.ambient_c, "setpoint_c": p.working_c, "gain": process.gain, "lag_s": process.lag_s,
        "second_s": process.second_lag_s if isinstance(process, SOPDT) else 0.0, "dead_s": process.dead_time_s,
    }  # fmt: skip


@dataclass(frozen=True)
class SwingInput:
    """A process, how it is switched, and what it may swing."""

    gain: float = number("Process gain", Kind.GAIN, 0.001, 100, 0.94)
    lag_s: float = number("Lag", Kind.TIME, 1, 200_000, 620)
    second_s: float = number("Second lag", Kind.TIME, 0, 100_000, 30, hint="of the element or the sensor; 0 for none")
    dead_s: float = number("Dead time", Kind.TIME, 0, 50_000, 35)
    ambient_c: float = number("Room", Kind.TEMPERATURE, -40, 60, 21)
    setpoint_c: float = number("Set-point", Kind.TEMPERATURE, -30, 1500, 60)
    hysteresis_c: float = number("Hysteresis", Kind.DIFFERENCE, 0, 200, 2)
    school: str = choice(
        "It switches", {"one_sided": "off at the set-point, on below", "centred": "half above, half below"}, "one_sided"
    )
    allowed_c: float = number("May swing, peak to trough", Kind.DIFFERENCE, 0.01, 500, 10)
    every_s: float = number(
        "Shall switch on no oftener than every", Kind.TIME, 0, 100_000, 0, hint="0: as often as it comes"
    )
    noise_c: float = number("The reading jumps by", Kind.DIFFERENCE, 0, 50, 0.1)
    sample_s: float = number("Looks every", Kind.TIME, 0, 600, 0.5)
    least_on_s: float = number("On for at least", Kind.TIME, 0, 36_000, 0)
    least_off_s: float = number("Off for at least", Kind.TIME, 0, 36_000, 0)
    relay: bool = flag("A contact switches it", True)

    @property
    def process(self) -> FOPDT | SOPDT:
        return process_from(self.gain, self.lag_s, self.second_s, self.dead_s)

    @property
    def switching(self) -> Switching:
        return Switching(
            self.setpoint_c - self.ambient_c,
            self.hysteresis_c,
            self.school == "centred",
            self.least_on_s,
            self.least_off_s,
            self.sample_s,
        )


SHORT_LIFE_S = 365 * 86_400.0
"""A contact that lasts less than a year of work is one that will be changed (our choice)."""


def _swing(g: SwingInput) -> Answer:
    reach = 100.0 * g.gain
    rise = g.setpoint_c - g.ambient_c
    if not rise - g.hysteresis_c > 0.0 and rise < reach:
        raise refuse(
            "setpoint_c",
            f"on/off needs both thresholds between the room and what full power reaches, {difference(reach, '.3g')} above it",
            "between them",
        )
    process, by = g.process, g.switching
    found, least = steady(process, by), smallest(process, by)
    try:
        widest: float | None = hysteresis_for_swing(process, by, g.allowed_c)
    except Refused:
        widest = None
    seldom = _seldom(g, least)
    return Answer(
        _headline(g, found, least),
        tuple(_figures(g, found, least, widest, seldom)),
        tuple(_findings(g, found, least, widest, seldom)),
        _picture(g, found),
    )


def _seldom(g: SwingInput, least: Cycle) -> float | None:
    """The hysteresis with which it switches no oftener than asked, °C; ``None`` where nothing was asked. Raises ``Refused`` where none is
    wide enough."""
    if not g.every_s:
        return None
    if least.period_s >= g.every_s:
        return 0.0
    try:
        return hysteresis_for_period(g.process, g.switching, g.every_s)
    except Refused as refused:
        raise refuse("every_s", refused.problems[0].reason, refused.problems[0].accepted) from None


def _headline(g: SwingInput, found: Cycle, least: Cycle) -> str:
    swings = f"It swings {difference(found.swing, '.2g')}, once in {spoken_time(found.period_s)}"
    if found.swing <= g.allowed_c:
        return f"{swings}: on/off is good enough."
    if least.swing > g.allowed_c:
        return f"{swings}, and {difference(least.swing, '.2g')} without any hysteresis: on/off cannot hold it."
    return f"{swings}: too much, with less hysteresis it holds."


def _figures(g: SwingInput, found: Cycle, least: Cycle, widest: float | None, seldom: float | None) -> list[Figure]:
    middle = (found.peak + found.trough) / 2.0 - (g.setpoint_c - g.ambient_c)
    inputs = (
        Input("full-power rise", 100.0 * g.gain, Kind.DIFFERENCE, "ΔT₊", "given"),
        Input("lag", g.lag_s, Kind.TIME, "τ", "given"),
        Input("second lag", g.second_s, Kind.TIME, "τ₂", "given"),
        Input("dead time", g.dead_s + g.sample_s / 2.0, Kind.TIME, "L", "with half a look"),
        Input("hysteresis", g.hysteresis_c, Kind.DIFFERENCE, "H", "given"),
    )

    def figure(name: str, value: float, kind: Kind, why: str, symbol: str = "") -> Figure:
        return Figure(name, value, kind, inputs=inputs, reason=why, source=SOURCE, symbol=symbol)

    figures = [
        figure("swing", found.swing, Kind.DIFFERENCE, "Peak to trough, once it has settled."),
        figure("period", found.period_s, Kind.TIME, "From one switching on to the next.", "T"),
        figure("smallest swing", least.swing, Kind.DIFFERENCE, "Without hysteresis: dead time and least times decide."),
        figure("on for", 100.0 * found.duty, Kind.PERCENT, "Of the time."),
        figure("switchings", 3600.0 / found.period_s, Kind.PER_HOUR, "On and off is one."),
    ]
    if widest is not None:
        why = "The widest with which it swings no more than it may: the fewest switchings."
        figures.insert(3, figure("hysteresis for what it may swing", widest, Kind.DIFFERENCE, why))
    if seldom is not None:
        why = f"The narrowest with which it switches on no oftener than every {spoken_time(g.every_s)}: it then swings "
        why += f"{difference(_at(g, seldom).swing, '.2g')}."
        figures.insert(4, figure("hysteresis for so seldom", seldom, Kind.DIFFERENCE, why))
    side = "lower" if middle > 0 else "higher"
    why = f"Its middle is not the set-point: a set-point {side} by so much centres the swing."
    figures.append(figure("middle off the set-point", middle, Kind.DIFFERENCE, why))
    if g.relay:
        figures.append(relay_life(found.period_s))
    return figures


def _at(g: SwingInput, hysteresis_c: float) -> Cycle:
    return steady(g.process, replace(g.switching, hysteresis_c=hysteresis_c))


def _findings(g: SwingInput, found: Cycle, least: Cycle, widest: float | None, seldom: float | None) -> list[Finding]:
    findings = []
    if seldom is not None and _at(g, seldom).swing > g.allowed_c:
        findings.append(
            Finding(
                "swing.both",
                Severity.FAULT,
                title="No hysteresis does both",
                reason=f"Switching no oftener than every {spoken_time(g.every_s)} takes {difference(seldom, '.2g')} of it: then it swings "
                f"{difference(_at(g, seldom).swing, '.2g')}, and may {difference(g.allowed_c, '.3g')}.",
                fix="Less power, a solid state relay that may switch often, or a time-proportioned PID output.",
            )
        )
    if least.swing > g.allowed_c:
        findings.append(
            Finding(
                "swing.never",
                Severity.FAULT,
                title=f"No hysteresis makes it swing less than {difference(least.swing, '.2g')}",
                reason="The heater acts late: until its heat arrives the temperature runs on, up and down.",
                fix="A time-proportioned PID output, less power, or a quicker sensor nearer to the heater.",
            )
        )
    elif found.swing > g.allowed_c and widest is not None:
        findings.append(
            Finding(
                "swing.wide",
                Severity.FAULT,
                title=f"It swings {difference(found.swing, '.2g')} and may swing {difference(g.allowed_c, '.3g')}",
                reason="Hysteresis adds to what dead time does.",
                fix=f"A hysteresis of {difference(widest, '.2g')} at most.",
            )
        )
    if g.noise_c > 0 and 2.0 * g.noise_c >= g.hysteresis_c:
        findings.append(
            Finding(
                "swing.chatter",
                Severity.FAULT,
                title="It chatters",
                reason=f"The reading jumps by {difference(g.noise_c, '.2g')} either way: over the whole hysteresis near a threshold.",
                fix=f"A hysteresis of more than {difference(2.0 * g.noise_c, '.2g')}, a filter, or a least time on and off.",
            )
        )
    if g.relay and relay_life(found.period_s).value < SHORT_LIFE_S:
        life = quantity(relay_life(found.period_s).value / 86_400.0, "", ".0f")
        findings.append(
            Finding(
                "swing.life",
                Severity.ADVICE,
                title=f"Its contact lasts {life} days of work",
                reason=f"It switches every {spoken_time(found.period_s)}.",
                fix="More hysteresis, or a solid state relay.",
            )
        )
    return findings


def _picture(g: SwingInput, found: Cycle) -> Curves:
    t, rise = course(g.process, found)
    by, minutes, ends = g.switching, t / 60.0, (0.0, float(t[-1]) / 60.0)

    def level(name: str, at: float) -> Any:
        return curve(name, ends, (g.ambient_c + at,) * 2, "limit")

    return Curves(
        Axis("minutes", Kind.COUNT),
        Axis("temperature", Kind.TEMPERATURE),
        (curve("reading", minutes, g.ambient_c + rise), level("off", by.off_at), level("on", by.on_at)),
    )


def _of_rig(known: Known) -> dict[str, Any]:
    found, p = process_of(known), known.purpose
    return found if not found or p.lowest_c is None else {**found, "allowed_c": p.highest_c - p.lowest_c}


SWING = Question(
    "swing",
    "What will on/off swing, and is that good enough?",
    Topic.SWITCH,
    SwingInput,
    _swing,
    _of_rig,
    (
        "A second lag makes the real swing two or three times smaller than one lag with its half as dead time says.",
        "A light oven with a strong heater swings by many degrees; a heavy kiln hardly at all.",
        "Hysteresis below what the reading jumps by only wears the switch.",
    ),
    "A contact that welds, or a solid state relay that fails, heats for ever: on/off needs its independent limiter like any other control.",
    ("actuator",),
)
