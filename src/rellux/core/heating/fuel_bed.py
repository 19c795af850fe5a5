"""A bed of fuel with a fan: it goes on heating after the fan stopped, and must not go out while it waits.

After off its release decays, ``Q(t) = Q_i + (Q_0 − Q_i) e^(−t/τ_b)`` (Q_i: what a leaking door feeds), into one capacity that loses
``G (T − T_a)``: linear, solved exactly.
"""

from math import exp, inf, log

import scipy

from ..errors import refuse

SAME_S = 1e-6
"""Two time constants nearer than this, as a share, are taken so far apart."""
STANDARD_HPA, LAPSE, POWER = 1013.25, 2.25577e-5, 5.25588
"""The standard atmosphere (ISO 2533): pressure over height below 11 km."""
ANTOINE = (8.07131, 1730.63, 233.426)
"""log10 of the vapour pressure of water in mmHg over °C, 1…100 °C (from memory of the handbooks)."""
MMHG_HPA = 1.33322


def temperature_after(
    start_c: float,
    t_s: float,
    full_w: float,
    idle_w: float,
    bed_s: float,
    heat_j_per_k: float,
    loss_w_per_k: float,
    ambient_c: float,
) -> float:
    """Temperature in °C ``t_s`` after the fan stopped at ``start_c``."""
    lag = heat_j_per_k / loss_w_per_k
    bed = bed_s if abs(bed_s - lag) > SAME_S * lag else lag * (1.0 + SAME_S)
    rest = ambient_c + idle_w / loss_w_per_k
    from_bed = (full_w - idle_w) / loss_w_per_k / (1.0 - lag / bed)
    return rest + from_bed * exp(-t_s / bed) + (start_c - rest - from_bed) * exp(-t_s / lag)


def turns_s(
    start_c: float,
    full_w: float,
    idle_w: float,
    bed_s: float,
    heat_j_per_k: float,
    loss_w_per_k: float,
    ambient_c: float,
) -> float:
    """When after off the temperature stops rising, s: 0 where it falls at once, infinite where it never does."""
    lag = heat_j_per_k / loss_w_per_k
    rest = ambient_c + idle_w / loss_w_per_k
    if full_w <= loss_w_per_k * (start_c - ambient_c):
        return 0.0
    bed = bed_s if abs(bed_s - lag) > SAME_S * lag else lag * (1.0 + SAME_S)
    a = (full_w - idle_w) / loss_w_per_k / (1.0 - lag / bed)
    b = start_c - rest - a
    ratio = -(a / bed) / (b / lag)
    when = log(ratio) / (1.0 / bed - 1.0 / lag) if ratio > 0 else -1.0
    return when if when > 0 else inf


def peak_after(
    start_c: float,
    full_w: float,
    idle_w: float,
    bed_s: float,
    heat_j_per_k: float,
    loss_w_per_k: float,
    ambient_c: float,
) -> float:
    """The hottest it gets after the fan stopped at ``start_c``, °C."""
    bed = (full_w, idle_w, bed_s, heat_j_per_k, loss_w_per_k, ambient_c)
    when = turns_s(start_c, *bed)
    return ambient_c + idle_w / loss_w_per_k if when == inf else temperature_after(start_c, when, *bed)


def latest_off(
    most_c: float,
    full_w: float,
    idle_w: float,
    bed_s: float,
    heat_j_per_k: float,
    loss_w_per_k: float,
    ambient_c: float,
) -> float:
    """The hottest at which the fan may stop so that ``most_c`` is not passed, °C. Raises ``Refused`` where the bed alone passes it."""
    bed = (full_w, idle_w, bed_s, heat_j_per_k, loss_w_per_k, ambient_c)
    if ambient_c + idle_w / loss_w_per_k >= most_c or peak_after(ambient_c, *bed) >= most_c:
        raise refuse(
            "idle_w",
            "the bed alone brings it past what is allowed: no set-point cures it",
            "a tighter door, or more loss",
        )
    if peak_after(most_c, *bed) <= most_c:
        return most_c  # it loses more there than it is given: it falls at once
    return float(scipy.optimize.brentq(lambda start: peak_after(start, *bed) - most_c, ambient_c, most_c))


def boiling_c(height_m: float) -> float:
    """Where water boils in an open vessel at a height above the sea, °C, in the standard atmosphere.

    >>> round(boiling_c(0.0), 1), round(boiling_c(1609.0), 1), round(boiling_c(2500.0), 1)
    (100.0, 94.7, 91.7)
    """
    hpa = STANDARD_HPA * (1.0 - LAPSE * height_m) ** POWER
    a, b, c = ANTOINE
    return b / (a - log(hpa / MMHG_HPA) / log(10.0)) - c
