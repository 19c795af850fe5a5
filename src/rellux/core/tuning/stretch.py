"""A stretch of a run to learn from: what the heater got in it, when that changed, and what of it nobody knows."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import quantity
from ..runs.series import Series, timing

SAMPLES_A_PERIOD = 5.0
"""Rows a cycle of the switch that tell its duty (common practice, no source)."""
HALF_ON = 0.5
LATE = 1.6
"""A row that comes after more than so many times the usual interval is late (our choice)."""
LEAST_CYCLES = 3
"""Cycles that are a rhythm."""
LEAST_POINTS, MOST_POINTS = 20, 1200
"""Points a fit needs, and takes (our choice)."""
LEAST_CHANGE = 5.0
"""Change of the output that can teach something, % (our choice)."""
COLD_C = 3.0
"""A start this near the ambient is one from rest with the output off, °C (our choice)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Stretch:
    """Equal-length columns of one stretch of a run: s, °C, %; a row with an output and no reading tells what it did between two late
    rows, as the controller counted it; ``earlier_s`` and ``earlier_output`` are the rows before it, if the
    run has any; ``output_before`` is the output before all of them, ``None`` where nobody knows it. ``ends_by``: why it had to end
    where it does, in a sentence; ``since_missing``: rows are missing right before it, so it may have been heated until then.

    ``ambient_c`` is where the reading goes with no heat; a stretch that starts cold is taken to start near it.
    """

    time_s: Array
    reading_c: Array
    output: Array
    ambient_c: float
    output_before: float | None = None
    setpoint_c: Array | None = None
    earlier_s: Array = field(default_factory=lambda: np.empty(0))
    earlier_output: Array = field(default_factory=lambda: np.empty(0))
    ends_by: str = ""
    since_missing: bool = False


def drive_of(series: Series) -> Array:
    """What the heater got, in %, row by row: the commanded output, or the switch state where only that was logged.

    A state sampled in step with the control period misjudges the duty, so the commanded output is preferred.
    Raises ``Refused`` when only the state is known and it was sampled too slowly to tell the duty.
    """
    has_output, has_switch = bool(np.isfinite(series.output).any()), bool(np.isfinite(series.switch).any())
    interval = timing(series.time_s).interval_s
    if has_output:
        return series.output
    if has_switch and _tells_duty(series, interval):
        return 100.0 * series.switch
    if has_switch:
        raise refuse(
            "run",
            f"it has only the switch state, every {quantity(interval, 's', '.3g')}, and that changes as fast: its duty cannot be told",
            "rows at least five times as often as it switches, or the commanded output",
        )
    raise refuse("run", "nothing in it shows what the output did", "a run with output or switch state")


def _tells_duty(series: Series, interval_s: float) -> bool:
    """Whether a state was logged often enough: its own cycles say so, no control period is needed."""
    state = series.switch[np.isfinite(series.switch)] > HALF_ON
    edges = int(np.count_nonzero(np.diff(state)))
    if edges < 2:
        return True  # one heat-up or one cool-down
    return 2.0 * len(state) / edges >= SAMPLES_A_PERIOD and interval_s > 0


@dataclass(frozen=True)
class Changes:
    """When the output changed and to what, %, ``before`` the first of them; and the share of the on-time that is unknown because
    rows came late: an edge between two rows may be anywhere between them."""

    times_s: Array
    values: Array
    before: float | None
    unknown_share: float

    def mean_over(self, start_s: float, end_s: float) -> float:
        """The mean of the output, %."""
        edges = np.clip(np.concatenate(([start_s], self.times_s, [end_s])), start_s, end_s)
        values = np.concatenate(([self.before or 0.0], self.values))
        return float(np.sum(np.diff(edges) * values) / (end_s - start_s))

    @property
    def cycle_s(self) -> float:
        """The usual time from one rise of the output to the next, s; 0 where it hardly cycles."""
        up = self.times_s[1:][np.diff(self.values) > 0]
        return float(np.median(np.diff(up))) if len(up) > LEAST_CYCLES else 0.0


