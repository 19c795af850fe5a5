"""What is told of a furnace that was learnt from a record, where it foresees it better than one lag or two do."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...control.settings import FULL_OUTPUT
from ...errors import refuse
from ...explain import Figure, Input
from ...messages import difference, quantity, temperature
from ...process.modes import time_63
from ...process.networks import ThermalNetwork, check_network
from ...purpose.kinds import KINDS
from ...purpose.purpose import Purpose, RigKind
from ...units import Kind
from ..fit_verdict import FINE, FORESEEN, WELL_KNOWN, FitVerdict, half_width
from ..forms import OFF
from ..identify import LEARNT, SLIGHT, Ahead, Fitted, Identified
from ..stretch import Stretch
from .answers import Climb, answer_at, at_full, climbs, gain_at, stored_kwh, when_at
from .learnt import OTHERS, Furnace, Learnt, learnt
from .record import FurnaceRecord
from .shape import Node, Shape, shape_of

Array = NDArray[np.float64]

FEWER = 12
"""Other furnaces with which a prediction is tried."""
LONGER = 3.0
"""A heat-up from cold is looked at for so many times the record, or the furnace's own time where that is longer."""
MAINS = 0.05
"""On another day its power is by up to so much another: two and a half percent of the voltage (our choice)."""
LEAST_RISE_C = 50.0
"""A furnace that was recorded no warmer above the room says nothing of what it is where it works (our choice)."""
HEATED = 0.05
"""A record that heats in less than this share of its rows tells what cools it, not what heats it (our choice)."""
GUESSED = 0.5
"""A gain as uncertain as this share of it either way is what its kind is like, not what the record tells (our choice)."""
FURTHEST = 0.5
"""An edge has no more than so much more or less power."""
LAYERS = 0.1
"""So far off two layers for a lining of more may be in the heat it stores (our choice, by simulated kilns of another build)."""
A_DAY_S, HOTTEST_C, A_ROOM_C = 86_400.0, 10_000.0, 20.0
"""What answers later, or comes to more in a room of that temperature, was not learnt here."""
LATEST = 0.05
"""Where more of the on-time than this share is unknown, nothing is told of a furnace (our choice)."""
SOURCE = "element, chamber, two layers of lining, load and sensor; randomised maximum likelihood (Oliver, He & Reynolds 1996)"
FORMULA = "C dT/dt = P(t − L) − Σ G ΔT − r (T⁴ − T_a⁴)"


@dataclass(frozen=True)
class KnownFurnace:
    """As it probably is, and with so much more and less power as all that it may be differs in the time to the hottest that was recorded,
    ``up_to_c``, and in what holds it; ``climbs``: what all of them do at full power, up to there; ``at_c``: where its figures are told."""

    likely: ThermalNetwork
    fast: ThermalNetwork
    slow: ThermalNetwork
    climbs: tuple[Climb, ...]
    up_to_c: float
    at_c: float


def check_furnace(known: KnownFurnace) -> None:
    """Raise ``Refused`` for what was not written here: networks that are none, climbs that do not go up to where it was recorded."""
    for name in ("likely", "fast", "slow"):
        network: ThermalNetwork = getattr(known, name)
        check_network(network, f"furnace.{name}")
        answers = max(network.sensor_lag_s, network.dead_time_s) <= A_DAY_S
        if (
            len(network.capacities) != len(Node)
            or not answers
            or not 0.0 < network.resting_rise(FULL_OUTPUT, A_ROOM_C) < HOTTEST_C
        ):
            raise refuse(
                f"furnace.{name}",
                "it is no furnace",
                "five nodes that answer within a day, below {10000 °C} at full power",
            )
    numbers = [known.up_to_c, known.at_c, *(v for c in known.climbs for v in (c.celsius, c.low, c.likely, c.high))]
    rises = [b.celsius > a.celsius for a, b in pairwise(known.climbs)]
    if not (rises and all(rises) and np.isfinite(numbers).all() and known.climbs[-1].celsius <= known.up_to_c):
        raise refuse(
            "furnace.climbs",
            "they are no climbs up to its highest temperature",
            "two or more, each hotter than the one before",
        )


def is_furnace(kind: RigKind, purpose: Purpose) -> bool:
    """Whether a rig is looked at as a furnace: lined, and heated by its elements."""
    return KINDS[kind].like is RigKind.KILN and purpose.heats and purpose.fire is None


