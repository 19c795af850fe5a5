"""Logs as they really come: read as they were meant, or asked about, never silently wrong."""

from datetime import datetime, timedelta

import numpy as np
import pytest

from rellux.core.errors import Refused
from rellux.core.logs.guess import guess
from rellux.server.runs.csv_read import read_csv

ROWS = 30
STARTS = datetime(2026, 11, 14, 8, 0)


def stamps(form):
    return [(STARTS + timedelta(seconds=10 * i)).strftime(form) for i in range(ROWS)]


def lines(head, *columns, by=","):
    """A log of a heading and columns of ``ROWS`` cells each (or a function of the row)."""
    cells = [[c(i) if callable(c) else c[i] for i in range(ROWS)] for c in columns]
    return "\n".join([head, *(by.join(map(str, row)) for row in zip(*cells, strict=True))]) + "\n"


def seconds(i):
    return i * 10


def warm(i):
    return f"{20 + i * 0.5:.1f}"


WARM = 20 + np.arange(ROWS) * 0.5
TIME_S = np.arange(ROWS) * 10.0


def taken(tmp_path, text, **corrected):
    """The log as it is read with what was guessed, and the guess."""
    path = tmp_path / "log.csv"
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    found = guess(path.read_bytes()[:65_536])
    mapping = found.mapping
    mapping = type(mapping)(**{**mapping.__dict__, **corrected})
    return read_csv(path, mapping), found


def is_meant(got, reading=WARM, time_s=TIME_S):
    assert got.series.time_s == pytest.approx(time_s, abs=1e-3) and got.series.reading_c == pytest.approx(reading)


def roles_of(found):
    return {c.name: c.role for c in found.columns if c.role}


@pytest.mark.parametrize("by", ["\t", " ", "   ", ";", "|"])
def test_whatever_divides_the_columns(tmp_path, by):
    got, _ = taken(tmp_path, lines(by.join(("time_s", "temp_c", "output_%")), seconds, warm, lambda i: i, by=by))
    is_meant(got)
    assert got.series.output == pytest.approx(np.arange(ROWS))


def test_a_preamble_is_skipped_and_shown(tmp_path):
    before = 'Logger,4711\nSerial: 12\n# Oven at 60, for the glue; "door" shut\n\n'
    got, found = taken(tmp_path, before + lines("Time (s),Temp (°C)", seconds, warm))
    is_meant(got)
    assert (
        found.preamble == ["Logger,4711", "Serial: 12", '# Oven at 60, for the glue; "door" shut']
        and found.first_line == 6
    )


def test_a_row_of_units_below_the_heading_gives_the_units(tmp_path):
    got, found = taken(
        tmp_path, lines("time;chamber\nmin;°F", lambda i: f"{i / 6:.6f}", lambda i: 68 + i * 0.9, by=";")
    )
    is_meant(got)
    assert (found.time_format, found.unit, found.units_row, found.doubts) == ("minutes", "F", True, [])


@pytest.mark.parametrize(
    ("head", "cells", "form"),
    [
        ("elapsed_min,temp", lambda i: f"{i / 6:.6f}", "minutes"),
        ("t_ms,temp", lambda i: i * 10_000, "milliseconds"),
        ("millis,temp", lambda i: i * 10_000, "milliseconds"),
        ("Time [h],temp", lambda i: f"{i / 360:.8f}", "hours"),
        ("unix,temp", lambda i: 1794643200 + i * 10, "unix"),
        ("stamp,temp", lambda i: 1794643200000 + i * 10_000, "unix_ms"),
        ("time,temp", lambda i: f"{46_340 + i / 8640:.9f}", "days"),
        ("when,temp", stamps("%Y-%m-%dT%H:%M:%S+01:00"), "iso"),
        ("when,temp", stamps("%Y/%m/%d %H:%M:%S"), "iso"),
        ("when,temp", stamps("%d.%m.%y %H:%M:%S"), "dmy"),
        ("when,temp", stamps("%d. %m. %Y %H:%M:%S"), "dmy"),
        ("when,temp", stamps("%d-%b-%Y %H:%M:%S"), "dmy"),
        ("when,temp", stamps("%m/%d/%Y %I:%M:%S %p"), "mdy"),
        ("when,temp", stamps("%I:%M:%S %p"), "clock"),
        ("date,time,temp", stamps("%d.%m.%Y,%H:%M:%S"), "dmy"),
    ],
)  # fmt: skip
def test_times_as_loggers_write_them(tmp_path, head, cells, form):
    got, found = taken(tmp_path, lines(head, cells, warm))
    assert found.time_format == form
    is_meant(got)
    if form in ("dmy", "mdy"):
        assert got.started_at == STARTS.astimezone()
    if form == "iso" and "+01:00" in cells[0]:
        assert got.started_at.isoformat() == "2026-11-14T07:00:00+00:00"


