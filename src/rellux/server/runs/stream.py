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


def _snapshot(slug: str) -> str:
    close_old_connections()
    return json.dumps(as_json(live_of(Rig.objects.get(slug=slug))))


async def _events(slug: str) -> AsyncIterator[bytes]:
    """A line whenever something changed, and at least every five seconds so that a lost connection is noticed."""
    last, silent = "", 0.0
    yield b"retry: 1000\n\n"
    while True:
        try:
            now = await sync_to_async(_snapshot)(slug)
        except Rig.DoesNotExist:
            return
        if now != last or silent >= HEARTBEAT_S:
            last, silent = now, 0.0
            yield f"data: {now}\n\n".encode()
        await asyncio.sleep(EVERY_S)
        silent += EVERY_S


@require_GET
async def live(request: HttpRequest, slug: str) -> StreamingHttpResponse:
    if not await Rig.objects.filter(slug=slug).aexists():
        raise Http404
    response = StreamingHttpResponse(_events(slug), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response
