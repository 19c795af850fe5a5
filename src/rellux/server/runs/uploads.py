"""Uploading a log, seeing how it was understood, and importing it as a run."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from uuid import uuid4

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Refused, refuse
from rellux.core.logs.guess import SAMPLE_BYTES, Guess, guess
from rellux.core.logs.mapping import DECIMALS, DELIMITERS, Mapping
from rellux.core.messages import quantity, shortened
from rellux.core.runs.channels import LONGEST_NAME, ROLES, Channel
from rellux.core.runs.series import Points, Timing
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.numbers import number_from
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig

from . import store
from .as_csv import Written, as_csv, is_text
from .buffer import told
from .csv_read import Imported, read_csv
from .domain import RunView, run_view
from .models import Event, RememberedMapping, Run, Track, Upload

KEPT = timedelta(days=1)
STOPPED = refuse("upload", "it was stopped: nothing was brought in", "the file once more")


@dataclass(frozen=True)
class UploadView:
    """An uploaded file and how it seems to be written; ``was`` says what was taken of one that is no text, ``sheet`` which of a
    spreadsheet's ``sheets``; ``remembered`` is the mapping last used for such a heading."""

    id: int
    name: str
    size: int
    was: str
    sheet: str
    sheets: list[str]
    guess: Guess
    remembered: Mapping | None


@dataclass(frozen=True)
class BeginningView:
    """How a file seems to be written; no guess of one that is no text, which is understood once it is here."""

    guess: Guess | None
    remembered: Mapping | None


@dataclass(frozen=True)
class ImportInput:
    upload: int
    mapping: Mapping
    name: str = ""


def _forget_old() -> None:
    for old in Upload.objects.filter(created_at__lt=timezone.now() - KEPT):
        Path(old.path).unlink(missing_ok=True)
        old.delete()


def _kept(given: UploadedFile, sheet: str) -> tuple[Path, Written]:
    """The file as text in the uploads' folder, and what it was. Nothing is left there of a file that is refused."""
    folder = settings.DATA / "uploads"
    folder.mkdir(exist_ok=True)
    path, text = folder / f"{uuid4().hex}.part", folder / f"{uuid4().hex}.csv"
    try:
        with path.open("wb") as file:
            for block in given.chunks():
                file.write(block)
        written = as_csv(path, text, sheet)
        if not written.was:
            path.rename(text)
    except Refused:
        text.unlink(missing_ok=True)
        raise
    finally:
        path.unlink(missing_ok=True)
    return text, written


def _heading(found: Guess) -> str:
    """A fingerprint of the columns, to recognise the same logger's files."""
    return hashlib.sha256("\x1f".join([found.delimiter, *(c.name for c in found.columns)]).encode()).hexdigest()


def _remembered(found: Guess) -> Mapping | None:
    """How a file with such a heading was read last."""
    known = RememberedMapping.objects.filter(heading=_heading(found)).first()
    return Mapping(**known.mapping).placed_as(found.mapping) if known else None


class Uploads(APIView):
    parser_classes = (MultiPartParser,)

    @endpoint("upload", UploadView, query={"sheet": str}, status=201)
    def post(self, request: Request) -> Response:
        """A log to be looked at; of a spreadsheet the ``sheet`` named, or its largest."""
        given = request.FILES.get("file")
        if given is None:
            raise refuse("file", "there is no file in the request", "a CSV log")
        if given.size > settings.UPLOAD_LIMIT:
            raise refuse("file", "is too large", f"up to {settings.UPLOAD_LIMIT // 1048576} MB")
        _forget_old()
        path, written = _kept(given, request.query_params.get("sheet", ""))
        try:
            with path.open("rb") as file:
                found = guess(file.read(SAMPLE_BYTES))
        except Refused:
            path.unlink()
            raise
        upload = Upload.objects.create(
            name=given.name[:200], path=str(path), above=written.above, created_at=timezone.now()
        )
        taken = (written.was, written.sheet, list(written.sheets))
        return reply(UploadView(upload.pk, upload.name, given.size, *taken, found, _remembered(found)), 201)


class Progress:
    """How far the import of an uploaded file is, beside it on disk: the database is busy meanwhile. Taking the file away stops it."""

    def __init__(self, path: Path) -> None:
        self._path, self._beside = path, path.with_suffix(".share")

    def tell(self, share: float) -> None:
        """So much of the work is done. Raises ``Refused`` where it was stopped."""
        if not self._path.exists():
            raise STOPPED
        self._beside.write_text(f"{share:.3f}")

    def part(self, start: float, end: float) -> Callable[[float], None]:
        """The same, for a part of the work."""
        return lambda share: self.tell(start + (end - start) * share)

    @property
    def share(self) -> float:
        """What was told last; 0 where nothing was."""
        try:
            return float(self._beside.read_text() or 0.0)
        except (OSError, ValueError):
            return 0.0

    def end(self) -> None:
        self._beside.unlink(missing_ok=True)


@dataclass(frozen=True)
class ShareView:
    """How much of an import is done, 0 to 1."""

    share: float


class UploadDetail(APIView):
    @endpoint("importProgress", ShareView)
    def get(self, request: Request, number: int) -> Response:
        """How far the import of this file is."""
        return reply(ShareView(Progress(Path(get_object_or_404(Upload, pk=number).path)).share))

    @endpoint("stopImport", None, status=204)
    def delete(self, request: Request, number: int) -> Response:
        """Put an uploaded file away; an import of it that is under way stops, and nothing of it is kept."""
        Path(get_object_or_404(Upload, pk=number).path).unlink(missing_ok=True)
        return Response(status=204)


