"""A run as CSV and as Parquet, streamed piece by piece: no run is too long to be taken away."""

import csv
from collections.abc import Iterable, Iterator, Sequence

import numpy as np
from django.http import StreamingHttpResponse
from rest_framework.request import Request
from rest_framework.views import APIView

from rellux.server import arrow as pa
from rellux.server.api.endpoint import endpoint
from rellux.server.api.pieces import Pieces

from .joined import Array, Column, columns_of, joined
from .models import Run
from .store import Held, names_of, parts
from .views import run_of

OWN_NAMES = ("time_s", "setpoint_c", "reading_c", "output_percent", "switch")


class _Echo:
    """The csv module wants something to write to; the row is the result."""

    def write(self, row: str) -> str:
        return row


def table_rows(names: Sequence[str], parts: Iterable[Sequence[Array]]) -> Iterator[str]:
    """CSV text, line by line: the first column in thousandths, the others as precisely as they are kept, empty for NaN."""
    writer = csv.writer(_Echo())
    yield writer.writerow(names)
    for columns in parts:
        shown = [
            np.char.mod("%.3f", columns[0]),
            *(np.where(np.isfinite(c), np.char.mod("%.6g", c), "") for c in columns[1:]),
        ]
        for row in zip(*shown, strict=True):
            yield writer.writerow(row)


def own_rows(held: Held) -> Iterator[str]:
    """A run alone, or a track alone, as a rig file keeps them: what was recorded, without offsets."""
    names = OWN_NAMES if isinstance(held, Run) else names_of(held)
    return table_rows(names, (part.columns for part in parts(held)))


def csv_rows(run: Run) -> Iterator[str]:
    """The run as CSV text, with everything measured beside it: seconds, °C, °C, %, 0/1, then each channel with its unit."""
    beside = [f"{c.name} ({c.unit})" if c.unit != "1" else c.name for c in columns_of(run)[len(OWN_NAMES) :]]
    return table_rows([*OWN_NAMES, *beside], joined(run))


def parquet_pieces(run: Run) -> Iterator[bytes]:
    """The run as a Parquet file, a row group a piece: seconds since its start in 64 bits, values as stored in 32, null where there is
    none; everything measured beside it too. The unit of each column stands in its metadata, of a channel also its role, sensor and
    the offset that was added; name, rig and start (ISO 8601) in those of the file."""
    columns = columns_of(run)
    schema = pa.schema(
        [pa.field(c.name, pa.float64() if i == 0 else pa.float32(), metadata=_told(c)) for i, c in enumerate(columns)],
        metadata={"run": run.name, "rig": run.rig.name, "started_at": run.started_at.isoformat()},
    )
    sink = Pieces()
    with pa.parquet.ParquetWriter(
        sink,
        schema,
        compression="zstd",
        use_dictionary=[c.name for c in columns[1:]],
        column_encoding={columns[0].name: "BYTE_STREAM_SPLIT"},
    ) as writer:
        for rows in joined(run):
            arrays = [pa.array(c, field.type, from_pandas=True) for c, field in zip(rows, schema, strict=True)]
            writer.write_table(pa.Table.from_arrays(arrays, schema=schema))
            yield sink.take()
    yield sink.take()


def _told(column: Column) -> dict[str, str]:
    told = column.told
    if told is None:
        return {"unit": column.unit}
    return {
        "unit": column.unit,
        **{k: str(told[k]) for k in ("role", "device", "source", "sensor")},
        "offset_added": f"{told['offset']:g}",
    }


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
