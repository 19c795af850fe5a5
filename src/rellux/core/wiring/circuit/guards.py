"""Protective devices: a breaker or fuse opens by its current, an earth-leakage breaker by what does not come back."""

import numpy as np

from ..model import ConnectionList
from .network import NodalNetwork
from .state import State

TRIPS_AT = 1.45
"""A breaker or fuse surely opens within an hour at 1.45 times its rating (IEC 60898)."""
AT_ONCE = 5.0
"""From five times its rating it opens in milliseconds, before a contactor can drop out (B curve)."""
LEAKS_A = 0.03


class Guards:
    """The breakers, fuses and earth-leakage breakers of a network."""

    def __init__(self, wiring: ConnectionList, net: NodalNetwork) -> None:
        self._net = net
        rated = {p.name: p.number("current_a", 1e9) for p in wiring.of_kind("breaker", "fuse")}
        self._at = np.array([i for i, b in enumerate(net.branches) if b.breaks and b.name in rated], dtype=int)
        self._rated_a = np.array([rated[net.branches[i].name] for i in self._at])
        self._leakage_a = {p.name: p.number("trips_a", LEAKS_A) for p in wiring.of_kind("rcd")}

    def opening(self, state: State, times: float, stuck: frozenset[str] = frozenset()) -> dict[str, float]:
        """The device furthest above ``times`` its rating, or one whose currents do not add up to nothing, with the A; none of
        those that are ``stuck``."""
        if len(self._at):
            shares = state.amps.take(self._at) / self._rated_a
            if stuck:
                shares = np.where([self._net.branches[i].name in stuck for i in self._at], 0.0, shares)
            worst = shares.argmax()
            if shares[worst] > times:
                guard = self._at[worst]
                return {self._net.branches[guard].name: float(state.amps[guard])}
        for name, limit in self._leakage_a.items():
            if name in stuck:
                continue
            poles = [i for i in self._net.named(name) if state.mask[i]]
            across = state.nodes[:2, self._net.a[poles]] - state.nodes[:2, self._net.b[poles]]
            lost = float(np.linalg.norm(np.sum(across * state.conductance[poles], axis=1)))
            if lost > limit:
                return {name: lost}
        return {}
