"""Spreadsheets, JSON lines and Parquet: the same log by each of them is the same run; what is none of them is refused in words."""

import gzip
import io
import json
import zipfile
from datetime import datetime, timedelta

import numpy as np
import openpyxl
import pandas
import polars
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import HealthCheck, given
from hypothesis import settings as examples
from hypothesis import strategies as st

from rellux.core.logs.mapping import Mapping
from rellux.server.runs import as_csv, store
from rellux.server.runs.models import Event, Run, Upload
from tests.server.runs.test_run_export import long_run  # noqa: F401 - a fixture

STARTS = datetime(2026, 3, 1, 23, 59, 0)
ROWS = 80
TIME_S = np.arange(ROWS) * 2.5
WARM = 20 + np.arange(ROWS) * 0.25
DUTY = np.arange(ROWS) % 11 * 10.0
AT = [STARTS + timedelta(seconds=s) for s in TIME_S]


@pytest.fixture(autouse=True)
def folder(tmp_path, settings):
    settings.DATA = tmp_path
    return tmp_path / "uploads"


def sheet(*above, share=True):
    book = openpyxl.Workbook()
    table = book.active
    table.title = "Log"
    for row in (*above, ["Time", "Temp °C", "Duty %", "Note"]):
        table.append(row)
    for i, at in enumerate(AT):
        table.append([at, WARM[i], DUTY[i] / 100 if share else DUTY[i], "opened" if i == 3 else None])
        table.cell(table.max_row, 3).number_format = "0%" if share else "0.0"
    book.create_sheet("Notes").append(["none of it"])
    return book


def saved(book):
    file = io.BytesIO()
    book.save(file)
    return file.getvalue()


def objects():
    return [
        {"at": at.isoformat() + "Z", "oven": {"temp_c": WARM[i]}, "output_percent": DUTY[i]} for i, at in enumerate(AT)
    ]


def lines(entries):
    return "".join(json.dumps(e) + "\n" for e in entries).encode()


def parquet(library):
    columns = {"time": AT, "temp_c": WARM.astype(np.float32), "output_percent": DUTY}
    file = io.BytesIO()
    if library is pandas:
        pandas.DataFrame(columns).to_parquet(file)
    else:
        polars.DataFrame(columns).write_parquet(file)
    return file.getvalue()


def uploaded(client, name, data):
    return client.post("/api/v1/uploads", {"file": SimpleUploadedFile(name, data)})


def imported(client, rig, name, data):
    """The run that the assistant makes of the file with what it guessed, and what it said the file was."""
    answer = uploaded(client, name, data)
    assert answer.status_code == 201, answer.json()
    found = answer.json()
    guess = found["guess"]
    mapping = {k: guess[k] for k in Mapping.__dataclass_fields__ if k in guess}
    mapping["columns"] = {c["role"]: i for i, c in enumerate(guess["columns"]) if c["role"]}
    body = {"upload": found["id"], "mapping": mapping, "name": ""}
    run = client.post(f"/api/v1/rigs/{rig}/runs/import", body, content_type="application/json")
    assert run.status_code == 201, (run.json(), found["guess"])
    return Run.objects.get(pk=run.json()["id"]), found["was"]


FILES = {
    "log.xlsx": lambda: saved(sheet()),
    "log with remarks.xlsx": lambda: saved(sheet(["Logger of the bench"], [], ["Probe", "N"], share=False)),
    "log.jsonl": lambda: lines(objects()),
    "log.json": lambda: json.dumps(objects(), indent=1).encode(),
    "pandas.parquet": lambda: parquet(pandas),
    "polars.parquet": lambda: parquet(polars),
}


@pytest.mark.parametrize("name", FILES)
def test_the_same_log_is_the_same_run(client, rig, name, folder):
    run, was = imported(client, rig, name, FILES[name]())
    series = store.read(run)
    assert series.time_s == pytest.approx(TIME_S, abs=1e-3) and series.reading_c == pytest.approx(WARM)
    assert series.output == pytest.approx(DUTY)
    assert str(ROWS) in was or str(ROWS + 1) in was or "Log" in was
    assert not list(folder.iterdir())


def test_rows_are_counted_as_the_file_counts_them(client, rig):
    """The seventh line of JSON and the seventh row of a sheet are cut or no number: both are told by the number that the file has."""
    entries = [json.dumps(e) for e in objects()]
    entries[6] = entries[6][:30]
    run, _ = imported(client, rig, "log.jsonl", ("\n".join(entries) + "\n").encode())
    assert any("row 7 " in e.text for e in Event.objects.filter(run=run)), [e.text for e in run.events.all()]
    book = sheet()
    book.active["B7"] = "moved"
    run, _ = imported(client, rig, "log.xlsx", saved(book))
    assert any("row 7 " in e.text for e in Event.objects.filter(run=run)), [e.text for e in run.events.all()]
    assert np.isnan(store.read(run).reading_c[5])


