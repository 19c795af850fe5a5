"""What it costs to weigh every cause of an error, and to draw the lines of a workshop's sensors."""

import numpy as np
from benchmarks.measure import report, timed

from rellux.core.calibration.causes import Seen, ranked_causes, suspects
from rellux.core.calibration.trend import lines
from rellux.core.sensing.inverse import invert_array
from rellux.core.sensing.thermocouples import emf

RANKING_AT_MOST, FLEET_AT_LEAST = 20.0, 50.0
PAIRS, SENSORS, COMPARED = 20, 500, 40


def ranking() -> None:
    """All causes over twenty pairs, against one inversion of the same voltages for each of them."""
    true = np.linspace(60.0, 900.0, PAIRS)
    seen = Seen(true + 9.0, true, 0.3, 0.0, 20.0, 1000.0)
    volts, causes = emf("K", true), len(list(suspects("K", seen)))

    def bare() -> None:
        for _ in range(causes):
            invert_array("K", volts)

    ranked_causes("K", seen), bare()
    took = min(timed(lambda: ranked_causes("K", seen)) for _ in range(5))
    against = min(timed(bare) for _ in range(20))
    report(
        f"{causes} causes over {PAIRS} pairs against inverting them", took / against, RANKING_AT_MOST, at_least=False
    )
    print(f"     weighed in {took * 1000:.0f} ms")


def fleet() -> None:
    """Lines of five hundred sensors compared each quarter for ten years, against the same sums in plain Python."""
    random = np.random.default_rng(1)
    day = np.sort(random.uniform(0, 3650, (SENSORS, COMPARED)), axis=1)
    error, u = random.normal(0, 0.3, day.shape), random.uniform(0.1, 0.4, day.shape)
    plain_day, plain_error, plain_u = day.tolist(), error.tolist(), u.tolist()

    def plain() -> None:
        for days, errors, us in zip(plain_day, plain_error, plain_u, strict=True):
            w = [1 / v**2 for v in us]
            total = sum(w)
            mid = sum(a * d for a, d in zip(w, days, strict=True)) / total
            level = sum(a * e for a, e in zip(w, errors, strict=True)) / total
            xx = sum(a * (d - mid) ** 2 for a, d in zip(w, days, strict=True))
            slope = sum(a * (d - mid) * e for a, d, e in zip(w, days, errors, strict=True)) / xx
            sum(a * (e - level - slope * (d - mid)) ** 2 for a, d, e in zip(w, days, errors, strict=True))

    lines(day, error, u), plain()
    ratio = min(timed(plain) for _ in range(3)) / min(timed(lambda: lines(day, error, u)) for _ in range(30))
    report(f"lines of {SENSORS} sensors against plain Python", ratio, FLEET_AT_LEAST, at_least=True)
