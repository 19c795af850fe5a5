"""A run taken away: Parquet read by two other libraries, CSV by one, both exactly what is stored and made piece by piece."""

import io
import itertools
import tracemalloc

import numpy as np
import pandas
import polars
import pyarrow.parquet
import pytest

from rellux.core.runs.series import Series
from rellux.server.runs import export, store
from tests.server.runs.test_runs import new_run, series

COLUMNS = ["time_s", "setpoint_c", "reading_c", "output", "switch"]


@pytest.fixture
def long_run(rig):
    run, whole = new_run(rig, name="Größe 3"), series(70_000)
    whole.reading_c[::7] = np.nan
    for start in (0, 65_000, 69_000):
        stop = {0: 65_000, 65_000: 69_000}.get(start, 70_000)
        store.append(run, Series(*(c[start:stop] for c in whole.columns)))
    return run


def test_parquet_is_read_back_exactly_by_others(client, long_run):
    url = f"/api/v1/rigs/{long_run.rig.slug}/runs/{long_run.pk}/parquet"
    answer = client.get(url)
    data = b"".join(answer.streaming_content)
    assert answer["Content-Disposition"].endswith('.parquet"')
    kept = store.read(long_run)
    for table in (pandas.read_parquet(io.BytesIO(data)), polars.read_parquet(io.BytesIO(data)).to_pandas()):
        assert list(table.columns) == COLUMNS
        for name, column in zip(COLUMNS, kept.columns, strict=True):
            assert np.array_equal(table[name].to_numpy().astype(float), column, equal_nan=True), name
    schema = pyarrow.parquet.read_schema(io.BytesIO(data))
    assert [schema.field(n).metadata[b"unit"].decode() for n in COLUMNS] == ["s", "°C", "°C", "%", "1"]
    assert schema.metadata[b"run"].decode() == "Größe 3"
    assert schema.metadata[b"started_at"].decode() == long_run.started_at.isoformat()
    stored = sum(len(d) for d in long_run.chunks.values_list("data", flat=True))
    assert len(data) <= 1.5 * stored


def test_parquet_of_what_a_display_shows_costs_few_bytes(rig):
    """At 0.1 ° and a sample a second at most one and a half times what the store may cost, 1.2 bytes a value."""
    n, rng = 40_000, np.random.default_rng(3)
    t = np.arange(n, dtype=float)
    reading = np.round(560 + 20 * np.sin(t / 900) + rng.normal(0, 0.1, n), 1)
    output = np.round(np.clip(40 + rng.normal(0, 3, n), 0, 100), 1)
    run = new_run(rig)
    store.append(run, Series(t, np.full(n, 560.0), reading, output, (rng.uniform(size=n) < 0.4).astype(float)))
    assert sum(map(len, export.parquet_pieces(run))) <= 1.5 * 1.2 * 4 * n


def test_csv_is_read_back_as_precisely_as_it_shows(client, long_run):
    data = b"".join(client.get(f"/api/v1/rigs/{long_run.rig.slug}/runs/{long_run.pk}/csv").streaming_content)
    table, kept = pandas.read_csv(io.BytesIO(data)), store.read(long_run)
    assert len(table) == 70_000
    assert np.allclose(table.iloc[:, 0], kept.time_s, atol=6e-4)
    assert np.allclose(table["reading_c"], kept.reading_c, rtol=1e-5, equal_nan=True)


def test_a_run_without_samples_is_an_empty_table(client, rig):
    run = new_run(rig)
    data = b"".join(client.get(f"/api/v1/rigs/{rig}/runs/{run.pk}/parquet").streaming_content)
    assert pandas.read_parquet(io.BytesIO(data)).shape == (0, 5)


def test_what_is_sent_does_not_pile_up(rig):
    """Five times the run, about the same memory at its highest."""

    def highest(times):
        run = new_run(rig)
        for k in range(times):
            piece = series(store.CHUNK)
            store.append(run, Series(piece.time_s + k * 1e6, *piece.columns[1:]))
        tracemalloc.start()
        for _ in itertools.chain(export.parquet_pieces(run)):
            pass
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        return peak

    highest(1)
    assert highest(5) < 2 * highest(1)


def test_merging_leaves_what_is_full_alone(rig):
    """A minute's merging at the end of a long run touches the chunk that is being filled, and none before it."""
    run, whole = new_run(rig), series(3 * store.CHUNK)
    store.append(run, whole)
    full = list(run.chunks.values_list("pk", flat=True))
    for k in range(4):
        more = series(50, k)
        store.append(run, Series(more.time_s + whole.time_s[-1] + 100.0 * (k + 1), *more.columns[1:]))
    before = store.read(run)
    store.merge(run)
    assert list(run.chunks.values_list("pk", flat=True))[:3] == full and run.chunks.count() == 4
    assert all(np.array_equal(a, b) for a, b in zip(before.columns, store.read(run).columns, strict=True))
    assert [len(p) for p in store.parts(run)] == [store.CHUNK] * 3 + [200]
