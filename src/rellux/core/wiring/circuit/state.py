"""The network between two events: what the pieces of the solver hand to each other."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .network import Nodes


class State(NamedTuple):
    """What is on, which branches conduct and how well (S), volts across and amperes through each, volts at the nodes, which
    sources give, when this was in s, what never comes to rest, and the states it then goes through."""

    on: frozenset[str]
    mask: NDArray[np.bool_]
    conductance: NDArray[np.float64]
    volts: NDArray[np.float64]
    amps: NDArray[np.float64]
    nodes: Nodes
    live: tuple[bool, ...]
    time_s: float = 0.0
    chatters: frozenset[str] = frozenset()
    between: "tuple[State, ...]" = ()
