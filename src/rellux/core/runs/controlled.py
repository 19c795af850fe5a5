"""What a log says its control *is*: on/off with a hysteresis, pulses of a period, or an output of many levels; and whether that is what the
sheet says. Only what every row of the log agrees with is said."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..findings import Finding, Severity
from ..messages import difference, quantity
from ..purpose.purpose import Effect
from ..units import Kind
from .cycles import noise_of
from .series import GAP, Series

Array = NDArray[np.float64]

LEAST_EDGES = 3
"""Times on and times off from which thresholds are told (our choice)."""
BETWEEN, LEVELS = (2.0, 98.0), 0.1
"""An output between these, %, is neither off nor full; the share of such rows from which it is one of many levels (our choice)."""
AGREES = 0.995
"""Of the rows the share that thresholds must agree with (our choice)."""
EVEN, LEAST_PULSES, ROWS_A_PULSE = 0.9, 6, 4.0
"""Pulses: the share of them that come a whole number of periods apart, how many there are, and rows to a period (our choice)."""
HALF, FROM_BELOW = 50.0, 0.2
"""An output of more is on, %; a record that begins in so low a part of its travel holds the way up (our choice)."""
JITTER_ROWS, JITTER = 1.5, 0.03
"""How far off the clock a pulse may seem to come, in rows, or as a share of the period (our choice)."""
VARIED, ROWS_VARIED = 0.1, 3.0
"""How much times on must differ to show a clock, as a share of the period, and in rows (our choice)."""
SCATTER = 3.0
"""Standard deviations that noise may move a threshold by."""
TELLABLE = 1.5
"""Times what noise and rows may move a threshold by, the hysteresis that can be told (our choice)."""
MOST_MOVES = 1000
"""A set-point that moved more often was moved by a programme (our choice)."""
SAME_C, SAME_SHARE = 0.2, 0.1
"""A hysteresis or a period that differs from the sheet's by less is the same, °C and as a share (our choice)."""


NO_SHEET: Mapping[str, float | str] = {}
BY_HAND = "It was switched by neither steady thresholds nor an even period: by hand, or in another way."
MADE_TO_WAIT = (
    "It was not switched by steady thresholds alone: its compressor had to rest, or to run on, when it would have "
    "switched; or it was switched by hand, or by a clock."
)


class Acts(StrEnum):
    """How the heater is driven."""

    ON_OFF = "on_off"
    PULSES = "pulses"
    LEVELS = "levels"
    UNTOLD = "untold"


@dataclass(frozen=True)
class Controlled:
    """What the log shows: with ``hysteresis`` and where it lies (``off_above``: its upper end above the set-point, of a cooler
    its lower end below it) for on/off, with the
    ``period`` for pulses; ``says`` in a sentence."""

    acts: Acts
    says: str
    hysteresis: Figure | None = None
    off_above: Figure | None = None
    period: Figure | None = None


def controlled(
    series: Series, effect: Effect = Effect.HEATS, sheet: Mapping[str, float | str] = NO_SHEET
) -> Controlled:
    """How the heater or compressor was driven over a stretch with its set-point. Of the ``sheet`` in force what holds it back counts: along
    a ramp of the set-point nothing is told, and of a compressor no threshold where it had to rest, or to run on."""
    if effect is Effect.WATCHES:
        return Controlled(Acts.UNTOLD, "")
    output = np.where(np.isfinite(series.output), series.output, 100.0 * series.switch)
    known = np.isfinite(output) & np.isfinite(series.reading_c) & np.isfinite(series.setpoint_c)
    ramp = float(sheet.get("ramp_c_per_min", 0.0)) / 60.0 if effect is Effect.HEATS else 0.0
    if ramp:
        known[known] = _arrived(series.time_s[known], series.reading_c[known], series.setpoint_c[known], ramp)
    sense = -1.0 if effect is Effect.COOLS else 1.0
    t, e, u = series.time_s[known], sense * (series.reading_c - series.setpoint_c)[known], output[known]
    asked = np.abs(np.diff(series.setpoint_c[known]))
    if len(t) < LEAST_PULSES * ROWS_A_PULSE:
        return Controlled(Acts.UNTOLD, "Too few rows with reading, set-point and output tell how it was controlled.")
    between = (u > BETWEEN[0]) & (u < BETWEEN[1])
    if float(np.mean(between)) > LEVELS:
        return _levels(series)
    on = u > HALF
    begun = int(np.argmax(on))  # before, somebody had it off, or its compressor rested
    t, e, on, asked = t[begun:], e[begun:], on[begun:], asked[begun:]
    pulses, (thresholds, never) = _pulses(t, on), _thresholds(t, e, on, asked)
    if effect is Effect.COOLS:
        return _cooled(thresholds, t, on, sheet)
    if pulses and (never or _by_a_clock(t, on, pulses.value)):
        return Controlled(
            Acts.PULSES, f"The output comes in pulses, one in {quantity(pulses.value, 's', '.3g')}.", period=pulses
        )
    if thresholds and (pulses is None or _reached(e, on, *thresholds)):
        return _on_off(*thresholds)
    if thresholds or pulses:
        return Controlled(Acts.UNTOLD, "It may be on/off, or pulses of one length: this stretch agrees with both. A longer one would tell, "
                          "with a heat-up or a changed set-point in it.")  # fmt: skip
    return Controlled(Acts.UNTOLD, BY_HAND)


