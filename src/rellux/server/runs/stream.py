"""Live values to the browser as server-sent events. The recorder writes them; here they are only watched."""

import asyncio
import json
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.db import close_old_connections
from django.http import Http404, HttpRequest, StreamingHttpResponse
from django.views.decorators.http import require_GET

from rellux.server.api.shapes import as_json
from rellux.server.links.live import live_of
from rellux.server.rigs.models import Rig

EVERY_S = 0.5
HEARTBEAT_S = 5.0


def _snapshots(slugs: tuple[str, ...]) -> dict[str, str]:
    """What is known now of each of the rigs there still are, by slug."""
    close_old_connections()
    return {
        rig.slug: json.dumps({"rig": rig.slug, "live": as_json(live_of(rig))})
        for rig in Rig.objects.filter(slug__in=slugs)
    }


async def _events(slugs: tuple[str, ...]) -> AsyncIterator[bytes]:
    """A line for each rig of which something changed, and at least every five seconds so that a lost connection is noticed."""
    last: dict[str, str] = {}
    silent = 0.0
    yield b"retry: 1000\n\n"
    while now := await sync_to_async(_snapshots)(slugs):
        if silent >= HEARTBEAT_S:
            last, silent = {}, 0.0
        for line in (said for slug, said in now.items() if said != last.get(slug)):
            yield f"data: {line}\n\n".encode()
        last = now
        await asyncio.sleep(EVERY_S)
        silent += EVERY_S


@require_GET
async def live(request: HttpRequest) -> StreamingHttpResponse:
    """The rigs named in ``rigs``, all in one stream: a browser keeps only six connections to one server."""
    slugs = tuple(filter(None, request.GET.get("rigs", "").split(",")))
    if not await Rig.objects.filter(slug__in=slugs).aexists():
        raise Http404
    response = StreamingHttpResponse(_events(slugs), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response
