"""Who gets the credit: changes with a known effect, and without one, among runs that differ anyway."""

import numpy as np
import pytest
from scipy import stats

from rellux.core.tuning.ledger import Changed, RanAs, ledger


def run(at, overshoot, goal=60.0, begins=20.0, **more):
    told = {"settling_s": None, "ripple_c": None, "switchings_per_h": None, **more}
    return RanAs(int(at), f"run {at:g}", float(at), goal, begins, overshoot, **told)


BAND = Changed(10.5, "Tuning accepted", "", (("proportional_band_c", "5", "20"), ("integral_time_s", "100", "600")))
FILTER = Changed(10.6, "Set-up saved", "", (("filter_s", "0", "5"),))
INSULATED = Changed(10.5, "The door was insulated", "")


def test_the_credit_is_the_difference_of_means_with_students_interval():
    before, after = (4.0, 4.4, 4.2), (1.0, 1.4)
    (line,) = ledger(
        [*(run(i, v) for i, v in enumerate(before)), *(run(11 + i, v) for i, v in enumerate(after))], [BAND]
    )
    (credit,) = line.credits
    low, high = stats.ttest_ind(after, before).confidence_interval(1.0 - 0.05 / 4.0)  # Bonferroni, four figures
    assert (credit.figure.value, credit.figure.low, credit.figure.high) == pytest.approx((-3.0, low, high))
    assert line.is_attributable and credit.is_told and credit.is_better and line.says == "It brought less overshoot."


def test_nothing_is_credited_that_chance_could_do():
    """A change without an effect on any of four figures, 400 times: told to have one in no more than about one of twenty."""
    rng, told = np.random.default_rng(3), 0
    for _ in range(400):
        figures = rng.normal(5.0, 1.0, (6, 4))
        runs = [
            run(at, float(f[0]), settling_s=float(f[1]), ripple_c=float(f[2]), switchings_per_h=float(f[3]))
            for at, f in zip((1, 2, 3, 11, 12, 13), figures, strict=True)
        ]
        (line,) = ledger(runs, [INSULATED])
        told += not line.says.startswith("It did nothing")
        assert line.is_attributable and len(line.credits) == 4
    assert 6 <= told <= 32


def test_several_at_once_and_lone_runs_and_other_set_points_are_not_credited():
    runs = [run(1, 4.0), run(2, 4.2), run(11, 1.0), run(12, 1.1)]
    (line,) = ledger(runs, [BAND, FILTER])
    assert not line.is_attributable and "at once" in line.says and len(line.changes) == 2
    (line,) = ledger([run(1, 4.0), run(11, 1.0)], [BAND])
    assert "may be chance" in line.says and line.credits[0].figure.low is None and not line.credits[0].is_told
    for other in ({"goal": 90.0}, {"begins": 50.0}):
        (line,) = ledger([run(1, 4.0, **other), run(11, 1.0)], [BAND])
        assert line.before == () and line.credits == () and "No run before it is like" in line.says
    (line,) = ledger([run(1, 4.0), run(2, 4.1), run(11, 4.05), run(12, 4.1)], [INSULATED])
    assert "nothing that can be told" in line.says


def test_changes_that_no_run_lies_after_or_before_wait():
    assert ledger([run(1, 4.0)], [BAND]) == () and ledger([run(11, 4.0)], [BAND]) == () and ledger([], [BAND]) == ()
    later = Changed(20.0, "Period", "", (("period_s", "20", "10"),))
    newest, oldest = ledger([run(1, 4.0), run(11, 1.0), run(21, 2.0)], [BAND, later])
    assert (newest.changes, oldest.changes) == ((later,), (BAND,)) and [r.key for r in newest.before] == [11]
