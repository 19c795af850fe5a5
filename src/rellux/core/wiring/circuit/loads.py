"""Loads: from which voltage each is on, how long it takes, and what it draws where it is no plain resistance.

Coils pull in at 85 % of their voltage and drop out below 20 %; instruments run from 80 %; an SSR's input is on from 3 V.
"""

import numpy as np
from numpy.typing import NDArray

from ...heating.elements import ELEMENT_KINDS
from ...heating.switches import SSR_DROP_V
from ..kinds.loads import TURNS
from ..model import ConnectionList, Part
from ..names import is_input
from .branches import Sort, is_coil
from .network import NodalNetwork
from .state import State

PULL_IN, DROP_OUT, RUNS, HEATS = 0.85, 0.20, 0.80, 0.02
SSR_ON_V = 3.0
HOLDS_A = 0.01
"""Amperes from which an SSR's drop is its 1.2 V (numerical)."""
DIRECTLY = 0.5
"""From this share of its volts as direct ones the other way round a module that turns is turned (numerical: half of them)."""
LAW_FROM, LAW_TO = 0.2, 2.0
"""Shares of its voltage within which a load's law is followed (numerical)."""
SSR_WITHIN, LAW_WITHIN = 0.05, 0.02
"""How near its 1.2 V an SSR's drop is brought, and a load's conductance to its law, as shares of them."""
DELAYS_S = {
    **dict.fromkeys(("relay", "relay_module", "relay_module_low"), (0.010, 0.005)),
    "contactor": (0.025, 0.015),
    "input": (0.010, 0.010),
    "instrument": (0.5, 0.1),
    "power_module": (0.1, 0.02),
}
"""Operate and release delays of coils, control inputs and instruments starting up (typical, from memory of data sheets)."""
SLOW = 10.0
DIRECT = ("microcontroller", "converter", "display", "relay_module", "relay_module_low", "regulator")
"""Kinds that run on direct current the right way round only, as control inputs do."""
INSTRUMENTS = ("controller_relay", "controller_ssr", "limiter", "logger")


