"""What Tuning found, for others to work with."""

from collections.abc import Iterable
from typing import Any, TypeVar, cast

import numpy as np

from rellux.core.process.models import FOPDT, SOPDT, as_quick_at, with_second_lag
from rellux.core.tuning.family import Ends, family
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.over_temperature import At, OverTemperature, over_temperature

from .models import Identification

P = TypeVar("P", FOPDT, FOPDT | SOPDT)


def figure_of(row: Identification, symbol: str) -> dict[str, Any] | None:
    """A figure of the fit by its symbol; ``None`` where it has none."""
    return next((f for f in row.result.get("figures", ()) if f["symbol"] == symbol), None)


def second_lag_of(row: Identification) -> float:
    """Its second lag, s; 0 where it has none."""
    found = figure_of(row, "τ₂")
    return float(found["value"]) if found else 0.0


def noise_of(row: Identification) -> float:
    """Of one reading, °C; 0 where an older fit does not tell."""
    gain = figure_of(row, "K")
    return next((float(i["value"]) for i in (gain or {}).get("inputs", ()) if i["name"] == "noise of a reading"), 0.0)


def possible(row: Identification) -> tuple[FOPDT | SOPDT, ...]:
    """The processes its intervals leave possible; none of one that does not heat, or of which no intervals were kept."""
    if row.gain <= 0 or figure_of(row, "K") is None:
        return ()
    slow, apart = (float(row.result.get(name, 0.0)) for name in ("slow_gain", "row_s"))
    gain, rate, dead = ends_of(row, "K"), ends_of(row, "100 K/τ", 1.0 / 6000.0), ends_of(row, "L")
    found = family(gain, rate, dead, second_lag_of(row), slow, apart)
    return tuple(_where_it_works(row, p) for p in found)


def ends_of(row: Identification, symbol: str, each: float = 1.0) -> Ends:
    """A figure by its symbol between its ends; an open one is infinite. It is the figure itself where no interval was kept."""
    f = figure_of(row, symbol)
    assert f is not None
    if f["low"] is None:
        return (f["value"] * each,) * 3
    return f["low"] * each, f["value"] * each, float("inf") if f["high"] is None else f["high"] * each


def fitted_of(row: Identification) -> list[dict[str, Any]]:
    """The stretches it was found from, each with the model over it; one, where it is from before there could be several."""
    return row.result.get("fitted") or [{"low_c": [], "high_c": [], "run_name": "", **row.result}]  # type: ignore[no-any-return]


def by_temperature(rows: Iterable[Identification]) -> OverTemperature | None:
    """The gain over temperature from every fit that is supported, each told of where its record ended."""
    points = []
    for row in rows:
        if row.verdict == FitVerdict.SUPPORTED and row.gain > 0 and figure_of(row, "K") is not None:
            known = ends_of(row, "K"), ends_of(row, "100 K/τ", 1.0 / 6000.0)
            measured = fitted_of(row)[-1]["measured_c"]
            points.append(At(float(np.median(measured[-max(len(measured) // 3, 1) :])), *known))
    return over_temperature(points)


def model_of(row: Identification | None) -> FOPDT | SOPDT | None:
    """The process that was found, with its second lag; ``None`` where there is none that may be used."""
    if row is None or not FitVerdict(row.verdict).usable:
        return None
    return _where_it_works(row, with_second_lag(FOPDT(row.gain, row.lag_s, row.dead_time_s), second_lag_of(row)))


def process_of(row: Identification) -> FOPDT:
    """The process that was found as one lag with dead time, whether it may be used or not."""
    return _where_it_works(row, FOPDT(row.gain, row.lag_s, row.dead_time_s))


def _where_it_works(row: Identification, process: P) -> P:
    """One that cools with a lag of its own, as quick both ways as it is at its working temperature."""
    cooling = figure_of(row, "τ_c")
    if cooling is None or not isinstance(process, FOPDT):
        return process
    return cast(P, as_quick_at(process, cooling["value"] / row.lag_s, row.rig.working_c - row.rig.ambient_c))