@pytest.mark.parametrize("form", ["%d/%m/%Y %H:%M:%S", "%d-%m-%y %H:%M:%S", "%H:%M"])
def test_a_time_with_two_meanings_is_asked_for(tmp_path, form):
    when = [(datetime(2026, 5, 4, 0, 0) + timedelta(minutes=i)).strftime(form) for i in range(ROWS)]
    text = lines("when,temp", when, warm)
    with pytest.raises(Refused, match="say how the file writes its times"):
        taken(tmp_path, text)
    assert [d.field for d in guess(text.encode()).doubts if d.field == "time_format"]
    got, _ = taken(tmp_path, text, time_format="minsec" if form == "%H:%M" else "mdy")
    assert got.series.time_s[-1] == pytest.approx(29 if form == "%H:%M" else 29 * 60)


def test_noon_and_midnight_on_a_clock_of_twelve_hours(tmp_path):
    when = ["11:59:50 AM", "12:00:00 PM", "12:00:10 PM", "1:00:00 PM", "11:59:59 PM", "12:00:00 AM", "12:00:01 AM"]
    text = "time,temp\n" + "".join(f"{w},21.5\n" for w in when)
    got, _ = taken(tmp_path, text)
    assert got.series.time_s.tolist() == [0, 10, 20, 3610, 43_209, 43_210, 43_211]


def test_the_repeated_hour_of_autumn_loses_no_hour(tmp_path):
    clock = [datetime(2026, 10, 25, 2, 30) + timedelta(minutes=10 * (i if i < 3 else i - 6)) for i in range(ROWS)]
    got, _ = taken(tmp_path, lines("when,temp", [c.strftime("%Y-%m-%d %H:%M:%S") for c in clock], warm))
    is_meant(got, time_s=np.arange(ROWS) * 600.0)
    assert "row 5: read as the end of summer time" in got.remarks[0]
    by_day = [c + timedelta(hours=9) for c in clock]
    with pytest.raises(Refused, match="runs backwards at row 5"):
        taken(tmp_path, lines("when,temp", [c.strftime("%Y-%m-%d %H:%M:%S") for c in by_day], warm))


@pytest.mark.parametrize(
    ("head", "roles"),
    [
        ("time_s,chamber outer,chamber inner,set temp", {"chamber inner": "reading", "set temp": "setpoint"}),
        ("time_s,ambient temp,oven temp,target", {"oven temp": "reading", "target": "setpoint", "ambient temp": "air"}),
        ("time_s,Current (A),Istwert,Sollwert", {"Istwert": "reading", "Sollwert": "setpoint", "Current (A)": "current"}),
        ("time_s,heater current,PV,SP", {"PV": "reading", "SP": "setpoint"}),
        ("time_s,reset count,temperatura,consigna", {"temperatura": "reading", "consigna": "setpoint"}),
        ("time_s,offset,température,consigne", {"température": "reading", "consigne": "setpoint"}),
        ("time_s,outlet temp,SetPoint,ProcessValue", {"ProcessValue": "reading", "SetPoint": "setpoint"}),
        ("time_s,Power (W),Temp 1,Set point", {"Temp 1": "reading", "Set point": "setpoint", "Power (W)": "power"}),
    ],
)  # fmt: skip
def test_words_of_other_columns_are_told_apart(tmp_path, head, roles):
    reading = "temp"
    columns = [warm if roles.get(n) == "reading" else (lambda i: 60) if roles.get(n) == "setpoint" else (lambda i: 3 + i % 7)
               for n in head.split(",")[1:]]  # fmt: skip
    got, found = taken(tmp_path, lines(head, seconds, *columns))
    assert roles_of(found) == {"time_s": "time", **roles}, reading
    is_meant(got)


@pytest.mark.parametrize(
    ("name", "cells", "percent"),
    [
        ("duty", lambda i: f"{i / 40:.3f}", lambda i: i / 0.4),
        ("PWM (0-255)", lambda i: i * 8, lambda i: i * 8 / 2.55),
        ("output", lambda i: i * 8, lambda i: i * 8 / 2.55),
        ("Leistung %", lambda i: f"{i / 60:.2f}", lambda i: round(i / 60, 2)),
        ("heater", lambda i: i * 3, lambda i: i * 3),
    ],
)
def test_outputs_in_percent_shares_and_steps(tmp_path, name, cells, percent):
    got, found = taken(tmp_path, lines(f"time_s,temp_c,{name}", seconds, warm, cells))
    assert got.series.output == pytest.approx([percent(i) for i in range(ROWS)])
    assert bool(found.doubts) == (name in ("duty", "output"))


