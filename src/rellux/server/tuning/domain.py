"""What Tuning found, for others to work with."""

from collections.abc import Iterable
from typing import Any

import numpy as np

from rellux.core.process.models import FOPDT, SOPDT, with_second_lag
from rellux.core.tuning.family import Ends, family
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.over_temperature import At, OverTemperature, over_temperature

from .models import Identification


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
    slow = float(row.result.get("slow_gain", 0.0))
    return family(_ends(row, "K"), _ends(row, "100 K/τ", 1.0 / 6000.0), _ends(row, "L"), second_lag_of(row), slow)


def _ends(row: Identification, symbol: str, each: float = 1.0) -> Ends:
    f = figure_of(row, symbol)
    assert f is not None
    low, high = (f["value"] if f[end] is None else f[end] for end in ("low", "high"))
    return low * each, f["value"] * each, high * each


def by_temperature(rows: Iterable[Identification]) -> OverTemperature | None:
    """The gain over temperature from every fit that is supported, each told of where its record ended."""
    points = []
    for row in rows:
        if row.verdict == FitVerdict.SUPPORTED and row.gain > 0 and figure_of(row, "K") is not None:
            known = _ends(row, "K"), _ends(row, "100 K/τ", 1.0 / 6000.0)
            measured = row.result["measured_c"]
            points.append(At(float(np.median(measured[-max(len(measured) // 3, 1) :])), *known))
    return over_temperature(points)


def model_of(row: Identification | None) -> FOPDT | SOPDT | None:
    """The process that was found, with its second lag; ``None`` where there is none that may be used."""
    if row is None or not FitVerdict(row.verdict).usable:
        return None
    return with_second_lag(FOPDT(row.gain, row.lag_s, row.dead_time_s), second_lag_of(row))
