"""What recent runs tell of how far the next one passes its set-point."""

from collections.abc import Iterable

from ..setup.parameters import Sheet

LAST_RUNS, RUNS_LOOKED_AT = 3, 12
"""So many runs with today's settings are used, out of so many of the newest (our choice)."""
SAME_SETPOINT = 0.02
"""Runs at a set-point so much like today's, as a share of it, tell of today's overshoot."""
DIGIT_C = 0.1
"""A peak so near to where a cooler comes on may have been one."""
SAME = (
    "mode",
    "hysteresis_c",
    "hysteresis_school",
    "proportional_band_c",
    "integral_time_s",
    "derivative_time_s",
    "output_high",
)
"""What must be as today for a run to tell of today's overshoot."""
SAME_IF_KNOWN = ("anti_windup", "integrates_within_c", "setpoint_weight", "soft_start_s", "output_low")
"""As much, where the sheet of the run says anything of it."""


def seen_overshoots(today: Sheet, runs: Iterable[tuple[Sheet, float]]) -> tuple[float, ...]:
    """How far the last runs with today's settings and about today's set-point passed it, °C. ``runs``, newest first: each with its sheet
    and its highest reading, °C.

    >>> today = {"setpoint_c": 100.0, **dict.fromkeys(SAME, 1.0)}
    >>> seen_overshoots(today, [(today, 104.0), ({**today, "mode": 2.0}, 120.0), ({**today, "setpoint_c": 101.0}, 102.5)])
    (4.0, 1.5)
    >>> today["anti_windup"] = "stops"
    >>> seen_overshoots(today, [({**today, "anti_windup": how}, 104.0 + i) for i, how in enumerate(["stops", "limits"])])
    (4.0,)
    >>> seen_overshoots(today, [({n: v for n, v in today.items() if n != "anti_windup"}, 104.0)])
    (4.0,)
    >>> seen_overshoots({**today, "cool_above_c": 4.0}, [(today, 103.0), (today, 104.0)])
    (3.0,)
    """
    setpoint_c = float(today["setpoint_c"])
    found = []
    for sheet, peak_c in runs:
        asked = sheet.get("setpoint_c")
        if not isinstance(asked, int | float) or abs(asked - setpoint_c) > SAME_SETPOINT * abs(setpoint_c):
            continue
        above = today.get("cool_above_c")
        if isinstance(above, int | float) and peak_c - asked >= above - DIGIT_C:
            continue  # its cooler came on: what it would have done without nobody knows
        same = all(sheet.get(name) == today[name] for name in SAME)
        if same and all(sheet.get(n, today.get(n)) == today.get(n) for n in SAME_IF_KNOWN) and peak_c >= asked:
            found.append(round(peak_c - asked, 1))
    return tuple(found[:LAST_RUNS])
