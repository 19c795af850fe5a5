"""A relay test, or any on/off cycles, out of a record: what a controller would reckon from them, beside what the fitted model says."""

from ...errors import Refused
from ...explain import Figure
from ...runs.controlled import Acts, controlled
from ...runs.cycles import cycles_of
from ...runs.series import Series
from ..rules.limit import Limit
from .describing import estimated, limit_figures

HALF_STEP = 50.0
"""Half the step of an output that goes from nothing to all, %."""
LEAST_CYCLES = 2


def relay_figures(series: Series, model: Limit | None) -> tuple[Figure, ...]:
    """Both estimates of gain and period at the limit; nothing where the record does not cycle, or not on and off between two readings."""
    found = controlled(series)
    if found.acts is not Acts.ON_OFF or found.hysteresis is None:
        return ()
    cycles = cycles_of(series.time_s, series.reading_c)
    if len(cycles) < LEAST_CYCLES:
        return ()
    period = cycles.period(series.time_s)
    hysteresis = found.hysteresis.value
    try:
        both = estimated(HALF_STEP, cycles.swing, hysteresis, period, model)
    except Refused:
        return ()  # a swing no wider than the hysteresis is the relay's own
    return limit_figures(both, HALF_STEP, cycles.swing, hysteresis)
