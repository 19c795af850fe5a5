"""A state of the network in names: what every load, wire and contact carries, and what every terminal stands at."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .branches import Branch, Sort
from .network import NodalNetwork
from .solution import Fault, Solution, Through
from .state import State

LISTED = {"loads": (Sort.LOAD,), "wires": (Sort.WIRE,), "contacts": (Sort.CONTACT, Sort.SSR)}


class Results:
    """Turns states of one network into solutions."""

    def __init__(self, net: NodalNetwork) -> None:
        self._net = net
        named = [b.name for b in net.branches]
        self._listed = {what: _listed(net.branches, sorts, named) for what, sorts in LISTED.items()}
        self._listed["paths"] = _listed(net.branches, LISTED["contacts"], [b.at for b in net.branches])

    def of(self, state: State, tripped: dict[str, float], turned: frozenset[str], fault: Fault) -> Solution:
        """The solution of a state in which these devices have ``tripped``, and these modules cool."""
        islands = self._net.unreached(state.mask, state.live, fault)
        loads = self._through(state, "loads")
        alternating = state.nodes[0] + 1j * state.nodes[1]
        return Solution(
            state.on,
            {n: t for n, t in loads.items() if n not in turned},
            {n: t for n, t in loads.items() if n in turned},
            self._through(state, "wires"),
            self._through(state, "contacts"),
            self._through(state, "paths"),
            dict(zip(self._net.index, alternating.tolist(), strict=True)),
            dict(zip(self._net.index, state.nodes[2].tolist(), strict=True)),
            tripped,
            frozenset(islands),
            state.chatters,
            state.time_s,
            islands,
        )

    def _through(self, state: State, what: str) -> dict[str, Through]:
        """By name, of what conducts: the highest voltage and current of its branches, their power together."""
        names, branch, place = self._listed[what]
        volts, amps, watts = (np.zeros(len(names)) for _ in range(3))
        on = state.mask[branch]
        branch, place = branch[on], place[on]
        np.maximum.at(volts, place, state.volts[branch])
        np.maximum.at(amps, place, state.amps[branch])
        np.add.at(watts, place, state.volts[branch] * state.amps[branch])
        found = zip(volts.tolist(), amps.tolist(), watts.tolist(), strict=True)
        conducting = set(place.tolist())
        return {n: Through(*t) for i, (n, t) in enumerate(zip(names, found, strict=True)) if i in conducting}


def _listed(
    branches: tuple[Branch, ...], sorts: tuple[Sort, ...], called: Sequence[str]
) -> tuple[list[str], NDArray[np.int_], NDArray[np.int_]]:
    """Names of the branches of these sorts as they are ``called``, the branches, and the place of each one's name."""
    found = [i for i, b in enumerate(branches) if b.sort in sorts]
    names = list(dict.fromkeys(called[i] for i in found))
    places = {name: k for k, name in enumerate(names)}
    return names, np.array(found, dtype=int), np.array([places[called[i]] for i in found], dtype=int)