def as_furnace(
    stretches: Sequence[Stretch], found: Identified, kind: RigKind, purpose: Purpose
) -> tuple[Identified, KnownFurnace] | None:
    """What was identified as one lag, said anew by the furnace where that foresees the record better; ``None`` where it does not, where
    the record is too short to try it or hardly tells what heat does, and for rigs that are no furnaces."""
    if not is_furnace(kind, purpose) or found.ahead is None or found.verdict is FitVerdict.BIASED:
        return None
    shape, records = shape_of(kind, purpose), [FurnaceRecord(s) for s in stretches]
    late = max(r.changes.unknown_share for r in records) > LATEST
    heated = max(float(np.mean(s.output[np.isfinite(s.output)] > OFF)) for s in stretches) >= HEATED
    if late or not heated or max(float(r.y.max()) for r in records) < purpose.ambient_c + LEAST_RISE_C:
        return None
    ahead = _foreseen(shape, stretches)
    if ahead.share < FORESEEN or ahead.miss_c >= found.ahead.miss_c:
        return None
    told = _Told(records, shape, learnt(shape, records), purpose)
    if told.learnt.residual_c > FINE * max(float(np.ptp(r.y)) for r in records):
        return None
    identified = told.identified(found, found.ahead, ahead)
    return None if half_width(identified.gain) > GUESSED else (identified, told.known())


def _foreseen(shape: Shape, stretches: Sequence[Stretch]) -> Ahead:
    """The last part of the last record as a furnace predicts it that is learnt from what is before."""
    records = [*map(FurnaceRecord, stretches[:-1]), FurnaceRecord(stretches[-1], LEARNT)]
    known, last = learnt(shape, records, FEWER), records[-1]
    all_of_it = [last.shown(shape, f.numbers, f.own[-1]) for f in (known.likeliest, *known.others)]
    room = max(2.0 * known.noise.total_c, SLIGHT * float(np.ptp(last.y)))
    inside = (last.y >= np.min(all_of_it, axis=0) - room) & (last.y <= np.max(all_of_it, axis=0) + room)
    misses = (last.y - all_of_it[0])[last.rows :]
    return Ahead(float(np.mean(inside[last.rows :])), float(np.sqrt(np.mean(misses**2))))


