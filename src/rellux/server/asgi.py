"""The ASGI application, behind a gate that refuses oversized bodies before they are read to disk."""

import json
import os
import re
import warnings
from collections.abc import Awaitable, Callable
from typing import Any

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "rellux.server.settings")

# Files and exports are produced by ordinary iterators; Django then reads them whole in a worker thread, which is meant.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

UPLOAD_PATHS = ("/api/v1/uploads", "/api/v1/rigs/import")
PHOTO_PATH = re.compile(r"/api/v1/(rigs/[\w-]+/wiring|controllers/[\w-]+)/photos")


class TooLargeError(Exception):
    """More bytes came than were allowed."""


def limit_bodies(app: App, small: int, large: int, photo: int) -> App:
    """Refuse request bodies over ``large`` bytes on upload paths, over ``photo`` bytes for photographs and over
    ``small`` bytes elsewhere, with a 413."""

    def limit(path: str) -> int:
        if path in UPLOAD_PATHS:
            return large
        return photo if PHOTO_PATH.fullmatch(path) else small

    async def limited(scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await app(scope, receive, send)
            return
        allowed = limit(scope["path"].rstrip("/"))
        announced = dict(scope["headers"]).get(b"content-length", b"0")
        if not announced.isdigit() or int(announced) > allowed:
            await _refuse(send, allowed, int(announced) if announced.isdigit() else None)
            return
        seen = 0

        async def counted() -> dict[str, Any]:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > allowed:
                raise TooLargeError
            return message

        try:
            await app(scope, counted, send)
        except TooLargeError:
            await _refuse(send, allowed, None)

    return limited


async def _refuse(send: Send, allowed: int, size: int | None) -> None:
    said = f"{size / 1048576:.0f} MB" if size else "this"
    body = {
        "message": "The file is too large.",
        "problems": [
            {
                "field": "file",
                "reason": f"{said} is more than Rellux takes in one piece",
                "accepted": f"up to {allowed / 1048576:.0f} MB; split a longer log by time",
            }
        ],
    }
    await send(
        {
            "type": "http.response.start",
            "status": 413,
            "headers": [(b"content-type", b"application/json"), (b"connection", b"close")],
        }
    )
    await send({"type": "http.response.body", "body": json.dumps(body).encode()})


def _application() -> App:
    django = get_asgi_application()
    from django.conf import settings  # only readable once Django is set up

    return limit_bodies(django, settings.BODY_LIMIT, settings.UPLOAD_LIMIT, settings.PHOTO_LIMIT)


application = _application()
