"""CSV logs: what is guessed, what is read, and how bad files are refused."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from rellux.core.errors import Refused
from rellux.core.logs.guess import guess
from rellux.core.logs.mapping import Mapping
from rellux.server.runs.csv_read import read_csv

PLAIN = "time_s,setpoint,reading,output\n" + "".join(f"{i * 2},60,{21 + i * 0.1:.1f},100\n" for i in range(60))
GERMAN = "Zeit;Ist (°C);Soll;Relais\n" + "".join(
    f"14.11.2026 08:{i // 60:02d}:{i % 60:02d};{21 + i // 10},{i % 10};60,0;1\n" for i in range(70)
)


def mapping(**changed):
    columns = {"time": 0, "setpoint": 1, "reading": 2, "output": 3}
    return Mapping(
        **{
            "delimiter": ",",
            "decimal": ".",
            "header": True,
            "time_format": "seconds",
            "unit": "C",
            "columns": columns,
            **changed,
        }
    )


def read(tmp_path, text, **changed):
    path = tmp_path / "log.csv"
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return read_csv(path, mapping(**changed))


def test_a_plain_file_is_guessed_and_read(tmp_path):
    found = guess(PLAIN.encode())
    assert (found.delimiter, found.decimal, found.time_format) == (",", ".", "seconds")
    assert [c.role for c in found.columns] == ["time", "setpoint", "reading", "output"]
    got = read(tmp_path, PLAIN)
    assert len(got.series) == 60 and got.timing.interval_s == 2
    assert got.series.reading_c[10] == pytest.approx(22.0)


def test_semicolons_decimal_commas_and_dates_are_guessed_and_read(tmp_path):
    found = guess(GERMAN.encode())
    assert (found.delimiter, found.decimal, found.time_format) == (";", ",", "dmy")
    assert [c.role for c in found.columns] == ["time", "reading", "setpoint", "switch"]
    columns = {c.role: i for i, c in enumerate(found.columns)}
    got = read(tmp_path, GERMAN, delimiter=";", decimal=",", time_format="dmy", columns=columns)
    assert got.started_at.isoformat() == "2026-11-14T08:00:00+00:00"
    assert got.series.time_s[-1] == 69 and got.series.reading_c[5] == pytest.approx(21.5)


def test_fahrenheit_becomes_celsius(tmp_path):
    got = read(tmp_path, "t,sp,pv,out\n0,140,212,0\n1,140,212,0\n", unit="F")
    assert got.series.reading_c.tolist() == [100, 100] and got.series.setpoint_c[0] == pytest.approx(60)


@pytest.mark.parametrize(
    ("form", "cells", "seconds"),
    [
        ("iso", ["2026-11-14 08:00:00", "2026-11-14T08:00:01.5"], 1.5),
        ("mdy", ["11/14/2026 23:59:59", "11/15/2026 00:00:01"], 2),
        ("clock", ["23:59:58", "00:00:01"], 3),
        ("minutes", ["0", "0.5"], 30),
    ],
)
def test_time_formats(tmp_path, form, cells, seconds):
    text = "t,sp,pv,out\n" + "".join(f"{c},60,25,0\n" for c in cells)
    assert read(tmp_path, text, time_format=form).series.time_s[-1] == pytest.approx(seconds)


def test_missing_readings_stay_missing_and_repeated_times_keep_the_first_row(tmp_path):
    got = read(tmp_path, "t,sp,pv,out\n0,60,21,0\n1,60,,0\n1,60,99,0\n2,60,22,0\n")
    assert np.isnan(got.series.reading_c[1]) and got.timing.duplicates == 1 and len(got.series) == 3


@pytest.mark.parametrize(
    ("text", "changed", "field", "says"),
    [
        (PLAIN.replace(",2", ",x2"), {}, "columns.reading", "row 2 holds 'x21.0'"),
        ("t,sp,pv,out\n0,60,21,0\n5,60,21,0\n3,60,21,0\n", {}, "time", "runs backwards at row 4"),
        (b"\x00\x01\x02PK\x00" * 500, {}, "file", "not a text file"),
        (PLAIN, {"columns": {"time": 0, "reading": 9}}, "columns.reading", "no such column"),
        (PLAIN, {"columns": {"time": 0}}, "columns.reading", "which column is the reading"),
        (PLAIN, {"columns": {"time": 0, "reading": 0}}, "columns", "used twice"),
        (PLAIN, {"time_format": "iso"}, "time_format", "cannot be read as year-month-day"),
        ("t,sp,pv,out\n0,60,90000,0\n1,60,90000,0\n", {}, "columns.reading", "not temperatures"),
        ("t,sp,pv,out\n0,60,21,0\n1,60,21,300\n", {}, "columns.output", "holds 0…300"),
        ("t,sp,pv,out\n0,60,21,0\n1,60\n", {}, "file", "columns"),
        ("t,sp,pv,out\n0,60,21,0\n99999999,60,21,0\n", {}, "time", "more than a year"),
    ],
)  # fmt: skip
def test_bad_files_are_refused_with_column_row_and_content(tmp_path, text, changed, field, says):
    with pytest.raises(Refused, match=says) as refused:
        read(tmp_path, text, **changed)
    assert refused.value.problems[0].field == field and refused.value.problems[0].accepted


def upload(api, text, name="log.csv"):
    response = api.client.post(
        "/api/v1/uploads", {"file": SimpleUploadedFile(name, text.encode() if isinstance(text, str) else text)}
    )
    return response.status_code, response.json()


def test_upload_map_import_and_read_back(api, rig):
    status, up = upload(api, PLAIN)
    assert status == 201
    body = {"upload": up["id"], "mapping": mapping().__dict__, "name": "Morning"}
    run = api.ok("POST", f"rigs/{rig}/runs/import", body)
    assert (run["samples"], run["source"], run["status"]) == (60, "csv", "finished")
    window = api.ok("GET", f"rigs/{rig}/runs/{run['id']}/window?points=500")
    assert len(window["time_s"]) == 60 and window["reading_low"][10] == 22.0
    text = b"".join(api.client.get(f"/api/v1/rigs/{rig}/runs/{run['id']}/csv").streaming_content).decode()
    assert text.splitlines()[11] == "20.000,60,22,100,"


def test_a_wrong_column_first_leaves_the_upload_for_a_second_try(api, rig):
    _, up = upload(api, PLAIN.replace("setpoint", "place").replace(",60,", ",tray,"))
    wrong = {"time": 0, "reading": 1, "output": 3}
    problem = api.refused(
        "POST", f"rigs/{rig}/runs/import", {"upload": up["id"], "mapping": mapping(columns=wrong).__dict__}
    )
    assert problem["field"] == "columns.reading" and "'tray'" in problem["reason"]
    assert api.ok("GET", f"rigs/{rig}/runs") == []
    right = {"time": 0, "reading": 2, "output": 3}
    api.ok("POST", f"rigs/{rig}/runs/import", {"upload": up["id"], "mapping": mapping(columns=right).__dict__})


def test_the_mapping_is_remembered_for_files_of_the_same_heading(api, rig):
    _, first = upload(api, PLAIN)
    assert first["remembered"] is None
    api.ok("POST", f"rigs/{rig}/runs/import", {"upload": first["id"], "mapping": mapping().__dict__})
    _, second = upload(api, PLAIN)
    assert second["remembered"]["columns"] == mapping().columns


def test_a_binary_upload_is_refused(api):
    status, answer = upload(api, b"\x89PNG\r\n\x1a\n\x00\x00" * 100)
    assert status == 400 and answer["problems"][0]["reason"] == "this is not a text file"
