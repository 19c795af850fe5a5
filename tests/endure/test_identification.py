"""A thousand logs of every kind of noise: by hand, ``./rellux endure``."""

from concurrent.futures import ProcessPoolExecutor

import numpy as np
import pytest

from rellux.core.tuning.identify import identify
from tests.core.tuning import test_predicted
from tests.core.tuning.recorded import KINDS, Tally, tally

LOGS, CHUNK = 1000, 25


def _some(kind: str, first: int) -> Tally:
    return tally(kind, range(first, first + CHUNK), identify)


@pytest.mark.parametrize("kind", KINDS)
def test_intervals_hold_what_they_say(kind):
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_some, [kind] * (LOGS // CHUNK), range(1000, 1000 + LOGS, CHUNK)))
    held = np.concatenate([f.held for f in found]).mean(axis=0)
    wider = np.median(np.concatenate([f.wider for f in found]), axis=0)
    called = np.concatenate([f.called for f in found]).mean()
    print(kind, "held", held.round(3), "wider", wider.round(2), "called", called.round(3))
    assert (held >= 0.93).all()
    assert (wider <= 1.5).all(), wider
    assert called >= 0.8


@pytest.mark.parametrize("kind", test_predicted.KINDS)
def test_predictions_hold_on_rigs_of_another_kind(kind):
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(test_predicted.judged, [kind] * 5, [8] * 5, range(100, 150, 10)))
    inside, over = np.concatenate([i for i, _ in found]), np.concatenate([o for _, o in found])
    print(kind, len(inside), "inside", inside.mean().round(3), "Ms over what is stated", over.max().round(2))
    assert 0.92 <= inside.mean() <= 0.99 and over.max() <= 0.3