def _arrived(t: Array, y: Array, goal: Array, ramp_c_per_s: float) -> NDArray[np.bool_]:
    """Of every row whether a ramp that began at the first reading has come to the set-point; of none where that moves all the time."""
    moved = np.flatnonzero(np.diff(goal)) + 1
    there = np.zeros(len(goal), dtype=bool)
    if not len(goal) or len(moved) > MOST_MOVES:
        return there
    at = float(y[0])
    for part in np.split(np.arange(len(goal)), moved):
        passed = (t[part] - t[part[0]]) * ramp_c_per_s
        away = float(goal[part[0]]) - at
        there[part] = passed >= abs(away)
        at += float(np.sign(away)) * min(float(passed[-1]), abs(away))
    return there


def _cooled(
    thresholds: tuple[Figure, Figure] | None, t: Array, on: NDArray[np.bool_], sheet: Mapping[str, float | str]
) -> Controlled:
    """A compressor is switched by thresholds, below the set-point; one that has to wait comes on, or goes off, where its time is over."""
    held = zip((False, True), ("minimum_off_s", "minimum_on_s"), strict=True)
    if thresholds is None or any(_waits(t, on == state, float(sheet.get(name, 0.0))) for state, name in held):
        return Controlled(Acts.UNTOLD, MADE_TO_WAIT)
    hysteresis, beyond = thresholds
    off = replace(beyond, name="switched off below the set-point")
    return Controlled(Acts.ON_OFF, _says_on_off(hysteresis, _side(*thresholds), "above"), hysteresis, off)


def _waits(t: Array, state: NDArray[np.bool_], least_s: float) -> bool:
    """Whether it stayed in a state no longer than it had to, more than once in ten."""
    begins, ends = np.flatnonzero(~state[:-1] & state[1:]) + 1, np.flatnonzero(state[:-1] & ~state[1:]) + 1
    ends = ends[ends > begins[0]] if len(begins) else ends
    lasts = t[ends] - t[begins[: len(ends)]]
    room = JITTER_ROWS * float(np.median(np.diff(t)))
    return bool(least_s > 0 and len(lasts) and float(np.mean(lasts <= least_s + room)) > 1.0 - EVEN)


def _levels(series: Series) -> Controlled:
    state = np.isfinite(series.switch)
    pulses = (
        _pulses(series.time_s[state], series.switch[state] > 0.5) if state.sum() > LEAST_PULSES * ROWS_A_PULSE else None
    )
    each = f", switched in pulses, one in {quantity(pulses.value, 's', '.3g')}" if pulses else ""
    return Controlled(Acts.LEVELS, f"The output has many levels{each}: not on/off.", period=pulses)


