"""What a breaker lets through in a short circuit, what a conductor stands of it, and what the fault loop may have (IEC 60364)."""

from math import log, sqrt

from ..messages import quantity
from .run_of_wire import Insulation, Run

AT_ONCE = {"B": 5.0, "C": 10.0, "D": 20.0}
"""Multiples of its rating at which a breaker of each curve surely opens at once (IEC 60898)."""
ENDS_AT_C = {Insulation.PVC: (70.0, 160.0), Insulation.XLPE: (90.0, 250.0), Insulation.SILICONE: (180.0, 350.0)}
"""Conductor temperature in °C before and after a short circuit, copper: IEC 60364-5-54 annex A and BS 7671 table 43.1, from
memory. PTFE and glass are taken as silicone: their joints and terminals decide (our choice)."""
LET_THROUGH_A2S = {"B": ((16.0, 35_000.0), (32.0, 45_000.0)), "C": ((16.0, 42_000.0), (32.0, 55_000.0))}
"""Most a 6 kA breaker of energy class 3 lets through in A²s, up to each rating: EN 60898-1 annex ZA, from memory."""
OPENS_WITHIN_S = 0.1
"""A breaker that opens at once does so within this (IEC 60898-1)."""


def fault_loop(to_earth_v: float, breaker_a: float, curve: str = "B") -> float:
    """Largest earth-fault loop impedance in Ω with which a breaker opens at once: ``Z_s = U₀/(k I_n)`` (IEC 60364-4-41).

    >>> round(fault_loop(230, 16), 3)
    2.875
    """
    return to_earth_v / (AT_ONCE[curve] * breaker_a)


def adiabatic_k(insulation: Insulation) -> float:
    """k of copper in A√s/mm²: ``226 √ln(1 + (θ_f − θ_i)/(234.5 + θ_i))`` (IEC 60364-5-54 annex A).

    >>> round(adiabatic_k(Insulation.PVC)), round(adiabatic_k(Insulation.XLPE))
    (115, 143)
    """
    before, after = ENDS_AT_C.get(insulation, ENDS_AT_C[Insulation.SILICONE])
    return 226.0 * sqrt(log(1.0 + (after - before) / (234.5 + before)))


def withstands(area_mm2: float, insulation: Insulation) -> float:
    """Let-through in A²s a conductor stands in a short circuit: ``k² S²`` (IEC 60364-4-43)."""
    return (adiabatic_k(insulation) * area_mm2) ** 2


def let_through(breaker_a: float, curve: str, fault_a: float | None) -> float | None:
    """Most that a breaker lets through in a short circuit, A²s: that of its energy class, or what ``fault_a`` brings in the time
    within which it opens; None where neither is known (its maker's curve says).

    >>> let_through(16, "B", None), let_through(40, "B", 500), let_through(40, "B", None)
    (35000.0, 25000.0, None)
    """
    bounds = [most for rating, most in LET_THROUGH_A2S.get(curve, ()) if breaker_a <= rating][:1]
    if fault_a is not None:
        bounds.append(fault_a**2 * OPENS_WITHIN_S)
    return min(bounds) if bounds else None


def short_circuit_fault(run: Run, area_mm2: float, ohm_per_m: float) -> str | None:
    """Why the breaker a run hangs behind does not protect a conductor in a short circuit, None where it does or there is none.

    Judged at the near end by energy, and at the far end, where the conductor's own resistance limits the current, by whether the
    breaker still opens at once.
    """
    behind = run.behind
    if behind is None:
        return None
    breaker, at_once = quantity(behind.breaker_a, "A"), AT_ONCE[behind.curve] * behind.breaker_a
    through = let_through(behind.breaker_a, behind.curve, behind.fault_a)
    if through is None:
        return f"what a {breaker} breaker lets through is not known here: its maker's curve, or the short-circuit current, tells"
    if behind.fault_a is not None:
        volts = run.voltage_v / sqrt(3.0) if run.cores == 3 else run.voltage_v
        far = volts / (volts / behind.fault_a + 2.0 * run.length_m * ohm_per_m)
        if far < at_once:
            needs = quantity(at_once, "A", ".0f")
            return f"a short circuit at its far end is {quantity(far, 'A', '.0f')}, and the {breaker} breaker opens at once from {needs}"
    stands = withstands(area_mm2, run.insulation)
    if through > stands:
        return (
            f"a {breaker} breaker may let {quantity(through, 'A²s', '.0f')} through in a short circuit and it stands "
            f"{quantity(stands, 'A²s', '.0f')}"
        )
    return None