def checked(stretch: Stretch) -> tuple[Array, Array, Changes]:
    """Times, readings and changes of the output that can be learnt from; readings of long stretches are thinned, changes never.

    Raises ``Refused`` for too few rows, times that do not rise, and a stretch in which nothing happened."""
    good = np.isfinite(stretch.reading_c) & np.isfinite(stretch.output) & np.isfinite(stretch.time_s)
    t, y, u = stretch.time_s[good], stretch.reading_c[good], stretch.output[good]
    if len(t) < LEAST_POINTS:
        raise refuse("stretch", f"only {len(t)} usable points in this stretch", "at least 20")
    if not bool(np.all(np.diff(t) > 0)):
        raise refuse("stretch", "time does not rise from row to row", "rising time stamps")
    changes = _changes(stretch)
    seen = np.append(u, [v for v in (changes.before, *stretch.earlier_output[-1:]) if v is not None])
    if float(np.ptp(seen)) < LEAST_CHANGE and not _starts_from_rest(stretch, y, u):
        raise refuse(
            "stretch", "the output hardly changed here, so nothing shows what it does", "a change of at least 5 %"
        )
    if float(np.ptp(y)) < 1.0:
        raise refuse("stretch", "the reading moved less than {1 Δ°C}, too little to learn from", "at least {1 Δ°C}")
    if len(t) > MOST_POINTS:
        stride = len(t) // MOST_POINTS + 1
        t, y = t[::stride], y[::stride]
    return t, y, changes


def _starts_from_rest(stretch: Stretch, y: Array, u: Array) -> bool:
    """A heat-up from cold whose first row already has the output on: off before, as its temperature says."""
    unknown = stretch.output_before is None and not len(stretch.earlier_s)
    return unknown and is_cold(stretch, y) and float(u[0]) >= LEAST_CHANGE


def is_cold(stretch: Stretch, y: Array) -> bool:
    """Rows may be far apart: the first alone may still be cold."""
    near = min(abs(float(v) - stretch.ambient_c) for v in (y[0], np.median(y[:3]))) < COLD_C
    return near and not len(stretch.earlier_s) and not stretch.since_missing


def outputs_of(stretch: Stretch) -> tuple[Array, Array, NDArray[np.bool_]]:
    """(times in s, outputs in %, whether that row was counted) of every row there is, also before the stretch: edges on their way
    through the dead time count too. Round a row that was counted nothing is unknown; it has no reading and stands alone, several such
    are of a sensor that is broken."""
    told, now = np.isfinite(stretch.earlier_output), np.isfinite(stretch.output) & np.isfinite(stretch.time_s)
    times = np.concatenate((stretch.earlier_s[told], stretch.time_s[now]))
    values = np.concatenate((stretch.earlier_output[told], stretch.output[now]))
    blind = np.concatenate((np.zeros(int(told.sum()), bool), ~np.isfinite(stretch.reading_c[now])))
    beside = np.concatenate(([False], blind, [False]))
    return times, values, blind & ~beside[:-2] & ~beside[2:]


def _changes(stretch: Stretch) -> Changes:
    times, values, counted = outputs_of(stretch)
    changed = np.flatnonzero(
        np.diff(values, prepend=np.nan if stretch.output_before is None else stretch.output_before) != 0.0
    )
    step = np.diff(times)
    given = float(np.sum(np.abs(values[:-1]) * step))
    share = 0.0
    if given > 0 and len(changed):
        edges = changed[changed > 0]
        edges = edges[~counted[edges - 1] & ~counted[edges]]
        usual = float(np.median(step))
        late = np.where(
            step[edges - 1] > LATE * usual, step[edges - 1], 0.0
        )  # in time: part of the dead time, or noise
        jumps = np.abs(np.diff(values))[edges - 1]
        lost = float(np.sum(jumps * np.maximum(late - usual, 0.0)))
        spread = float(np.sqrt(np.sum((jumps * late) ** 2) / 12.0))
        share = (lost + 2.0 * spread) / given
    return Changes(times[changed], values[changed], stretch.output_before, share)
