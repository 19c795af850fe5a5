"""Readings that come as MQTT messages, in Rellux's own form (``docs/mqtt.md``).

A message is as old as it says: one that the broker kept (retained), that comes twice, or that was sent long before is not news.
Nothing is ever published.
"""

import json
import math
import queue
import ssl
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import Any

from rellux.core.logs.lines import MOST_NESTED, VALUES
from rellux.core.logs.mapping import READINGS_C

from .arriving import Arriving
from .modbus_link import LinkDown, is_host
from .register_map import RegisterMap
from .registers import Value
from .text_link import TEXT

CONNECT_S, WAIT_S = 3.0, 0.2
LONGEST_MESSAGE, LONGEST_TOPIC = 4096, 120
LARGEST_AUTHORITY = 1 << 20
"""Of the file of a certificate, bytes (our choice: all that a machine trusts is a quarter of it)."""
ALIVE_S = 5
"""Between two signs of life of the broker, s."""
FRESH_S = 10.0
"""What was sent longer ago is not live, s (our choice: twice the age from which a reading is struck through)."""
EARLY_S = 2.0
"""How far ahead a sender's clock may be, s (our choice)."""
GONE = "gone"
"""The last level of the topic of a sender's last will."""


@dataclass(frozen=True)
class MqttAddress:
    """Broker and topic; readings come at ``topic/now``, the sender's last will at ``topic/gone``. ``user`` and ``password`` where the
    broker asks for them. ``encrypted``: by TLS, the broker's certificate checked against the file ``authority``, or against what this
    machine trusts."""

    host: str
    port: int
    topic: str
    user: str = ""
    password: str = field(default="", repr=False)
    encrypted: bool = False
    authority: str = ""

    def __str__(self) -> str:
        return f"{self.topic} at {self.host}:{self.port}"


def is_topic(topic: str) -> bool:
    """Whether a topic can be one device's: some levels, no wildcards.

    >>> is_topic("rellux/kiln"), is_topic("rellux/#"), is_topic("")
    (True, False, False)
    """
    return 0 < len(topic) <= LONGEST_TOPIC and not set(topic) & set("#+\0$") and all(topic.split("/"))


def trusting(authority: str) -> ssl.SSLContext:
    """How a broker's certificate is checked: by the certificate of who vouches for it, in a file, or by what this machine trusts.
    Raises :class:`LinkDown` for a file that is none."""
    file = Path(authority)
    try:
        if authority and not (file.is_file() and file.stat().st_size <= LARGEST_AUTHORITY):  # a device is endless
            raise LinkDown(f"{authority} is no file with a certificate")
        return ssl.create_default_context(cafile=authority or None)
    except (OSError, ValueError) as error:  # the first includes what OpenSSL cannot read
        raise LinkDown(f"{authority} is no file with a certificate") from error


def values_in(payload: bytes) -> tuple[float, dict[str, Value | None]] | None:
    """When a message was sent, in seconds since 1970, and its live values; ``None`` for what is none."""
    if len(payload) > LONGEST_MESSAGE or payload.count(b"{") + payload.count(b"[") > MOST_NESTED:
        return None
    try:
        told = json.loads(payload)
    except ValueError:
        return None
    sent = _moment(told.get("at")) if isinstance(told, dict) else None
    if sent is None:
        return None
    found: dict[str, Value | None] = {}
    for name in VALUES.values():
        if name in told:
            found[name] = _value(name, told[name])
    return (sent, found) if any(v is not None for v in found.values()) else None


def _moment(told: Any) -> float | None:
    if isinstance(told, str):
        try:
            moment = datetime.fromisoformat(told)
        except ValueError:
            return None
        return moment.timestamp() if moment.tzinfo else None
    if isinstance(told, bool) or not isinstance(told, int | float) or not math.isfinite(told) or told <= 0:
        return None
    return float(told)


def _value(name: str, told: Any) -> float | None:
    if isinstance(told, bool):
        return float(told) if name in ("switch", "door", "cooling") else None
    if not isinstance(told, int | float) or not math.isfinite(told):
        return None
    if name.endswith("_c") and not READINGS_C[0] <= told <= READINGS_C[1]:
        return None
    if name == "output" and not 0.0 <= told <= 100.0:
        return None
    return float(told)


