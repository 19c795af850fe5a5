"""What Tuning found, for others to work with."""

from collections.abc import Iterable, Sequence
from typing import Any, TypeVar, cast

from rellux.core.errors import refuse
from rellux.core.guarding.family import Identified as Found
from rellux.core.guarding.family import Span
from rellux.core.process.models import FOPDT, SOPDT, as_quick_at, with_second_lag
from rellux.core.process.networks import ThermalNetwork
from rellux.core.tuning.family import Ends, family, later
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.furnace.answers import Climb
from rellux.core.tuning.furnace.told import KnownFurnace, as_furnace, check_furnace
from rellux.core.tuning.identify import Identified, identify
from rellux.core.tuning.over_temperature import At, OverTemperature, ended_at_c, over_temperature
from rellux.core.tuning.stretch import Stretch
from rellux.core.zones.chamber import MOST_SHARE
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig

from .models import Identification

P = TypeVar("P", FOPDT, FOPDT | SOPDT)


def learn(rig: Rig, stretches: Sequence[Stretch]) -> tuple[Identified, KnownFurnace | None]:
    """What the stretches tell: one lag or two, or the furnace that foresees them better."""
    found = identify(*stretches)
    return as_furnace(stretches, found, kind_of(rig), purpose_of(rig)) or (found, None)


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
    gain, rate, slow = ends_of(row, "K"), ends_of(row, "100 K/τ", 1.0 / 6000.0), float(row.result.get("slow_gain", 0.0))
    found = family(gain, rate, dead_time_of(row), second_lag_of(row), slow)
    return tuple(_where_it_works(row, p, i) for i, p in enumerate(found))


def dead_time_of(row: Identification) -> Ends:
    """Its dead time between its ends, s."""
    return later(ends_of(row, "L"), float(row.result.get("row_s", 0.0)))


def ends_of(row: Identification, symbol: str, each: float = 1.0) -> Ends:
    """A figure by its symbol between its ends; an open one is infinite. It is the figure itself where no interval was kept."""
    f = figure_of(row, symbol)
    assert f is not None
    if f["low"] is None:
        return (f["value"] * each,) * 3
    return f["low"] * each, f["value"] * each, float("inf") if f["high"] is None else f["high"] * each


def identified_of(row: Identification | None) -> Found | None:
    """What was found, where it may be used."""
    if row is None or not FitVerdict(row.verdict).usable:
        return None
    gain, lag, dead = (Span(v, low, high) for low, v, high in (ends_of(row, "K"), ends_of(row, "τ"), dead_time_of(row)))
    furnace = furnace_of(row) is not None
    return Found(gain, lag, dead, furnace, not furnace and FitVerdict(row.verdict) is FitVerdict.SLOPE_ONLY)


def among(row: Identification) -> float:
    """The share that other zones of its chamber had of what it lost when it was found; 0: it was found by itself. Raises ``Refused`` where
    what was kept is no share."""
    share = row.result.get("among", 0.0)
    if isinstance(share, bool) or not isinstance(share, int | float) or not 0.0 <= share <= MOST_SHARE:
        raise refuse("among", "is no share of what a zone loses", f"0 to {MOST_SHARE:g}")
    return float(share)


def furnace_of(row: Identification | None) -> KnownFurnace | None:
    """The furnace it is, where that was learnt. Raises ``Refused`` where what was kept of it is none."""
    kept = row.result.get("furnace") if row else None
    if not kept:
        return None
    try:
        likely, fast, slow = (_network(kept[name]) for name in ("likely", "fast", "slow"))
        known = KnownFurnace(
            likely, fast, slow, tuple(Climb(**c) for c in kept["climbs"]), kept["up_to_c"], kept["at_c"]
        )
        check_furnace(known)
    except (KeyError, TypeError, ValueError) as error:
        raise refuse("furnace", "it is none that was learnt here", "an unchanged export") from error
    return known


def _network(kept: dict[str, Any]) -> ThermalNetwork:
    columns = {name: tuple(map(float, kept[name])) for name in ("capacities", "to_ambient", "radiation")}
    numbers = {name: float(kept[name]) for name in ("heater_power_w", "sensor_lag_s", "dead_time_s")}
    nodes = {name: int(kept[name]) for name in ("heater_node", "sensor_node")}
    links = tuple((int(i), int(j), float(g)) for i, j, g in kept["links"])
    return ThermalNetwork(links=links, **columns, **numbers, **nodes)


def fitted_of(row: Identification) -> list[dict[str, Any]]:
    """The stretches it was found from, each with the model over it; one, where it is from before there could be several."""
    return row.result.get("fitted") or [{"low_c": [], "high_c": [], "run_name": "", **row.result}]  # type: ignore[no-any-return]


def by_temperature(rows: Iterable[Identification]) -> OverTemperature | None:
    """The gain over temperature from every fit that is supported, each told of where its record ended; of a furnace, whose gain is that of
    the whole way up, the one it has where its figures are told."""
    points = []
    for row in rows:
        known = furnace_of(row)
        gain = "K₁" if known else "K"
        if row.verdict == FitVerdict.SUPPORTED and row.gain > 0 and figure_of(row, gain) is not None:
            celsius = known.at_c if known else ended_at_c(fitted_of(row)[-1]["measured_c"])
            points.append(At(celsius, ends_of(row, gain), ends_of(row, "100 K/τ", 1.0 / 6000.0)))
    return over_temperature(points)


def model_of(row: Identification | None) -> FOPDT | SOPDT | None:
    """The process that was found, with its second lag; ``None`` where there is none that may be used."""
    if row is None or not FitVerdict(row.verdict).usable:
        return None
    return _where_it_works(row, with_second_lag(FOPDT(row.gain, row.lag_s, row.dead_time_s), second_lag_of(row)))


def process_of(row: Identification) -> FOPDT:
    """The process that was found as one lag with dead time, whether it may be used or not."""
    return _where_it_works(row, FOPDT(row.gain, row.lag_s, row.dead_time_s))


def _where_it_works(row: Identification, process: P, member: int = 1) -> P:
    """One that cools with a lag of its own, as quick both ways as it is at its working temperature: by the low end of that lag, itself and
    its high end in turn."""
    if figure_of(row, "τ_c") is None or not isinstance(process, FOPDT):
        return process
    cooling_s = ends_of(row, "τ_c")[member % 3]
    return cast(P, as_quick_at(process, cooling_s / row.lag_s, row.rig.working_c - row.rig.ambient_c))