def _thresholds(t: Array, e: Array, on: NDArray[np.bool_], asked: Array) -> tuple[tuple[Figure, Figure] | None, bool]:
    """Hysteresis, and where it switches off above the set-point, if all rows agree with them; and whether rows speak against any.
    ``asked`` (n − 1): how far the set-point moved from row to row, which switches it too."""
    off_at, on_at = (np.flatnonzero(on[:-1] & ~on[1:]), np.flatnonzero(~on[:-1] & on[1:]))
    usual = float(np.median(np.diff(t)))
    noise = noise_of(e)
    moves = float(np.percentile(np.abs(np.diff(e)), 95))
    own = (np.diff(t) < GAP * usual) & (asked <= noise + moves)
    off_at, on_at = (k[own[k]] for k in (off_at, on_at))
    if min(len(off_at), len(on_at)) < LEAST_EDGES:
        return None, False
    upper, lower = (float(np.median((e[k] + e[k + 1]) / 2.0)) for k in (off_at, on_at))
    slack = SCATTER * noise + moves
    late = np.concatenate(([False], (on[1:] != on[:-1]) | ~own))  # it may decide between two rows
    wrong = (on & (e > upper + slack)) | (~on & (e < lower - slack))
    begun = slice(
        int(np.argmax(on)), int(np.flatnonzero(on[1:] != on[:-1])[-1]) + 1
    )  # before and after, it may be switched off
    scattered = any(float(np.ptp((e[k] + e[k + 1]) / 2.0)) > 2.0 * slack for k in (off_at, on_at))
    if scattered or float(np.mean((wrong & ~late)[begun])) > 1.0 - AGREES:
        return None, True
    if upper - lower < TELLABLE * slack:  # too near to one another to be told from what moves the reading anyhow
        return None, False
    fewer = min(len(off_at), len(on_at))
    sure = 2.0 * float(np.hypot(noise, moves / 2.0)) * (2.0 / fewer) ** 0.5 + moves / 2.0
    inputs = (
        Input("times it switched off", len(off_at), Kind.COUNT, "n₀", "run"),
        Input("times it switched on", len(on_at), Kind.COUNT, "n₁", "run"),
        Input("noise of a reading", noise, Kind.DIFFERENCE, "σ", "run"),
        Input("the reading moves from row to row by", moves, Kind.DIFFERENCE, "Δy", "run"),
    )

    def figure(name: str, value: float, why: str, symbol: str) -> Figure:
        return Figure(
            name, value, Kind.DIFFERENCE, inputs=inputs, reason=why, symbol=symbol, low=value - sure, high=value + sure
        )

    found = (
        figure("hysteresis, as it was", upper - lower, "Between where it switched off and where on.", "H"),
        figure("switched off above the set-point", upper, "The median of all times.", "e₀"),
    )
    return found, False


def _reached(e: Array, on: NDArray[np.bool_], hysteresis: Figure, off_above: Figure) -> bool:
    """Whether it came from far below at full power all the way: pulses would have begun before."""
    assert off_above.low is not None
    first_off = int(np.argmax(~on)) if not on.all() else len(on)
    low, high = float(e.min()), off_above.value
    return (
        bool(on[0])
        and first_off > 1
        and e[0] < low + FROM_BELOW * (high - low)
        and e[0] < high - 2.0 * hysteresis.value
        and e[first_off] >= off_above.low - 1e-9
    )


def _by_a_clock(t: Array, on: NDArray[np.bool_], period_s: float) -> bool:
    """Whether the times on differ while the period does not: of a cycle by thresholds both would."""
    rises, falls = np.flatnonzero(~on[:-1] & on[1:]), np.flatnonzero(on[:-1] & ~on[1:])
    falls = falls[falls > rises[0]] if len(rises) else falls
    lasts = t[falls] - t[rises[: len(falls)]]
    alone = lasts[lasts < period_s]
    low, high = np.percentile(alone, (10.0, 90.0)) if len(alone) >= LEAST_PULSES else (0.0, 0.0)
    return bool(high - low > max(ROWS_VARIED * float(np.median(np.diff(t))), VARIED * period_s))


def _pulses(t: Array, on: NDArray[np.bool_]) -> Figure | None:
    """The period, where rises come a whole number of periods apart."""
    rises = np.flatnonzero(~on[:-1] & on[1:])
    apart = np.diff(t[rises])
    usual = float(np.median(np.diff(t)))
    if len(apart) < LEAST_PULSES or np.median(apart) < ROWS_A_PULSE * usual:
        return None
    period = float(np.median(apart))
    many = np.round(apart / period)
    even = np.abs(apart - many * period) <= max(JITTER_ROWS * usual, JITTER * period)
    if np.mean(even & (many >= 1)) < EVEN:
        return None
    whole = float(np.sum(apart[even]) / np.sum(many[even]))
    inputs = (
        Input("pulses", len(rises), Kind.COUNT, "n", "run"),
        Input("rows come every", usual, Kind.TIME, "h", "run"),
    )
    sure = usual / len(apart) ** 0.5
    why = "From one switching on to the next, or whole multiples of it."
    return Figure(
        "period of the pulses",
        whole,
        Kind.TIME,
        inputs=inputs,
        reason=why,
        symbol="T_c",
        low=whole - sure,
        high=whole + sure,
    )


