"""A run as CSV and as Parquet, streamed piece by piece: no run is too long to be taken away."""

import csv
from collections.abc import Iterator

import numpy as np
import pyarrow as pa
import pyarrow.parquet
from django.http import StreamingHttpResponse
from rest_framework.request import Request
from rest_framework.views import APIView

from rellux.server.api.endpoint import endpoint
from rellux.server.api.pieces import Pieces

from . import store
from .models import Run
from .views import run_of

UNITS = {"time_s": "s", "setpoint_c": "°C", "reading_c": "°C", "output": "%", "switch": "1"}
"""Of the columns; a switch is closed where it is 1."""


class _Echo:
    """The csv module wants something to write to; the row is the result."""

    def write(self, row: str) -> str:
        return row


def csv_rows(run: Run) -> Iterator[str]:
    """The run as CSV text, line by line: seconds, °C, °C, %, 0/1; empty where there is no value."""
    writer = csv.writer(_Echo())
    yield writer.writerow(["time_s", "setpoint_c", "reading_c", "output_percent", "switch"])
    for series in store.parts(run):
        shown = [
            np.char.mod("%.3f", series.time_s),
            *(np.where(np.isfinite(c), np.char.mod("%.6g", c), "") for c in series.columns[1:]),
        ]
        for row in zip(*shown, strict=True):
            yield writer.writerow(row)


def parquet_pieces(run: Run) -> Iterator[bytes]:
    """The run as a Parquet file, a row group a piece: seconds since its start in 64 bits, values as stored in 32, null where there is
    none. The unit of each column stands in its metadata, name, rig and start (ISO 8601) in those of the file."""
    schema = pa.schema(
        [
            pa.field(name, pa.float64() if name == "time_s" else pa.float32(), metadata={"unit": unit})
            for name, unit in UNITS.items()
        ],
        metadata={"run": run.name, "rig": run.rig.name, "started_at": run.started_at.isoformat()},
    )
    sink = Pieces()
    with pa.parquet.ParquetWriter(
        sink,
        schema,
        compression="zstd",
        use_dictionary=[n for n in UNITS if n != "time_s"],
        column_encoding={"time_s": "BYTE_STREAM_SPLIT"},
    ) as writer:
        for series in store.parts(run):
            columns = [
                pa.array(c, field.type, from_pandas=True) for c, field in zip(series.columns, schema, strict=True)
            ]
            writer.write_table(pa.Table.from_arrays(columns, schema=schema))
            yield sink.take()
    yield sink.take()


def _download(pieces: Iterator[str] | Iterator[bytes], kind: str, name: str) -> StreamingHttpResponse:
    response = StreamingHttpResponse(pieces, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


class RunCsv(APIView):
    @endpoint("runCsv", None)
    def get(self, request: Request, slug: str, number: int) -> StreamingHttpResponse:
        run = run_of(slug, number)
        return _download(csv_rows(run), "text/csv; charset=utf-8", f"{slug}-run-{run.pk}.csv")


class RunParquet(APIView):
    @endpoint("runParquet", None)
    def get(self, request: Request, slug: str, number: int) -> StreamingHttpResponse:
        run = run_of(slug, number)
        return _download(parquet_pieces(run), "application/vnd.apache.parquet", f"{slug}-run-{run.pk}.parquet")
