"""A thermo-electric module between a cold side and a heat sink, from the four numbers of its sheet.

``Q_c = S T_c I − ½ I² R − K (T_h − T_c)``, ``P = S (T_h − T_c) I + I² R``, ``Q_h = Q_c + P``, temperatures in kelvin. From the
sheet, at its hot side T_h: ``S = V_max / T_h``, ``R = V_max (T_h − ΔT_max) / (I_max T_h)`` and
``K = V_max I_max (T_h − ΔT_max) / (2 T_h ΔT_max)``: first principles, with S, R and K taken as constant.
"""

from dataclasses import dataclass

import numpy as np
import scipy

from ..errors import Problem, refuse_all
from ..units import ABSOLUTE_ZERO_C

MELTS_C = 138.0
"""The solder of usual modules melts, °C (bismuth and tin; from memory): hotter, it has run away."""


@dataclass(frozen=True)
class Module:
    """Modules side by side as one: ``seebeck`` V/K, ``ohm`` Ω, ``conductance`` W/K, ``most_a`` the sheet's most current."""

    seebeck: float
    ohm: float
    conductance: float
    most_a: float


@dataclass(frozen=True)
class Working:
    """At one current: what it takes from the cold side and from the supply, W, and how hot its hot side gets, °C."""

    pumped_w: float
    power_w: float
    hot_c: float


def module_of(most_v: float, most_a: float, most_difference_c: float, hot_c: float, count: int = 1) -> Module:
    """From a sheet; ``count`` of them, electrically one behind the other. Raises ``Refused`` for a sheet that cannot be."""
    hot = hot_c - ABSOLUTE_ZERO_C
    problems = []
    if not 0 < most_difference_c < hot:
        problems.append(
            Problem(
                "difference_c", "no module makes such a difference", "less than its hot side is above absolute zero"
            )
        )
    refuse_all(problems)
    cold = hot - most_difference_c
    seebeck, ohm = most_v / hot, most_v * cold / (most_a * hot)
    conductance = most_v * most_a * cold / (2.0 * hot * most_difference_c)
    return Module(count * seebeck, count * ohm, count * conductance, most_a)


def works(module: Module, amps: float, cold_c: float, ambient_c: float, sink_kw: float) -> Working | None:
    """With its cold side held at ``cold_c`` and its hot side on a heat sink of ``sink_kw`` K/W in a room at ``ambient_c``.

    ``None`` where the sink cannot carry off what it makes: it runs away."""
    cold, room = cold_c - ABSOLUTE_ZERO_C, ambient_c - ABSOLUTE_ZERO_C
    s, r, k = module.seebeck, module.ohm, module.conductance
    stable = 1.0 - sink_kw * s * amps + sink_kw * k
    if stable <= 0:
        return None
    hot = (room + sink_kw * (0.5 * amps**2 * r + k * cold)) / stable
    pumped = s * cold * amps - 0.5 * amps**2 * r - k * (hot - cold)
    return Working(pumped, s * (hot - cold) * amps + amps**2 * r, hot + ABSOLUTE_ZERO_C)


def best_current(module: Module, cold_c: float, ambient_c: float, sink_kw: float) -> float:
    """The current in A that pumps most at this cold side; more of it *warms*. Never above the sheet's most."""
    found = scipy.optimize.minimize_scalar(
        lambda amps: -_pumped(module, float(amps), cold_c, ambient_c, sink_kw),
        bounds=(0.0, module.most_a),
        method="bounded",
        options={"xatol": 1e-6},
    )
    return float(found.x)


def _pumped(module: Module, amps: float, cold_c: float, ambient_c: float, sink_kw: float) -> float:
    found = works(module, amps, cold_c, ambient_c, sink_kw)
    return found.pumped_w if found else -1e9


def settles(
    module: Module, amps: float, ambient_c: float, sink_kw: float, leak_w_per_k: float, load_w: float = 0.0
) -> float | None:
    """Where the cold side comes to rest, °C, with ``leak_w_per_k`` from the room and ``load_w`` of its own. ``None`` where it runs away, or
    its hot side melts.

    Both sides are linear in both temperatures at a given current: solved at once.
    """
    s, r, k, room = module.seebeck, module.ohm, module.conductance, ambient_c - ABSOLUTE_ZERO_C
    joule = 0.5 * amps**2 * r
    # cold: s I Tc − joule − k (Th − Tc) = leak (room − Tc) + load; hot: (Th − room)/sink = s I Th + joule − k (Th − Tc)
    cold_row = (s * amps + k + leak_w_per_k, -k)
    hot_row = (-k, 1.0 / sink_kw - s * amps + k)
    if 1.0 / sink_kw - s * amps + k <= 0 or cold_row[0] * hot_row[1] - cold_row[1] * hot_row[0] <= 0:
        return None
    taken = np.array([leak_w_per_k * room + load_w + joule, room / sink_kw + joule])
    cold, hot = np.linalg.solve(np.array([cold_row, hot_row]), taken) + ABSOLUTE_ZERO_C
    return float(cold) if hot < MELTS_C else None