class _Told:
    """Everything that was learnt, ready to be said."""

    def __init__(self, records: Sequence[FurnaceRecord], shape: Shape, known: Learnt, purpose: Purpose) -> None:
        self.records, self.shape, self.learnt = records, shape, known
        self.furnaces: tuple[Furnace, ...] = (known.likeliest, *known.others)
        mains = np.random.default_rng(OTHERS).uniform(1.0 - MAINS, 1.0 + MAINS, len(known.others))
        others = (shape.network(f.numbers, float(m)) for f, m in zip(known.others, mains, strict=True))
        self.networks = (shape.network(known.likeliest.numbers), *others)
        self.up_to_c = max(float(r.y.max()) for r in records)
        self.room_c, self.at_c = purpose.ambient_c, min(purpose.working_c, self.up_to_c)

    def known(self) -> KnownFurnace:
        rise, likely = self.at_c - self.room_c, self.networks[0]
        lasts_s = LONGER * max(*(r.span_s for r in self.records), time_63(likely.linearised(rise, self.room_c)))
        courses = [at_full(n, self.room_c, lasts_s) for n in self.networks]
        times = np.array([when_at(c, self.up_to_c) for c in courses])
        holds = np.array([n.holding_w(rise, self.room_c) / n.heater_power_w for n in self.networks])
        apart = min(max(float(np.abs(v / v[0] - 1.0).max()) for v in (times, holds)), FURTHEST)
        fast, slow = (replace(likely, heater_power_w=likely.heater_power_w * (1.0 + by)) for by in (apart, -apart))
        return KnownFurnace(likely, fast, slow, climbs(courses, self.room_c, self.up_to_c), self.up_to_c, self.at_c)

    def identified(self, found: Identified, before: Ahead, ahead: Ahead) -> Identified:
        """In place of what one lag or two said, ``before`` of how well they foresee the record."""
        rise, room = self.at_c - self.room_c, self.room_c
        answers = [answer_at(n, rise, room) for n in self.networks]
        gain = self._figure("process gain", Kind.GAIN, "K", [p.gain for p in answers], "On the whole way up.")
        lag = self._figure("lag", Kind.TIME, "τ", [p.lag_s for p in answers], "Of one lag of this gain and rate.")
        tangent = "Where the tangent of its answer cuts the time axis: dead time, element and sensor."
        dead = self._figure("dead time", Kind.TIME, "L", [p.dead_time_s for p in answers], tangent)
        besides = "How fast full power moves it besides what holds it."
        rates = [6000.0 * p.gain / p.lag_s for p in answers]
        rate = self._figure("rate at full power", Kind.RATE, "100 K/τ", rates, besides)
        unsure = max(half_width(gain), half_width(rate), half_width(dead, found.row_s / WELL_KNOWN))
        return replace(
            found,
            process=answers[0],
            model=answers[0],
            gain=gain,
            lag=lag,
            dead_time=dead,
            slope=rate,
            extra=self._besides(),
            slow_gain=0.0,
            noise=self.learnt.noise,
            noise_c=self.learnt.noise.quick_c,
            residual_c=self.learnt.residual_c,
            points=sum(len(r.y) for r in self.records),
            verdict=FitVerdict.SLOPE_ONLY if unsure > WELL_KNOWN else FitVerdict.SUPPORTED,
            verdict_reason=self._says(before, ahead, unsure),
            fitted=tuple(self._fitted(i) for i in range(len(self.records))),
            ahead=ahead,
        )

    def _besides(self) -> tuple[Figure, ...]:
        rise, room = self.at_c - self.room_c, self.room_c
        holds = [100.0 * n.holding_w(rise, room) / n.heater_power_w for n in self.networks]
        stored = [stored_kwh(n, rise) for n in self.networks]
        more = self._figure(
            "gain there", Kind.GAIN, "K₁", [gain_at(n, rise, room) for n in self.networks],
            "Of one per cent more, for ever: less than on the whole way up where hot it loses more for each degree.",
        )  # fmt: skip
        heat = self._figure("heat stored", Kind.ENERGY, "Q", stored, "In chamber, lining and load, once they are warm.")
        low, high = min(stored) * (1.0 - LAYERS), max(stored) * (1.0 + LAYERS)
        return (
            self._figure("output that holds it", Kind.PERCENT, "u_h", holds, "For ever, once its lining is warm."),
            replace(heat, low=low, high=high),
            more,
        )

    def _figure(self, name: str, kind: Kind, symbol: str, values: Sequence[float], why: str) -> Figure:
        """The likeliest with the least and the most of all that it may be."""
        return Figure(
            name,
            values[0],
            kind,
            formula=FORMULA,
            inputs=(
                Input("temperature", self.at_c, Kind.TEMPERATURE, "T", "purpose or run"),
                Input("heat at full power", self.shape.heater_w, Kind.POWER, "P", "purpose"),
                Input("noise of a reading", self.learnt.noise.quick_c, Kind.DIFFERENCE, "σ", "fit"),
                Input("residual, rms", self.learnt.residual_c, Kind.DIFFERENCE, "r", "fit"),
            ),
            reason=f"{why} Of this furnace at {temperature(self.at_c, '.0f')}.",
            source=SOURCE,
            symbol=symbol,
            low=min(values),
            high=max(values),
        )

    def _says(self, before: Ahead, ahead: Ahead, unsure: float) -> str:
        learnt_from, foreseen = (quantity(100.0 * share, "%", ".0f") for share in (LEARNT, ahead.share))
        rms, off, others = (difference(v, ".2g") for v in (self.learnt.residual_c, ahead.miss_c, before.miss_c))
        says = (
            f"A furnace of element, chamber, lining and load follows the reading within {rms} rms. Learnt from its first {learnt_from}, "
            f"it foresees {foreseen} of the rest and is off by {off} rms, one lag or two by {others}. It holds up to "
            f"{temperature(self.up_to_c, '.0f')}, the hottest that was recorded, and for a load like this."
        )
        if unsure <= WELL_KNOWN:
            return says
        known = quantity(min(unsure, 9.99) * 100, "%", ".0f")
        return f"{says} Gain, rate or dead time is known to {known} only: record a longer hold, and another heat-up."

    def _fitted(self, i: int) -> Fitted:
        record = self.records[i]
        all_of_it = [record.shown(self.shape, f.numbers, f.own[i]) for f in self.furnaces]
        low, high = np.min(all_of_it, axis=0), np.max(all_of_it, axis=0)
        return Fitted(record.t + record.began_s, record.y, all_of_it[0], low, high, self._begun(i))

    def _begun(self, i: int) -> tuple[Figure, ...]:
        record = self.records[i]
        ambient, start = (
            [place[of] for place in map(record.places, (f.own[i] for f in self.furnaces))] for of in range(2)
        )
        first = (
            ()
            if record.cold
            else (self._figure("reading at its beginning", Kind.TEMPERATURE, "y₀", start, "Without its noise."),)
        )
        return (
            *first,
            self._figure("temperature without heat", Kind.TEMPERATURE, "T_a", ambient, "With the output off."),
        )