CORRECTED = {"delimiter": str, "decimal": str, "skip": int}
"""What of a guess can be corrected by hand."""


def _corrected(request: Request, sample: bytes) -> Guess:
    """How the beginning of a file looks, with what of it was corrected."""
    asked = request.query_params
    for name, choices in (("delimiter", DELIMITERS), ("decimal", DECIMALS)):
        if asked.get(name) and asked[name] not in choices:
            raise refuse(name, f"{asked[name]!r} is unknown", ", ".join(choices.values()))
    skip = number_from(request, "skip", None)
    if skip is not None and skip < 0:
        raise refuse("skip", f"{quantity(skip, form='g')} is less than nothing", "0 or more lines")
    return guess(sample, asked.get("delimiter", ""), asked.get("decimal", ""), None if skip is None else int(skip))


class Reread(APIView):
    @endpoint("rereadUpload", Guess, query=CORRECTED)
    def get(self, request: Request, number: int) -> Response:
        """How an uploaded file looks when its delimiter, its decimal mark or the beginning of its table are corrected by hand."""
        path = Path(get_object_or_404(Upload, pk=number).path)
        if not path.exists():
            raise refuse("upload", "the file is gone", "upload it again")
        with path.open("rb") as file:
            return reply(_corrected(request, file.read(SAMPLE_BYTES)))


class Beginning(APIView):
    parser_classes = (MultiPartParser,)

    @endpoint("beginningOfUpload", BeginningView, query=CORRECTED)
    def post(self, request: Request) -> Response:
        """How a file seems to be written, from its first 64 kB, while the rest is still coming. Nothing is kept."""
        given = request.FILES.get("file")
        if given is None:
            raise refuse("file", "there is no file in the request", "the beginning of a log")
        sample = given.read(SAMPLE_BYTES)
        if not is_text(sample):
            return reply(BeginningView(None, None))
        found = _corrected(request, sample)
        return reply(BeginningView(found, _remembered(found)))


class ImportRun(APIView):
    @endpoint("importRun", RunView, ImportInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        given = read(request, ImportInput)
        upload = get_object_or_404(Upload, pk=given.upload)
        path = Path(upload.path)
        if not path.exists():
            raise refuse("upload", "the file is gone", "upload it again")
        progress = Progress(path)
        try:
            run = _bring_in(rig, given, upload, progress, request)
        except FileNotFoundError:
            raise STOPPED from None
        finally:
            progress.end()
        path.unlink(missing_ok=True)
        return reply(run_view(run), 201)


PARSED, STORED = 0.6, 0.98
"""Shares of the work once every row has been read, and once all of them are stored (about as long as each takes)."""


def _bring_in(rig: Rig, given: ImportInput, upload: Upload, progress: Progress, request: Request) -> Run:
    """Everything an import does, or nothing of it."""
    path = Path(upload.path)
    imported = read_csv(path, given.mapping, upload.above, progress.part(0.0, PARSED))
    with transaction.atomic():
        run = Run.objects.create(
            rig=rig,
            name=given.name.strip()[:80] or upload.name[:80],
            source=Run.Source.CSV,
            status=Run.Status.FINISHED,
            started_at=imported.started_at or timezone.now(),
        )
        store.append(run, imported.series, progress.part(PARSED, STORED))
        if imported.channels:
            _keep_channels(run, imported, given.mapping, upload)
        for text in (_sampling(imported.timing), *imported.remarks):
            at = float(imported.series.time_s[0])
            Event.objects.create(run=run, time_s=at, kind="import", text=shortened(text, 200))
        note(rig, request.user, Station.RUNS, f"Log imported: {run.name}", after={"samples": run.samples})
        with path.open("rb") as file:
            heading = _heading(guess(file.read(SAMPLE_BYTES)))
        RememberedMapping.objects.update_or_create(heading=heading, defaults={"mapping": given.mapping.__dict__})
        progress.tell(1.0)
        upload.delete()
    return run


def _keep_channels(run: Run, imported: Imported, mapping: Mapping, upload: Upload) -> None:
    """What the file holds beside the reading, as one track: each column by its role, called as in the file."""
    with Path(upload.path).open("rb") as file:
        columns = guess(file.read(SAMPLE_BYTES), mapping.delimiter, mapping.decimal, mapping.skip).columns
    roles = list(imported.channels)
    heads = [columns[mapping.columns[r]].name[:LONGEST_NAME] if mapping.header else "" for r in roles]
    names = [head if heads.count(head) == 1 else "" for head in heads]
    channels = [told(Channel(ROLES[r].source, r, name)) for r, name in zip(roles, names, strict=True)]
    track = Track.objects.create(run=run, device="log", channels=channels, interval_s=imported.timing.interval_s)
    store.append(track, Points(imported.series.time_s, tuple(imported.channels.values())))


def _sampling(timing: Timing) -> str:
    gaps = f"; {timing.gaps} gaps longer than five samples, nothing is invented across them" if timing.gaps else ""
    return f"sampled every {quantity(timing.interval_s, 's', '.3g')} (median){gaps}"