def _on_off(hysteresis: Figure, off_above: Figure) -> Controlled:
    says = _says_on_off(hysteresis, _side(hysteresis, off_above), "below")
    return Controlled(Acts.ON_OFF, says, hysteresis, off_above)


def _says_on_off(hysteresis: Figure, side: str | None, away: str) -> str:
    """``away``: on which side of the set-point it switches on."""
    where = {"one_sided": f", {away} the set-point", "centred": ", half above and half below the set-point"}
    return f"It is on/off with {difference(hysteresis.value, '.2g')} of hysteresis{where.get(side or '', '')}."


def _side(hysteresis: Figure, off_above: Figure) -> str | None:
    """Where the hysteresis lies, where the log can tell."""
    assert off_above.low is not None and off_above.high is not None
    below = off_above.low <= 0.0 <= off_above.high
    half = off_above.low <= hysteresis.value / 2.0 <= off_above.high
    return None if below == half else "one_sided" if below else "centred"


READ = "Read it in the controller, and save it as found."


def against_sheet(found: Controlled, sheet: Mapping[str, float | str]) -> tuple[Finding, ...]:
    """What the sheet says otherwise."""
    mode = sheet.get("mode")
    acts = {Acts.ON_OFF: "on_off", Acts.PULSES: "pid", Acts.LEVELS: "pid"}.get(found.acts)
    if acts is None or mode not in ("on_off", "pid"):
        return ()
    if acts != mode:
        is_, said = ("on/off", "PID") if acts == "on_off" else ("no on/off", "on/off")
        return (
            _differs(
                "mode",
                f"The log shows {is_}, the sheet says {said}",
                found.says,
                "Look at the control mode in the controller.",
            ),
        )
    told = []
    if found.hysteresis is not None and not _alike(found.hysteresis, float(sheet.get("hysteresis_c", 0.0)), SAME_C):
        was, said = (difference(v, ".2g") for v in (found.hysteresis.value, float(sheet["hysteresis_c"])))
        why = f"It switched with {was} between off and on, and {said} is in the sheet."
        told.append(
            _differs(
                "hysteresis_c",
                "Another hysteresis than the sheet's",
                why,
                READ,
            )
        )
    if found.hysteresis is not None and found.off_above is not None:
        side, school = _side(found.hysteresis, found.off_above), sheet.get("hysteresis_school")
        if side and school and side != school:
            off = found.off_above.value
            why = f"It switched off {difference(abs(off), '.2g')} {'beyond' if off >= 0 else 'before'} the set-point."
            fix = "Set where the hysteresis lies as the controller has it: the middle of the swing moves by half of it."
            told.append(_differs("hysteresis_school", "Its hysteresis lies on the other side", why, fix))
    if found.period is not None and not _alike(
        found.period, _pulses_left_out(found.period.value, float(sheet.get("period_s", 0.0))), 0.0
    ):
        was, said = (quantity(v, "s", ".3g") for v in (found.period.value, float(sheet["period_s"])))
        why = f"A pulse came every {was}, and {said} is in the sheet."
        told.append(
            _differs(
                "period_s",
                "Another control period than the sheet's",
                why,
                READ,
            )
        )
    return tuple(told)


def _pulses_left_out(period_s: float, said_s: float) -> float:
    """The period said, as often as it goes into the other: a loop may leave out every second pulse."""
    return said_s * max(round(period_s / said_s), 1) if said_s > 0 else said_s


def _alike(found: Figure, said: float, least: float) -> bool:
    assert found.low is not None and found.high is not None
    room = max(least, SAME_SHARE * abs(said))
    return found.low - room <= said <= found.high + room


def _differs(name: str, title: str, reason: str, fix: str) -> Finding:
    rule = f"runs.other-{name.removesuffix('_c').removesuffix('_s').replace('_', '-')}"
    return Finding(rule, Severity.FAULT, title=title, reason=reason, fix=fix, subjects=(name,))