def test_a_pwm_that_never_went_far_is_asked_for(tmp_path):
    text = lines("time_s,temp_c,pwm", seconds, warm, lambda i: i)
    with pytest.raises(Refused, match="say what full on is"):
        taken(tmp_path, text)
    assert taken(tmp_path, text, output_scale="byte")[0].series.output[-1] == pytest.approx(29 / 2.55)


@pytest.mark.parametrize(
    "on", ["ON OFF", "Ein Aus", "marche arrêt", "on off", "zał wył", "True False", "Encendido Apagado", "1 0"]
)
def test_switch_states_in_words(tmp_path, on):
    yes, no = on.split()
    got, found = taken(tmp_path, lines("time_s,temp_c,heater", seconds, warm, lambda i: yes if i % 3 else no))
    assert roles_of(found)["heater"] == "switch"
    assert got.series.switch.tolist() == [float(bool(i % 3)) for i in range(ROWS)]


def test_bad_cells_remarks_cut_and_short_lines_are_left_out_and_listed(tmp_path):
    text = lines("time_s,temp_c,output_%", seconds, warm, lambda i: 50).replace(
        "\n30,21.5,", "\n# door opened\n\n30,warm,"
    )
    text = text.replace("70,23.5,50\n", "70,23.5\n").replace("280,34.0,50\n", "280,9999,50\n") + "300,3"
    got, _ = taken(tmp_path, text)
    meant = WARM.copy()
    meant[[3, 28]] = np.nan
    np.testing.assert_allclose(got.series.reading_c, np.delete(meant, 7))
    told = "\n".join(got.remarks)
    for said in ("row 5", "row 7 ('warm')", "row 11 ('70,23.5')", ", 34 ('300,3')", "row 32 (9999)"):
        assert said in told, said


def test_a_last_number_cut_in_half_is_no_reading(tmp_path):
    whole = lines("time_s,output,temp_c", seconds, lambda i: 50, lambda i: f"{120 + i * 0.5:.1f}")
    got, _ = taken(tmp_path, whole[:-4])  # "134.5\n" has become "13"
    assert len(got.series) == ROWS - 1 and "cut off" in got.remarks[0]
    assert len(taken(tmp_path, whole[:-1])[0].series) == ROWS  # only the line's end is missing: nothing is lost


def test_too_many_bad_cells_are_a_wrong_column(tmp_path):
    text = lines("time_s,temp_c", seconds, lambda i: "tray" if i % 4 == 0 else warm(i))
    with pytest.raises(Refused, match=r"row 2 holds 'tray', which is not a number \(8 such rows\)"):
        taken(tmp_path, text, columns={"time": 0, "reading": 1})


@pytest.mark.parametrize(
    ("cell", "value"),
    [("1,234.5", 1234.5), ("1'234.5", 1234.5), ("21.5 °C", 21.5), ("21.5C", 21.5), ("−3.5", -3.5), ("+2.15e1", 21.5)],
)
def test_numbers_as_people_write_them(tmp_path, cell, value):
    got, _ = taken(tmp_path, lines("time_s;temp_c", seconds, lambda i: cell if i == 4 else warm(i), by=";"))
    assert got.series.reading_c[4] == pytest.approx(value) and not got.remarks


def test_cells_in_another_unit_are_refused(tmp_path):
    text = lines("time_s;temp_c", seconds, lambda i: "70.1 °F" if i == 4 else warm(i), by=";")
    with pytest.raises(Refused, match="is in another unit"):
        taken(tmp_path, text)


def test_quoted_decimal_commas_between_commas(tmp_path):
    got, _ = taken(tmp_path, lines("time_s,temp_c", seconds, lambda i: f'"{warm(i)}"'.replace(".", ",")))
    is_meant(got)


def test_what_the_file_does_not_say_is_named(tmp_path):
    _, found = taken(tmp_path, lines("time,temp", seconds, warm))
    assert {d.field for d in found.doubts} == {"time_format", "unit"}


def test_a_late_part_in_another_encoding(tmp_path):
    text = lines("time_s,temp_c,note", seconds, warm, lambda i: "").encode() * 1
    long = (
        text
        + b"".join(f"{300 + i * 10},35.0,\n".encode() for i in range(9000))
        + "90300,35.0,T\u00fcr auf\n".encode("cp1252")
    )
    got, _ = taken(tmp_path, long)
    assert len(got.series) == ROWS + 9001
