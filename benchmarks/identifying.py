"""Finding a process and judging a log, against what they cannot do without."""

import numpy as np
from benchmarks.measure import best, report

from rellux.core.process.models import FOPDT
from rellux.core.process.response import respond, unit_response
from rellux.core.runs.controlled import Acts, controlled
from rellux.core.runs.series import Series
from rellux.core.tuning import record, region
from rellux.core.tuning.identify import identify
from rellux.core.tuning.stretch import Stretch

ROWS, YEAR_S = 20_000, 365 * 86_400


def stretch() -> Stretch:
    """On/off cycles of a lag of ten minutes, 20,000 rows."""
    rng, t = np.random.default_rng(3), np.arange(ROWS) * 0.5
    u = np.where((t % 300.0) < 140.0 + 60.0 * np.sin(t / 1500.0), 100.0, 0.0)
    return Stretch(t, 21.0 + respond(FOPDT(0.9, 600.0, 40.0), t, t, u) + rng.normal(0.0, 0.1, ROWS), u, 21.0)


def identification() -> None:
    """All of a fit against building the regressors of all its rows once for every model it looks at."""
    given, looked = stretch(), [0]
    identify(given)
    fit_at, fits_at = record.fit_at, record.fits_at

    def one(*told):
        looked[0] += 1
        return fit_at(*told)

    def many(data, known, noise, form, lags, *told):
        looked[0] += len(lags)
        return fits_at(data, known, noise, form, lags, *told)

    record.fit_at, record.fits_at = one, many
    identify(given)
    record.fit_at, record.fits_at = fit_at, fits_at
    whole = best(lambda: identify(given), 3)
    changes, values = given.time_s, given.output
    once = best(lambda: unit_response(given.time_s, changes, values, 0.0, 1.0 / 600.0, 40.0), 3)
    report("a fit of 20,000 rows against their regressors, once a model", whole / (once * looked[0]), 3)
    print(f"     {looked[0]} models looked at, {whole:.2f} s")


def grid() -> None:
    """The same with half the grid's spacing: no figure moves by more than 2 % of its interval."""
    given = stretch()
    coarse = identify(given)
    fine = region.FINE, region.FINE_OF_SHARE
    region.FINE, region.FINE_OF_SHARE = 2 * fine[0] - 1, 2 * fine[1] - 1
    finer = identify(given)
    region.FINE, region.FINE_OF_SHARE = fine
    pairs = [
        (a, b)
        for a, b in zip(
            (coarse.gain, coarse.lag, coarse.dead_time), (finer.gain, finer.lag, finer.dead_time), strict=True
        )
    ]
    moved = max(
        abs(getattr(a, e) - getattr(b, e)) / (a.high - a.low) for a, b in pairs for e in ("value", "low", "high")
    )
    report("a finer grid moves a figure, as a share of its interval", moved, 0.02)


def year() -> None:
    """A year of an on/off log, a row a second, against sorting its readings once."""
    t = np.arange(YEAR_S, dtype=float)
    on = (t % 420.0) < 180.0
    reading = np.where(on, 58.0 + 2.0 * (t % 420.0) / 180.0, 60.0 - 2.0 * ((t % 420.0) - 180.0) / 240.0)
    up = 9 * 420 + 180
    on[:up], reading[:up] = True, np.linspace(20.0, 60.0, up)
    log = Series(t, np.full(YEAR_S, 60.0), reading, np.where(on, 100.0, 0.0), on.astype(float))
    assert controlled(log).acts is Acts.ON_OFF
    whole = best(lambda: controlled(log), 2)
    report("judging a year of on/off against sorting it", whole / best(lambda: np.sort(reading), 2), 20)
    print(f"     {whole:.1f} s")
