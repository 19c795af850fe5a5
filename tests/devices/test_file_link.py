"""A log that another program is writing: new rows only, whole ones only, at their own times, through truncation and removal."""

import os
import threading
import time

import pytest

from rellux.core.errors import Refused
from rellux.core.logs.guess import guess
from rellux.core.logs.rows import RowReader
from rellux.devices.file_link import FileAddress, FileLink, check_mapping, sample_of
from rellux.devices.modbus_link import LinkDown
from tests.examples import some

HEAD = "time;T (°C);SP;out %\n"


def row(i, end="\n"):
    return f"2026-11-24 08:{i // 60:02d}:{i % 60:02d};{20 + i},5;65;{i % 100}{end}"


@pytest.fixture
def log(tmp_path):
    path = tmp_path / "oven.csv"
    path.write_text(HEAD + "".join(row(i) for i in range(10)), encoding="utf-8")
    return path


def opened(path, interval_s=1.0):
    return FileLink(FileAddress(str(path)), guess(path.read_bytes()).mapping, interval_s)


def heard(link, count, seconds=5.0):
    found, until = [], time.monotonic() + seconds
    while len(found) < count and time.monotonic() < until:
        if values := link.read():
            found.append(values)
    return found


def add(path, text):
    with path.open("a", encoding="utf-8") as file:
        file.write(text)


def test_only_what_is_appended_is_read_and_only_whole_rows(log):
    add(log, "2026-11-24 08:00:10;3")  # half a row, begun before anybody looked
    with opened(log) as link:
        add(log, "0,5;65;10\n" + row(11) + row(12, end=""))
        first = heard(link, 2, 2.0)
        assert [v["reading_c"] for v in first] == [30.5, 31.5] and link.read() is None
        add(log, "\n" + "# door opened\n" + row(13))
        assert [v["output"] for v in heard(link, 2)] == [12.0, 13.0]
        assert first[1]["clock_s"] - first[0]["clock_s"] == 1.0
        with pytest.raises(LinkDown, match="only reads"):
            link.switch_off(1.0)


def test_a_log_that_begins_anew_is_read_from_its_beginning(log):
    with opened(log) as link:
        log.write_text(HEAD + row(20), encoding="utf-8")  # shorter than before
        assert [v["reading_c"] for v in heard(link, 1)] == [40.5]
        new = log.with_name("new.csv")
        new.write_text(HEAD + row(30) + row(31), encoding="utf-8")
        new.replace(log)  # another file by the same name
        assert [v["reading_c"] for v in heard(link, 2)] == [50.5, 51.5]
        log.unlink()
        with pytest.raises(LinkDown, match="is gone"):
            heard(link, 1, 1.0)
    with pytest.raises(LinkDown, match="there is no log"):
        FileLink(FileAddress(str(log)), guess((HEAD + row(1) + row(2)).encode()).mapping, 1.0).__enter__()


def test_a_writer_in_a_hurry_loses_nothing(log):
    def write():
        with log.open("a", encoding="utf-8", buffering=7) as file:  # pieces that end anywhere
            file.write("".join(row(100 + i) for i in range(2000)))

    with opened(log) as link:
        thread = threading.Thread(target=write)
        thread.start()
        found = heard(link, 2000, 20.0)
        thread.join()
    assert [v["reading_c"] for v in found] == [120.5 + i for i in range(2000)]


def test_silence_and_another_form_are_told_apart(log, monkeypatch):
    monkeypatch.setattr("rellux.devices.arriving.SILENT_S", 0.3)
    with opened(log, 0.1) as link:
        with pytest.raises(LinkDown, match="nothing has come"):
            heard(link, 1)
        add(log, "a;b\nc;d\n")
        with pytest.raises(LinkDown, match="2 could not be used"):
            heard(link, 1)


@pytest.mark.parametrize(
    "path", ["", "oven.csv", "/etc/passwd", "/proc/self/environ", "/nowhere/x.csv", "/tmp/\0.csv", "/tmp"]
)
def test_only_logs_can_be_looked_at(path):
    with pytest.raises(Refused) as told:
        sample_of(path)
    assert told.value.problems[0].field == "device"


def test_a_log_that_cannot_be_followed_says_so(tmp_path, log):
    utf16 = tmp_path / "wide.csv"
    utf16.write_text(HEAD + row(1) + row(2) + row(3), encoding="utf-16")
    mapping = guess(utf16.read_bytes()).mapping
    with pytest.raises(Refused, match="UTF-16"):
        check_mapping(sample_of(str(utf16)), mapping)
    if os.getuid():
        log.chmod(0)
        with pytest.raises(Refused, match="cannot be read"):
            sample_of(str(log))


def test_midnight_passes_in_a_log_that_writes_the_time_of_day_only():
    text = "time,temp\n" + "".join(f"23:59:{s},20\n" for s in range(57, 60)) + "00:00:00,20\n00:00:01,20\n"
    reader = RowReader(guess(text.encode()).mapping, 2)
    times = [reader.row(line)["clock_s"] for line in text.splitlines()[1:]]
    assert times == [86_397.0 + i for i in range(5)] and reader.row("time,temp") is None


@pytest.mark.parametrize("count", some([0, 1, 2, 7, 2_000, 20_000], 5))
def test_what_was_missed_is_found_as_by_reading_it_all(tmp_path, count):
    """Against a plain walk over the rows, for moments before, between, at and after them."""
    path = tmp_path / "long.csv"
    rows = [f"{1.7e9 + 2 * i:.0f};{i % 50},5;65;{i % 100}\n" for i in range(count)]
    rows[count // 2 : count // 2] = ["# somebody opened the door\n"] * 3
    path.write_text(HEAD + "1699999998;20,5;65;0\n1699999999;20,5;65;0\n" + "".join(rows), encoding="utf-8")
    with opened(path) as link:
        times = [1.7e9 - 2, 1.7e9 - 1, *(1.7e9 + 2 * i for i in range(count))]
        for after in {
            0.0,
            times[0],
            times[-1],
            times[-1] + 9,
            *(times[k * len(times) // 7] + d for k in range(7) for d in (-1, 0, 1)),
        }:
            found = [v["clock_s"] for v in link.missed(after)]
            assert found == [t for t in times if t > after]


def test_rows_written_later_are_news_and_a_time_of_day_alone_tells_no_day(log, tmp_path):
    with opened(log) as link:
        first = RowReader(guess(log.read_bytes()).mapping, 4).row(row(0))["clock_s"]
        add(log, row(10))
        assert [v["clock_s"] - first for v in link.missed(first + 6.5)] == [7.0, 8.0, 9.0]
        assert [v["clock_s"] - first for v in heard(link, 1)] == [10.0]
    clock = tmp_path / "clock.csv"
    clock.write_text("time,temp\n" + "".join(f"08:00:{i:02d},20\n" for i in range(10)), encoding="utf-8")
    with opened(clock) as link:
        assert list(link.missed(0.0)) == []