def test_a_run_taken_away_comes_back(client, rig, long_run):  # noqa: F811
    data = b"".join(client.get(f"/api/v1/rigs/{rig}/runs/{long_run.pk}/parquet").streaming_content)
    run, _ = imported(client, rig, "again.parquet", data)
    for was, now in zip(store.read(long_run).columns, store.read(run).columns, strict=True):
        first = was[0] if was is store.read(long_run).time_s else 0.0
        assert np.allclose(was - first, now, atol=1e-3, equal_nan=True) or np.allclose(
            was, now, atol=1e-3, equal_nan=True
        )


def packed(**files):
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in files.items():
            archive.writestr(name, text)
    return file.getvalue()


@pytest.mark.parametrize(
    ("data", "reason"),
    [
        (b"PK\x03\x04 and nothing more", "cannot be read"),
        (packed(**{"log.csv": "1,2\n" * 40}), "no .xlsx"),
        (packed(**{"xl/workbook.xml": "<broken"}), "cannot be read"),
        (b"PAR1 and nothing more PAR1", "cannot be read"),
        (FILES["pandas.parquet"]()[:-40], "cannot be read"),
        (b"\xd0\xcf\x11\xe0 of 1997", "old kind"),
        (gzip.compress(b"t,c\n0,1\n"), "packed"),
        (b'[{"a": 1}, ', "is none"),
        (b'{"a": 1,\n"b": 2}', "is none"),
        (b'[{"a": ' + b"[" * 100_000, "is none"),
        (lines([{f"k{i}": 1 for i in range(300)}]), "300 different keys"),
    ],
    ids=lambda p: p if isinstance(p, str) else "",
)
def test_what_is_no_table_is_refused_in_words(client, db, data, reason, folder):
    answer = uploaded(client, "log", data)
    assert answer.status_code == 400 and reason in answer.json()["problems"][0]["reason"], answer.json()
    assert not Upload.objects.exists() and not list(folder.iterdir())


def test_a_preamble_in_brackets_is_text(client, rig):
    rows = "".join(f'"{i * 2}","{20 + i}.5"\n' for i in range(30))
    run, was = imported(client, rig, "log.csv", f'[Settings]\n"time_s","temp_c"\n{rows}'.encode())
    assert was == "" and store.read(run).reading_c[4] == 24.5


def test_a_file_that_grows_when_unpacked_is_refused(client, db, monkeypatch):
    monkeypatch.setattr(as_csv, "MOST_UNPACKED", 5_000_000)
    data = packed(**{"xl/worksheets/sheet1.xml": "<c/>" * 2_000_000})
    assert len(data) < 50_000
    assert "too large when unpacked" in uploaded(client, "log.xlsx", data).json()["problems"][0]["reason"]


def test_a_sheet_of_too_many_cells_is_refused(client, db, monkeypatch):
    """Also one that only says so: the last row there is at all stands far below the others."""
    monkeypatch.setattr(as_csv, "MOST_CELLS", 2_000)
    book = sheet()
    book.active["A1048576"] = 1
    assert "million cells" in uploaded(client, "log.xlsx", saved(book)).json()["problems"][0]["reason"]


@examples(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    kind=st.sampled_from(list(FILES)),
    at=st.lists(st.tuples(st.floats(0, 1), st.integers(0, 255)), min_size=1, max_size=8),
)
def test_a_damaged_file_is_read_or_refused(client, db, kind, at):
    data = bytearray(FILES[kind]())
    for where, byte in at:
        data[int(where * (len(data) - 1))] = byte
    answer = uploaded(client, kind, bytes(data))
    assert answer.status_code in (201, 400)
    if answer.status_code == 400:
        assert all(p["field"] and p["reason"] for p in answer.json()["problems"])


def test_another_sheet_is_taken_by_its_name(client, rig):
    book = sheet()
    other = book.create_sheet("Tray 2")
    other.append(["Time", "Temp °C"])
    for i in range(3):
        other.append([AT[i], 90.0 + i])
    data = saved(book)
    largest = uploaded(client, "log.xlsx", data).json()
    assert (largest["sheet"], largest["sheets"]) == ("Log", ["Log", "Notes", "Tray 2"])
    file = SimpleUploadedFile("log.xlsx", data)
    tray = client.post("/api/v1/uploads?sheet=Tray 2", {"file": file}).json()
    assert tray["sheet"] == "Tray 2" and tray["was"] == "the sheet Tray 2, 4 rows"
    assert len(tray["guess"]["columns"]) == 2 < len(largest["guess"]["columns"])
    refused = client.post("/api/v1/uploads?sheet=Tray 3", {"file": SimpleUploadedFile("log.xlsx", data)}).json()
    assert refused["problems"][0]["field"] == "sheet" and "Log, Notes, Tray 2" in refused["problems"][0]["accepted"]
