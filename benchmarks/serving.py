"""The API: plain reads against a framework view loading the same rows, kept answers, computed ones, a paste, the script."""

import gzip
import json
import re
import time
from functools import partial

from benchmarks.measure import ROOT, best, report, turns
from django.test import Client, override_settings
from django.urls import include, path
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.server.rigs import overview
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs.models import Run
from rellux.server.wiring import domain

READS, KEPT, COLD = 3.0, 4.0, 1.5
TIMES = 25
"""Calls a measurement: a single one is too short to time."""


def plainly(model: type, *names: str) -> type[APIView]:
    """A framework view that loads the rows of a model and sends these fields, as anybody would write it."""
    meta = type("Meta", (), {"model": model, "fields": names})
    rows = type("Rows", (serializers.ModelSerializer,), {"Meta": meta})

    class Plain(APIView):
        def get(self, request: Request, slug: str) -> Response:
            return Response(rows(model.objects.filter(rig=Rig.objects.get(slug=slug)), many=True).data)

    return Plain


class Bare(APIView):
    def get(self, request: Request) -> Response:
        return Response(None)


urlpatterns = [
    path("bare", Bare.as_view()),
    path(
        "plain/<slug>/book", plainly(Entry, "id", "at", "who", "station", "title", "why", "before", "after").as_view()
    ),
    path(
        "plain/<slug>/runs",
        plainly(Run, "id", "name", "started_at", "length_s", "samples", "peak_c", "status").as_view(),
    ),
    path("", include("rellux.server.urls")),
]


@override_settings(ROOT_URLCONF="benchmarks.serving")
def reads() -> None:
    client = Client(headers={"host": "localhost"})

    def calls(url: str, status: int = 200, **headers: str) -> None:
        for _ in range(TIMES):
            assert client.get(url, headers=headers).status_code == status, url

    for what in ("book", "runs"):
        ours, theirs = f"/api/v1/rigs/cement-cabinet/{what}", f"/plain/cement-cabinet/{what}"
        calls(ours), calls(theirs)
        report(
            f"{what} against a framework view of the same rows",
            turns(partial(calls, ours), partial(calls, theirs)),
            READS,
        )
    url = "/api/v1/rigs/bake-out-shell/wiring/faults"
    tag = client.get(url).headers["ETag"]
    kept = turns(lambda: calls(url, 304, **{"if-none-match": tag}), lambda: calls("/bare"))
    report("an unchanged answer (304) against a bare view", kept, KEPT)
    rig = Rig.objects.get(slug="bake-out-shell")

    def cold() -> None:
        domain._faults.cache_clear()
        assert client.get(url).status_code == 200

    report(
        "cold failures over HTTP against the core call",
        turns(cold, lambda: domain._faults.__wrapped__(rig.pk, rig.created_at, rig.revision)),
        COLD,
    )


def pasting() -> None:
    """500 wires pasted and answered with the whole view, against the view alone of what was pasted."""
    client, url = Client(headers={"host": "localhost"}), "/api/v1/rigs/pitch-plate/wiring"
    blocks = [{"name": f"X{i}", "kind": "terminal_block"} for i in range(1, 131)]
    lines = [f"X{1 + i // 4}.{1 + i % 4}, X{2 + i // 4}.{8 - i % 4}" for i in range(500)]
    seconds = []
    for _ in range(3):
        view = client.get(url).json()
        text = json.dumps({"format": "rellux-wiring", "version": 1, "parts": blocks, "wires": []})
        body = {"revision": view["revision"], "text": text}
        emptied = client.post(f"{url}/import", body, content_type="application/json").json()
        body = {"revision": emptied["revision"], "text": "\n".join(lines)}
        begin = time.perf_counter()
        assert client.post(f"{url}/paste", body, content_type="application/json").status_code == 200
        seconds.append(time.perf_counter() - begin)

    def view() -> None:
        for cached in (domain._positions, domain._drawings, domain._faults, domain._every_finding, overview._findings):
            cached.cache_clear()
        assert client.get(url).status_code == 200

    report("500 wires pasted and answered, against computing their view", min(seconds) / best(view, 3), 2.0)


def script_size() -> None:
    """Gzipped JavaScript fetched before the first station is shown."""
    page = ROOT / "web/dist"
    if not page.exists():
        print("     the interface is not built; its size was not measured")
        return
    scripts = re.findall(r'(?:src|href)="/app/([^"]+\.js)"', (page / "index.html").read_text())
    size = sum(len(gzip.compress((page / s).read_bytes())) for s in scripts) / 1024
    report("initial script, gzipped", size, 350, unit="kB")
