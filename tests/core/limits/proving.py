"""Limits of proving: by their value; what they decide is tested in tests/core/proving."""

from functools import partial

from .exempt import NUMERICAL
from .tables import stated

_STATED: dict[str, object] = {
    "proving.bisecting.MOST_CLUES": 12,
    "proving.control_power.DIGIT_C": 1.0,
    "proving.control_power.MAINS": 0.10,
    "proving.control_power.RAIL": 0.05,
    "proving.control_power.THERMOMETER_C": 1.0,
    "proving.control_power.UNPLUGGED_S": 10.0,
    "proving.dead.EARTH_OHM": 0.1,
    "proving.dead.ELECTRONICS_OHM": 100.0,
    "proving.dead.LEADS_OHM": 0.5,
    "proving.first_heat.FIRST_SHARE": 0.3,
    "proving.first_heat.HOT_MAINS": 0.10,
    "proving.first_heat.OHMS": 0.10,
    "proving.first_heat.RCD_S": 0.3,
    "proving.first_heat.SEEN_C": 3.0,
    "proving.first_heat.SEEN_SHARE": 0.5,
    "proving.facts.LEAST_WAY_C": 2.0,
    "proving.first_heat.SETTLED_MIN": 10.0,
    "proving.heat_up.FULL_SHARE": 0.7,
    "heating.switches.JUNCTION_TO_CASE": 0.5,
    "proving.insulation.LARGE_OHM": 0.3e6,
    "proving.insulation.LARGE_W": 3000.0,
    "proving.insulation.LOW_OHM": 0.5e6,
    "proving.insulation.LOW_TEST_V": 250.0,
    "proving.insulation.MAINS_OHM": 1e6,
    "proving.insulation.MAINS_TEST_V": 500.0,
    "proving.judging.LEAST_SHARE": 0.05,
    "proving.judging.LEAST_WHY": 3,
    "proving.judging.LONGEST_WHY": 400,
    "proving.judging.LARGE_OHM": 10_000.0,
    "proving.live_trip.TRIP_SHARE": 0.6,
    "proving.places.APART_V": 1.0,
    "proving.output.COIL": 0.10,
    "proving.output.DRIVE": 0.25,
    "proving.places.OFF_SHARE": 0.1,
    "proving.places.OFF_V": 1.0,
    "proving.plan.DEAD_STAGE": 0,
    "proving.plan.DRY_STAGE": 3,
    "proving.plan.LIVE_STAGE": 5,
    "proving.probe.CABLE_OHM": 2.5,
    "proving.probe.LOOP_OHM": 100.0,
    "proving.probe.ROOM_C": 3.0,
    "proving.probe.SHEATH_OHM": 1e6,
    "proving.standing.MOST_REASONS": 900,
    "proving.standing.MOST_TOLD": 300,
    "proving.standing.NEED_DRY": 4,
    "proving.standing.NEED_LIVE": 6,
    "proving.standing.SAME_SHARE": 0.02,
    "proving.standing.SAME": 0.1,
}
PROVING = {name: partial(stated, name, value) for name, value in _STATED.items()}
PROVING_EXEMPT = {
    **{f"proving.{name}": NUMERICAL for name in ("predicted.HALVINGS", "predicted.LONGEST_S", "scope.CARRIES", "scope.SEED")},
    "proving.first_heat.PAIR": "two ends",
    "proving.judging.SLIPS": "factors between units; each is tried in tests/core/proving",
}  # fmt: skip