class MqttLink:
    """What one sender publishes, as the recorder reads controllers."""

    comes_by_itself = True
    remark = ""
    map: RegisterMap = TEXT

    def __init__(self, address: MqttAddress, interval_s: float, clock: Callable[[], float] = time.time) -> None:
        self.address, self._clock = address, clock
        self._arriving = Arriving(str(address), interval_s)
        self._came: queue.Queue[tuple[str, bytes] | str] = queue.Queue(maxsize=10_000)
        self._sent_s = -math.inf
        self._client: Any = None
        self._answered = 0.0

    def __enter__(self) -> "MqttLink":
        import paho.mqtt.client as mqtt
        from paho.mqtt.enums import CallbackAPIVersion

        if not is_host(self.address.host):
            raise LinkDown(f"{self.address.host!r} is no name of a broker")
        client = mqtt.Client(CallbackAPIVersion.VERSION2)
        client.connect_timeout = CONNECT_S
        if self.address.user:
            client.username_pw_set(self.address.user, self.address.password or None)
        if self.address.encrypted:
            client.tls_set_context(trusting(self.address.authority))
        client.on_connect = self._connected
        client.on_message = lambda _c, _u, message: self._offer((message.topic, bytes(message.payload)))
        client.on_disconnect = lambda *_: self._offer("the broker ended the connection")
        try:
            client.connect(self.address.host, self.address.port, keepalive=ALIVE_S)
        except ssl.SSLCertVerificationError as error:
            why = f"the broker's certificate is not trusted: {error.verify_message}"
            raise LinkDown(f"{why}, at {self.address.host}:{self.address.port}") from error
        except ssl.SSLError as error:
            raise LinkDown(f"what answers at {self.address.host}:{self.address.port} does not speak TLS") from error
        except (OSError, ValueError) as error:
            raise LinkDown(f"no broker answers at {self.address.host}:{self.address.port}") from error
        client.loop_start()
        self._client, self._answered = client, time.monotonic()
        self._arriving.begin()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._client is not None:
            self._client.disconnect()
            self._client.loop_stop()

    def _connected(self, client: Any, _data: Any, _flags: Any, reason: Any, _more: Any) -> None:
        if reason.is_failure:
            self._offer(f"the broker refuses: {reason}")
        else:
            client.subscribe([(f"{self.address.topic}/now", 1), (f"{self.address.topic}/{GONE}", 1)])

    def _offer(self, what: tuple[str, bytes] | str) -> None:
        if not self._came.full():
            self._came.put_nowait(what)

    def read(self) -> dict[str, Value | None] | None:
        """The next message's values, with the time it was sent; ``None`` where none has come. Raises :class:`LinkDown` where the sender
        or the broker has gone."""
        if self._arriving.newest is None:
            self._wait()
        return self._arriving.next()

    snapshot = read

    def _wait(self) -> None:
        try:
            came = self._came.get(timeout=WAIT_S)
        except queue.Empty:
            self._check_broker()
            return
        if isinstance(came, str):
            raise LinkDown(f"{came}: {self.address.host}:{self.address.port}")
        topic, payload = came
        if topic.endswith(f"/{GONE}"):
            if payload:
                raise LinkDown(f"{self.address} has gone: its last will has come")
            return
        self._take(payload)

    def _check_broker(self) -> None:
        """A broker that lets itself be reached and says nothing is none."""
        now = time.monotonic()
        if self._client.is_connected():
            self._answered = now
        elif now - self._answered > CONNECT_S:
            raise LinkDown(f"the broker at {self.address.host}:{self.address.port} does not answer")

    def _take(self, payload: bytes) -> None:
        found = values_in(payload)
        if found is None:
            self._arriving.unusable("is not of the form described in docs/mqtt.md")
            return
        sent_s, values = found
        age = self._clock() - sent_s
        if not -EARLY_S <= age <= FRESH_S:
            when = f"was sent {age:.0f} s ago" if age > 0 else f"says that it will be sent in {-age:.0f} s"
            self._arriving.unusable(f"{when}, or a clock is wrong")
            return
        if sent_s <= self._sent_s:
            return  # it came twice
        self._sent_s = sent_s
        self._arriving.put({"clock_s": sent_s, **values})

    def write(self, name: str, value: Value) -> Value:
        """It takes nothing."""
        raise LinkDown("Rellux only listens to these messages: nothing is published")

    def switch_off(self, within_s: float) -> dict[str, Value | None]:
        """It takes nothing."""
        raise LinkDown("Rellux only listens to these messages: switch off at the main switch")
