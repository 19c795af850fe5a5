"""Headers, tokens and sizes."""

import asyncio

from django.conf import settings
from django.test import Client

from rellux.server.asgi import limit_bodies


def test_no_inline_code_and_nothing_from_outside(db):
    policy = Client().get("/")["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "unsafe" not in policy and "http" not in policy
    nonces = {Client().get("/")["Content-Security-Policy"] for _ in range(3)}
    assert len(nonces) == 3


def test_writes_need_the_token(db):
    response = Client(enforce_csrf_checks=True).post("/api/v1/rigs", {}, content_type="application/json")
    assert response.status_code == 403 and response.json()["message"]


def test_other_hosts_are_refused(db):
    assert Client().get("/api/v1/rigs", HTTP_HOST="evil.example").status_code == 400


def test_errors_never_show_a_trace(api, rig, monkeypatch):
    monkeypatch.setattr("rellux.server.rigs.views.strips", lambda: 1 / 0)
    status, answer = api("GET", "rigs")
    assert status == 500 and "ZeroDivision" not in str(answer) and answer["problems"] == []


def call(path, size, announced=True, chunk=1 << 20):
    """What the gate answers to a body of ``size`` bytes; the application behind it reads everything."""
    sent, left = [], size

    async def application(scope, receive, send):
        while (await receive()).get("more_body"):
            pass
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b"read"})

    async def receive():
        nonlocal left
        take = min(left, chunk)
        left -= take
        return {"type": "http.request", "body": b"x" * take, "more_body": left > 0}

    async def send(message):
        sent.append(message)

    headers = [(b"content-length", str(size).encode())] if announced else []
    gate = limit_bodies(application, settings.BODY_LIMIT, settings.UPLOAD_LIMIT, settings.PHOTO_LIMIT)
    asyncio.run(gate({"type": "http", "path": path, "headers": headers}, receive, send))
    return sent[0]["status"], size - left


def test_a_300_mb_file_is_refused_before_it_is_read():
    status, read = call("/api/v1/uploads", 300 * 1024 * 1024)
    assert (status, read) == (413, 0)


def test_a_body_that_hides_its_size_is_cut_off():
    status, read = call("/api/v1/rigs", 50 * 1024 * 1024, announced=False)
    assert status == 413 and read <= settings.BODY_LIMIT + (1 << 20)


def test_ordinary_sizes_pass():
    assert call("/api/v1/uploads", 50 * 1024 * 1024)[0] == 200
    assert call("/api/v1/rigs", 1024)[0] == 200
    assert call("/api/v1/rigs/oven-2/wiring/photos", 10_000_000)[0] == 200
    assert call("/api/v1/controllers/a1b2/photos", 10_000_000)[0] == 200
    assert call("/api/v1/controllers/a1b2/photos/3", 10_000_000)[0] == 413
