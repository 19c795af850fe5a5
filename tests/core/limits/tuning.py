"""Limits of choosing settings: by their value; what they decide is tested in tests/core/tuning."""

from functools import partial

from .exempt import NUMERICAL
from .tables import stated

_STATED: dict[str, object] = {
    "candidates.BAND_C": 1.0,
    "candidates.OF_SWING": 0.75,
    "candidates.SETTLED_FROM": 0.58,
    "choosing.CALM_MS": 1.6,
    "choosing.DIGITS": 2.0,
    "choosing.FEWER": 1.2,
    "choosing.OF_RISE": 0.01,
    "choosing.ROBUST_MS": 2.0,
    "choosing.SOONER": 0.9,
    "comparison.TOLD_SHORT": 0.02,
    "hand.BAND_C": (0.1, 2000.0),
    "hand.DERIVATIVE_S": (0.0, 7200.0),
    "hand.HYSTERESIS_C": (0.0, 100.0),
    "hand.INTEGRAL_S": (1.0, 36_000.0),
    "optimised.LONGEST_DERIVATIVE": 0.25,
    "optimised.MOST_MS": 1.6,
    "relay.before.CLEAR_C": 1.0,
    "relay.describing.AGREES": 0.03,
    "relay.experiment.ALIKE": 0.1,
    "relay.experiment.DEADS_WITHOUT_ANSWER": 4.0,
    "relay.experiment.DIGITS": 2.0,
    "relay.experiment.LEAST_STEP": 5.0,
    "relay.experiment.NOISES": 4.0,
    "relay.experiment.OWN_HYSTERESIS_C": 1.0,
    "relay.experiment.TIMES_AS_LONG": 3.0,
    "relay.recorded.LEAST_CYCLES": 2,
    "rules.book.CALM": 2.0,
    "rules.book.LEAST_LOOKS": 3.0,
    "rules.book.ORDINARY": (0.1, 1.0),
    "rules.capping.LARGEST_STEP": 5.0,
    "situation.REACHES": 0.98,
    "trials.AFTERWARDS": 0.4,
    "trials.COLD_LOAD": 0.1,
    "trials.COLD_LOAD_LAG": 0.1,
    "trials.DEADS": 4.0,
    "trials.DOOR_LOSS": 2.0,
    "trials.DOOR_S": 60.0,
    "trials.GENTLE": 0.5,
    "trials.HEATS_UP": 0.6,
    "trials.LAGS": 5.0,
    "trials.LEAST_MOVED_C": 2.0,
    "trials.LONGEST_S": 172_800.0,
    "trials.LOW_MAINS": 0.9,
    "trials.MOVED": 0.1,
    "trials.OF_WHAT_IS_LEFT": 0.5,
    "trials.SHORTEST_S": 1200.0,
    "truths.ELEMENT": (0.01, 0.05),
    "truths.FIRST_LAG": (0.1, 0.9),
    "truths.JUDGES": 19,
    "truths.LOADS": (0.05, 0.3),
    "truths.LOAD_IS": (0.5, 1.5),
    "truths.LOAD_LAG": (0.05, 0.3),
    "truths.MAINS": (0.9, 1.1),
    "truths.PURE_DELAY": (0.35, 0.9),
    "truths.RADIATES": (0.0, 0.35),
    "truths.WALLS": (0.0, 0.25),
    "truths.WALL_LINK": (0.3, 1.5),
}
TUNING = {f"tuning.{name}": partial(stated, f"tuning.{name}", value) for name, value in _STATED.items()}
_SEARCH = (
    "ABOVE",
    "A_DECADE",
    "BELOW",
    "CLOSE",
    "HELD",
    "LASTS",
    "LOAD",
    "LOOKS",
    "MOST_STEPS",
    "PENALTY",
    "RISE_C",
    "STEPS_A_DEAD_TIME",
)
TUNING_EXEMPT = {
    **{f"tuning.optimised.{name}": NUMERICAL for name in _SEARCH},
    **{
        f"tuning.{name}": NUMERICAL
        for name in ("rules.limit.A_DECADE", "rules.limit.DECADES", "trials.ROWS", "trials.STEPS_A_PERIOD")
    },
    **{f"tuning.truths.{name}": NUMERICAL for name in ("LEAST_LAG", "MOST_DRAWN")},
    **{
        f"tuning.relay.experiment.{name}": NUMERICAL
        for name in ("DISCARDED", "DRAWN", "LONGEST_DEADS", "LONGEST_LAGS", "MOST_CYCLES", "STEPS")
    },
    "tuning.relay.before.LOWERINGS": NUMERICAL,
    "tuning.relay.experiment.TENTH": "a digit of the set-point",
    "tuning.relay.recorded.HALF_STEP": "half of 100 %",
    "tuning.comparison.HOUR_S": "seconds of an hour",
    "tuning.rules.book.ANY": "no limit",
    "tuning.rules.book.RULES": "each rule is held against its authors in tests/core/tuning/test_rules",
}
