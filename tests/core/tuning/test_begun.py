"""What a stretch began from: told with intervals that hold the truth, in logs simulated by the closed form of one lag."""

import numpy as np
import pytest

from rellux.core.tuning.identify import identify
from rellux.core.tuning.stretch import Stretch

from ...examples import cases


def begun_warm(rng) -> tuple[Stretch, dict[str, float]]:
    """A log that begins in the middle of something: an output nobody knows was on its way, then another for a while, then none."""
    gain, lag, dead = rng.uniform(0.8, 3.0), rng.uniform(200.0, 900.0), rng.uniform(20.0, 80.0)
    room, before, first = rng.uniform(15.0, 25.0), rng.uniform(0.0, 100.0), rng.uniform(60.0, 120.0)
    t = np.arange(0.0, 5.0 * lag, lag / 120.0)
    given = np.where(t < 2.5 * lag, rng.uniform(40.0, 100.0), 0.0)
    y = np.empty(len(t))
    y[0] = first
    for i in range(1, len(t)):
        late = t[i] - dead
        u = before if late < 0.0 else given[np.searchsorted(t, late, side="right") - 1]
        y[i] = room + gain * u + (y[i - 1] - room - gain * u) * np.exp(-(t[i] - t[i - 1]) / lag)
    reading = y + rng.normal(0.0, 0.1, len(t))
    return Stretch(t, reading, given, 20.0), {"y₀": first, "T_a": room, "u₋": before}


@pytest.mark.slow
def test_the_truth_lies_within_and_what_is_known_is_not_asked():
    rng = np.random.default_rng(3)
    held: dict[str, list[bool]] = {"y₀": [], "T_a": [], "u₋": []}
    for _ in range(cases(6)):
        stretch, truth = begun_warm(rng)
        for f in identify(stretch).fitted[0].begun:
            held[f.symbol].append(f.low <= truth[f.symbol] <= f.high)
    assert all(len(v) == cases(6) for v in held.values())
    shares = {symbol: np.mean(v) for symbol, v in held.items()}
    assert min(shares.values()) >= 0.8, shares
    known = Stretch(stretch.time_s, stretch.reading_c, stretch.output, 20.0, output_before=truth["u₋"])
    assert [f.symbol for f in identify(known).fitted[0].begun] == ["y₀", "T_a"]
