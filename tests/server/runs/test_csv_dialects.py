"""Logs written in every dialect loggers use: guessed and read back as they were meant."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.logs.guess import guess
from rellux.core.logs.mapping import Mapping
from rellux.core.logs.text import decode
from rellux.server.runs.csv_read import read_csv

STARTS = datetime(2026, 11, 14, 8, 0, tzinfo=UTC)
TIMES = {
    "seconds": lambda s: f"{s:g}",
    "iso": lambda s: (STARTS + timedelta(seconds=s)).strftime("%Y-%m-%d %H:%M:%S"),
    "dmy": lambda s: (STARTS + timedelta(seconds=s)).strftime("%d.%m.%Y %H:%M:%S"),
    "mdy": lambda s: (STARTS + timedelta(seconds=s)).strftime("%m/%d/%Y %H:%M:%S"),
    "clock": lambda s: (STARTS + timedelta(seconds=s)).strftime("%H:%M:%S"),
}


@st.composite
def logs(draw):
    """(text as bytes, what it means)."""
    form = draw(st.sampled_from(list(TIMES)))
    delimiter = draw(st.sampled_from([";", "\t", "|"] if form == "clock" else [",", ";", "\t", "|"]))
    decimal = "." if delimiter == "," else draw(st.sampled_from([".", ","]))
    fahrenheit = draw(st.booleans())
    readings = draw(st.lists(st.integers(150, 9000).map(lambda n: n / 10), min_size=8, max_size=40))
    step = draw(st.sampled_from([1, 2, 5, 30]))
    newline = draw(st.sampled_from(["\n", "\r\n"]))
    encoding = draw(st.sampled_from(["utf-8", "utf-8-sig", "latin-1"]))
    unit = "°F" if fahrenheit else "°C"
    rows = [delimiter.join(("Time", f"Oven temp {unit}", "SP", "Output %"))]
    for i, reading in enumerate(readings):
        cells = (TIMES[form](i * step), f"{reading:.1f}", "200.0", f"{i % 100}.5")
        rows.append(delimiter.join((cells[0], *(c.replace(".", decimal) for c in cells[1:]))))
    return (newline.join(rows) + newline).encode(encoding), (form, delimiter, decimal, fahrenheit, readings, step)


@settings(max_examples=80)
@given(logs())
def test_a_log_is_understood_without_help(tmp_path_factory, log):
    data, (form, delimiter, decimal, fahrenheit, readings, step) = log
    found = guess(data)
    assert (found.delimiter, found.decimal, found.header) == (delimiter, decimal, True)
    assert found.unit == ("F" if fahrenheit else "C")
    if form in ("dmy", "mdy"):
        assert found.time_format in ("dmy", "mdy")  # 11/12 could be either; a day above 12 decides
    else:
        assert found.time_format == form
    assert [c.role for c in found.columns] == ["time", "reading", "setpoint", "output"]

    path = tmp_path_factory.mktemp("log") / "log.csv"
    path.write_bytes(data)
    columns = {c.role: i for i, c in enumerate(found.columns)}
    got = read_csv(path, Mapping(delimiter, decimal, True, form, found.unit, columns))
    meant = np.array(readings)
    assert got.series.reading_c == pytest.approx((meant - 32) / 1.8 if fahrenheit else meant)
    assert got.series.time_s == pytest.approx(np.arange(len(readings)) * step)
    assert got.series.output[3] == 3.5
    assert (got.started_at == STARTS) == (form in ("iso", "dmy", "mdy"))


def test_a_day_above_twelve_tells_american_dates():
    rows = "when,pv\n" + "".join(f"11/{d}/2026 08:00:00,21\n" for d in (14, 15, 16))
    assert guess(rows.encode()).time_format == "mdy"
    assert guess(rows.replace("/", ".").replace("11.1", "1.1").encode()).time_format == "mdy"
    assert guess(b"when,pv\n03.04.2026 08:00:00,21\n03.04.2026 08:00:01,21\n").time_format == "dmy"


def test_no_heading_gives_numbered_columns():
    found = guess(b"0,21.5,100\n2,21.7,100\n4,22.0,100\n")
    assert not found.header and [c.name for c in found.columns] == ["column 1", "column 2", "column 3"]
    assert [c.role for c in found.columns][:2] == ["time", "reading"]


@pytest.mark.parametrize("data", [b"", b"one line only\n", b"a\nb\nc\n"])
def test_what_is_no_table_is_refused(data):
    with pytest.raises(Refused) as refused:
        guess(data)
    assert refused.value.problems[0].field == "file"


@given(st.binary(min_size=200, max_size=2000))
@settings(max_examples=80)
def test_arbitrary_bytes_never_crash_the_guess(data):
    try:
        guess(data)
    except Refused as refused:
        assert refused.problems[0].reason


def test_a_sample_cut_inside_a_character_is_still_text():
    text = ("t;°C\n" * 50).encode()
    assert decode(text[:7]).startswith("t;")


def test_milliseconds_and_seconds_since_1970_give_the_start(tmp_path):
    for factor in (1, 1000):
        path = tmp_path / f"{factor}.csv"
        path.write_text("t,pv\n" + "".join(f"{(1794556800 + i) * factor},21\n" for i in range(5)))
        got = read_csv(path, Mapping(",", ".", True, "seconds", "C", {"time": 0, "reading": 1}))
        assert got.started_at == datetime.fromtimestamp(1794556800, UTC) and got.series.time_s[-1] == 4
