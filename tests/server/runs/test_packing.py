"""Columns on disk: back to the very same numbers, and small where a display has few digits."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.runs.series import Points, Series
from rellux.server.runs import store
from rellux.server.runs.models import Track
from rellux.server.runs.packing import pack, unpack
from tests.server.runs.test_runs import new_run

HOUR = 3600
ANY = st.lists(st.floats(width=64) | st.sampled_from([0.0, -0.0, np.nan, np.inf, 1e300, 0.1, 1e-7]), max_size=60)
SHOWN = st.tuples(st.lists(st.integers(-99_999, 99_999), max_size=200), st.integers(0, 6), st.booleans())


def same(a, b):
    """Bit for bit, but for which NaN it is."""
    known = ~np.isnan(b)
    signs = np.array_equal(np.signbit(a[known]), np.signbit(b[known]))
    return a.dtype == b.dtype and np.array_equal(a, b, equal_nan=True) and signs


@given(ANY, st.sampled_from([np.float32, np.float64]))
def test_any_numbers_come_back(values, size):
    with np.errstate(over="ignore"):
        column = np.array(values, dtype=np.float64).astype(size)
    back = unpack(pack({"a": column, "b": column[::-1].copy()}))
    assert same(back["a"], column) and same(back["b"], column[::-1])


@given(SHOWN, st.sampled_from([np.float32, np.float64]))
def test_what_a_display_shows_comes_back(shown, size):
    counts, digits, holes = shown
    column = (np.array(counts, dtype=np.float64) / 10.0**digits).astype(size)
    if holes and len(column):
        column[:: max(1, len(column) // 3)] = np.nan
    assert same(unpack(pack({"a": column}))["a"], column)


def test_columns_of_before_are_still_read():
    """Runs kept by an earlier version: plain Arrow columns, whose fields say nothing."""
    import pyarrow as pa

    sink = pa.BufferOutputStream()
    batch = pa.record_batch(
        [pa.array([0.0, 1.5]), pa.array([20.5, np.nan], pa.float32())], names=["time_s", "reading_c"]
    )
    with pa.ipc.new_stream(sink, batch.schema) as writer:
        writer.write_batch(batch)
    back = unpack(sink.getvalue().to_pybytes())
    assert (
        back["time_s"].tolist() == [0.0, 1.5]
        and back["reading_c"].dtype == np.float32
        and np.isnan(back["reading_c"][1])
    )


def bytes_a_value(held, values):
    kept = held.chunks.values_list("data", "overview")
    return sum(len(d) + len(o) for d, o in kept) / values


def course(n, digits, jitter_s=0.0):
    rng = np.random.default_rng(5)
    t = np.round(np.sort(np.arange(n) + rng.normal(0, jitter_s, n)), 3) if jitter_s else np.arange(n, dtype=float)
    reading = 560 + 20 * np.sin(t / 900) + rng.normal(0, 0.1, n)
    return t, np.round(reading, digits) if digits < 9 else reading, rng


@pytest.mark.parametrize(("digits", "jitter_s", "most"), [(1, 0.0, 1.2), (1, 0.002, 1.2), (9, 0.0, 5.0)])
def test_a_value_costs_few_bytes_overview_included(rig, digits, jitter_s, most):
    """At 0.1 ° and a sample a second at most 1.2 bytes, of numbers with every digit at most 5; the times are not counted as values."""
    n = 12 * HOUR
    t, reading, rng = course(n, digits, jitter_s)
    output = np.clip(40 + rng.normal(0, 3, n), 0, 100)
    output = np.round(output, digits) if digits < 9 else output
    run = new_run(rig)
    store.append(run, Series(t, np.full(n, 560.0), reading, output, (rng.uniform(size=n) < 0.4).astype(float)))
    assert bytes_a_value(run, 4 * n) <= most
    track = Track.objects.create(run=run, device="Logger", channels=[{"source": "load_c"}])
    store.append(track, Points(t, (reading,)))
    assert bytes_a_value(track, n) <= (most if not jitter_s else 2.0)  # its times alone are jittered here


def test_a_track_is_kept_as_a_run_is(rig):
    run = new_run(rig)
    track = Track.objects.create(run=run, device="Logger", channels=[{"source": "load_c"}, {"source": "air_c"}])
    t = np.arange(70_000.0)
    load, air = np.round(t / 7, 1), np.where(t % 5 == 0, np.nan, 21.5)
    for start in range(0, 70_000, 10_000):
        store.append(
            track, Points(t[start : start + 10_000], (load[start : start + 10_000], air[start : start + 10_000]))
        )
    store.merge(track)
    assert track.chunks.count() == 2 and (track.samples, track.length_s) == (70_000, 69_999.0) and run.samples == 0
    back = store.read(track, 100.0, 200.0)
    assert np.array_equal(back.time_s, t[100:201]) and np.allclose(back.values[0], load[100:201], atol=1e-3)
    assert np.isnan(back.values[1]).sum() == 21
    window = store.window(track, 0.0, 1e9, 200)
    assert len(window["time_s"]) <= 200 and window["load_c_high"].max() == pytest.approx(load.max(), abs=1e-3)