class Loads:
    """What hangs in a network. ``slow``: parts whose coil takes ten times as long; ``turning``: modules that heat one way and cool the
    other."""

    def __init__(self, wiring: ConnectionList, net: NodalNetwork, supply_v: float, slow: frozenset[str]) -> None:
        self._net, self._supply_v, self._slow = net, supply_v, slow
        self._parts = {p.name: p for p in wiring.parts}
        at = [i for i, b in enumerate(net.branches) if b.sort is Sort.LOAD]
        self._at = np.array(at, dtype=int)
        self._names = [net.branches[i].name for i in at]
        levels = [self._thresholds(name) for name in self._names]
        self._pull_in, self._drop_out = (np.array([level[k] for level in levels]) for k in (0, 1))
        self._least: dict[frozenset[str], NDArray[np.float64]] = {}
        self._known: dict[bytes, frozenset[str]] = {}
        parts = [self._parts.get(name) for name in self._names]
        heaters = [i for i, p in zip(at, parts, strict=True) if p and p.heats]
        self._heaters = np.array(heaters, dtype=int)
        self._heater_names = list(dict.fromkeys(net.branches[i].name for i in heaters))
        self._heater_of = np.array([self._heater_names.index(net.branches[i].name) for i in heaters], dtype=int)
        turning = [k for k, p in enumerate(parts) if p and p.type.kind == TURNS]
        self._turning, self._turns_from = self._at[turning], self._pull_in[turning]
        self.turning = frozenset(self._names[k] for k in turning)
        self._laws = {i: law for i, p in zip(at, parts, strict=True) if p and (law := self._law(p))}
        direct = [k for k, n in enumerate(self._names) if is_input(n) or self._parts[n].type.kind in DIRECT]
        self._direct = np.array(direct, dtype=int)
        self._plus, self._minus = (end[self._at[self._direct]] for end in (net.a, net.b))
        self._ssrs = np.array([i for i, b in enumerate(net.branches) if b.sort is Sort.SSR], dtype=int)
        self._delays: dict[str, tuple[float, float]] = {name: self._delay(name) for name in self._names}

    def delay_s(self, name: str, on: bool) -> float:
        """How long a load takes to follow: to release when it is ``on``, else to operate."""
        return self._delays[name][int(on)]

    def turned(self, state: State) -> frozenset[str]:
        """Modules whose plus lies at the minus: they take heat out."""
        return (
            frozenset(self._net.branches[i].name for i in self._cooling(state)) if len(self._turning) else frozenset()
        )

    def _cooling(self, state: State) -> NDArray[np.int_]:
        """Branches of modules that are turned."""
        dc, i = state.nodes[2], self._turning
        backwards = dc.take(self._net.b[i]) - dc.take(self._net.a[i])
        cools: NDArray[np.bool_] = state.mask[i] & (backwards > np.maximum(DIRECTLY * state.volts[i], self._turns_from))
        return i[cools]

    def _gives(self, state: State) -> NDArray[np.float64]:
        """Heat in W of every heater's branch."""
        watts = state.volts * state.amps
        if len(self._turning):
            watts[self._cooling(state)] = 0.0
        found: NDArray[np.float64] = watts[self._heaters]
        return found

    def heat_w(self, state: State) -> dict[str, float]:
        """Power of every heater; of what chatters, the most it gives on the way."""
        watts = self._gives(state)
        for other in state.between:
            watts = np.maximum(watts, self._gives(other))
        found = np.bincount(self._heater_of, watts, len(self._heater_names))
        return dict(zip(self._heater_names, found.tolist(), strict=True))

    def following(self, state: State) -> frozenset[str]:
        """Parts whose coil, supply or control input is on at these voltages."""
        if state.on not in self._least:
            holding = np.array([name in state.on for name in self._names], dtype=bool)
            self._least[state.on] = np.where(holding, self._drop_out, self._pull_in)
        volts = state.volts.take(self._at)
        if len(self._direct):
            volts[self._direct] = state.nodes[2].take(self._plus) - state.nodes[2].take(self._minus)
        if len(self._turning):
            volts[np.isin(self._at, self._cooling(state))] = 0.0
        alive = (volts >= self._least[state.on]) & state.mask.take(self._at)
        key = alive.tobytes()
        if key not in self._known:
            self._known[key] = frozenset(self._names[i] for i in np.flatnonzero(alive))
        return self._known[key]

    def adjust(self, state: State, conductance: NDArray[np.float64]) -> bool:
        """Set each conducting SSR so that it drops 1.2 V, and lamps, PTC elements and supplies to the power they take at
        their voltage, ``P = P_n (V/V_n)^e``; True while that still changes."""
        moved = False
        for i, (rated, exponent) in self._laws.items():
            share = min(max(state.volts[i] / rated, LAW_FROM), LAW_TO)
            wanted = self._net.conductance[i] * share ** (exponent - 2.0)
            if state.mask[i] and abs(conductance[i] - wanted) > LAW_WITHIN * wanted:
                moved, conductance[i] = True, (conductance[i] * wanted) ** 0.5
        carrying = self._ssrs[state.amps.take(self._ssrs) > HOLDS_A]
        if len(carrying):
            drops = np.clip(state.amps[carrying] / SSR_DROP_V, 0.1, 1e3)
            moved = moved or bool(np.any(np.abs(conductance[carrying] - drops) > SSR_WITHIN * drops))
            conductance[carrying] = drops
        return moved

    def _thresholds(self, name: str) -> tuple[float, float]:
        """Volts at which a load comes on, and below which it goes off again."""
        if is_input(name):
            return SSR_ON_V, SSR_ON_V
        part = self._parts[name]
        if is_coil(part):
            rated = part.number("coil_v", self._supply_v)
            return PULL_IN * rated, DROP_OUT * rated
        least = (HEATS if part.heats else RUNS) * part.number("voltage_v", self._supply_v)
        return least, least

    def _law(self, part: Part) -> tuple[float, float] | None:
        """Rated volts and the exponent of power with voltage, for loads that are no plain resistance."""
        rated = part.number("voltage_v", self._supply_v)
        if part.type.kind in ("regulator", "power_module"):
            return rated, 0.0
        kind = ELEMENT_KINDS.get(str(part.ratings.get("element", "wire")))
        return (rated, kind.exponent) if kind and kind.exponent != 2.0 else None

    def _delay(self, name: str) -> tuple[float, float]:
        """Operate and release delay of a load, s."""
        if is_input(name):
            return DELAYS_S["input"]
        part = self._parts[name]
        if part.type.kind == "timer":
            return part.number("delay_s", 10.0), DELAYS_S["relay"][1]
        family = "instrument" if part.type.family in INSTRUMENTS else part.type.family
        operate, release = DELAYS_S.get(family, (0.0, 0.0))
        return (SLOW * operate, SLOW * release) if name in self._slow else (operate, release)
