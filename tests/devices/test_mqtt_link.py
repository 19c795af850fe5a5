"""Messages from a broker: the real protocol over a real socket. Old, doubled, retained and garbled ones are not news, a last will is
a gap, and nothing is published."""

import asyncio
import json
import logging
import threading
import time
from contextlib import nullcontext, suppress

import paho.mqtt.client as mqtt
import pytest
import trustme
from amqtt.broker import Broker
from paho.mqtt.enums import CallbackAPIVersion
from pwdlib import PasswordHash

from rellux.devices.modbus_link import LinkDown
from rellux.devices.mqtt_link import FRESH_S, MqttAddress, MqttLink, is_topic, values_in
from rellux.server.links.stand_ins import free_port

TOPIC = "rellux/kiln"


USER, PASSWORD = "bench", "long enough"


class Locked:
    """What a broker needs to be encrypted and to know its users: a certificate that only ``authority`` vouches for, and a password."""

    def __init__(self, folder):
        self.authority, own = folder / "authority.pem", trustme.CA()
        own.cert_pem.write_to_path(self.authority)
        key, chain = folder / "key.pem", folder / "chain.pem"
        certificate = own.issue_cert("127.0.0.1")
        certificate.private_key_pem.write_to_path(key)
        chain.write_bytes(b"".join(pem.bytes() for pem in certificate.cert_chain_pems))
        users = folder / "users"
        users.write_text(f"{USER}:{PasswordHash.recommended().hash(PASSWORD)}\n", encoding="utf-8")
        self.listener = {"ssl": True, "certfile": str(chain), "keyfile": str(key)}
        self.plugins = {"amqtt.plugins.authentication.FileAuthPlugin": {"password_file": str(users)}}


class Shop:
    """A broker in a thread of its own, and a sender."""

    def __init__(self, locked=None):
        self.locked = locked
        logging.getLogger("amqtt").setLevel(logging.CRITICAL)
        logging.getLogger("transitions").setLevel(logging.ERROR)
        self.port, self.ready, self.ended = free_port(), threading.Event(), None
        self.thread = threading.Thread(target=lambda: asyncio.run(self.serve()), daemon=True)
        self.thread.start()
        assert self.ready.wait(10)
        self.sender = self.connected(will=True)

    async def serve(self):
        self.loop, self.ended = asyncio.get_running_loop(), asyncio.Event()
        listeners = {"default": {"type": "tcp", "bind": f"127.0.0.1:{self.port}"}}
        plugins = {"amqtt.plugins.authentication.AnonymousAuthPlugin": {"allow_anonymous": True}}
        if self.locked:
            listeners["default"] |= self.locked.listener
            plugins = self.locked.plugins
        broker = Broker({"listeners": listeners, "plugins": plugins})
        await broker.start()
        self.ready.set()
        await self.ended.wait()
        await broker.shutdown()

    def connected(self, will=False):
        client = mqtt.Client(CallbackAPIVersion.VERSION2)
        if will:
            client.will_set(f"{TOPIC}/gone", b"gone", qos=1)
        if self.locked:
            client.username_pw_set(USER, PASSWORD)
            client.tls_set(str(self.locked.authority))
        client.connect("127.0.0.1", self.port, keepalive=5)
        client.loop_start()
        deadline = time.monotonic() + 5
        while not client.is_connected() and time.monotonic() < deadline:
            time.sleep(0.02)
        return client

    def say(self, retain=False, at=None, **values):
        told = {"at": time.time() if at is None else at, **values}
        self.sender.publish(f"{TOPIC}/now", json.dumps(told), qos=1, retain=retain).wait_for_publish(5)
        return told["at"]

    def link(self, interval_s=0.2, **let_in):
        return MqttLink(MqttAddress("127.0.0.1", self.port, TOPIC, **let_in), interval_s)

    def stop_broker(self):
        if self.thread.is_alive():
            self.loop.call_soon_threadsafe(self.ended.set)
        self.thread.join(10)

    def close(self):
        self.sender.loop_stop()
        self.stop_broker()


@pytest.fixture
def shop():
    shop = Shop()
    yield shop
    shop.close()


def subscribed(shop, link):
    """Wait until what is published is heard; nothing of that is left to be read."""
    deadline = time.monotonic() + 10
    while time.monotonic() < deadline:
        shop.say(reading_c=-1.0)
        if heard(link, 1, 0.5):
            while heard(link, 1, 0.5):
                pass
            return
    raise AssertionError("nothing is heard")


def heard(link, count, seconds=5.0):
    found, until = [], time.monotonic() + seconds
    while len(found) < count and time.monotonic() < until:
        if values := link.read():
            found.append(values)
    return found


def test_messages_are_readings_at_the_time_they_say(shop):
    with shop.link() as link:
        subscribed(shop, link)
        at = shop.say(reading_c=412.5, output=31.0, switch=True, load_a=6.2, mode="pid", nonsense=[1])
        assert heard(link, 1) == [{"clock_s": at, "reading_c": 412.5, "output": 31.0, "switch": 1.0, "load_a": 6.2}]


def test_what_is_old_comes_twice_or_is_kept_by_the_broker_is_no_news(shop):
    hour_ago = time.time() - 3600
    shop.say(retain=True, at=hour_ago, reading_c=999.0, setpoint_c=999.0)
    with shop.link() as link:
        subscribed(shop, link)
        now = time.time() + 0.2  # after what was said to subscribe
        for _ in range(3):
            shop.say(at=now, reading_c=20.0)
        shop.say(at=now - 0.1, reading_c=21.0)  # later on its way, earlier sent
        shop.say(at=now + 600.0, reading_c=22.0)
        shop.say(at=now - FRESH_S - 5.0, reading_c=23.0)
        shop.say(at=now + 0.5, reading_c=24.0)
        assert [v["reading_c"] for v in heard(link, 5, 2.0)] == [20.0, 24.0]
        with pytest.raises(LinkDown, match="only listens"):
            link.write("setpoint_c", 999.0)


def test_a_last_will_and_a_broker_that_ends_are_told(shop):
    with shop.link() as link:
        subscribed(shop, link)
        shop.say(reading_c=20.0)
        assert len(heard(link, 1)) == 1
        link._arriving._silent_s = 60.0
        shop.sender.loop_stop()  # it does not come back
        shop.sender.socket().close()  # pulled out, without a word
        with pytest.raises(LinkDown, match="last will"):
            heard(link, 1, 15.0)
    shop.sender = shop.connected()
    with shop.link() as link:
        subscribed(shop, link)
        link._arriving._silent_s = 60.0
        shop.stop_broker()
        with pytest.raises(LinkDown, match="broker"):
            heard(link, 1, 15.0)
    with pytest.raises(LinkDown, match="no broker answers"):
        shop.link().__enter__()


def test_a_broker_that_is_encrypted_and_knows_its_users(tmp_path):
    """Whatever is missing is said, and nobody is trusted who is not vouched for."""
    locked = Locked(tmp_path)
    let_in = {"user": USER, "password": PASSWORD, "encrypted": True, "authority": str(locked.authority)}
    shop = Shop(locked)
    try:
        for late in (True, True, False):  # a busy broker may take too long over a password
            with suppress(LinkDown) if late else nullcontext(), shop.link(**let_in) as link:
                subscribed(shop, link)
                shop.say(reading_c=412.5)
                assert heard(link, 1)[0]["reading_c"] == 412.5
                break
        with shop.link(**{**let_in, "password": "guessed"}) as link, pytest.raises(LinkDown, match="the broker"):
            heard(link, 1, 10.0)
        with pytest.raises(LinkDown, match="certificate is not trusted"):
            shop.link(**{**let_in, "authority": ""}).__enter__()
        with pytest.raises(LinkDown, match="no file with a certificate"):
            shop.link(**{**let_in, "authority": str(tmp_path / "users")}).__enter__()
        assert PASSWORD not in repr(shop.link(**let_in).address)
    finally:
        shop.close()
    plain = Shop()
    try:
        with pytest.raises(LinkDown, match=r"does not speak TLS|no broker answers"):
            plain.link(**let_in).__enter__()
    finally:
        plain.close()


def test_a_sender_whose_clock_is_wrong_is_told_so(shop):
    with shop.link() as link:
        subscribed(shop, link)
        link._arriving._silent_s = 0.5
        shop.say(at=time.time() - 7200, reading_c=20.0)
        with pytest.raises(LinkDown, match="was sent 7200 s ago, or a clock is wrong"):
            heard(link, 1)


@pytest.mark.parametrize(
    "payload",
    [
        b"", b"21.5", b"null", b"[]", b"{}", b'{"reading_c": 20}', b'{"at": "yesterday", "reading_c": 20}', b"\xff\xfe",
        b'{"at": "2026-11-24T08:00:00", "reading_c": 20}', b'{"at": -1, "reading_c": 20}', b'{"at": true, "reading_c": 20}',
        b'{"at": 1764000000, "reading_c": "20"}', b'{"at": 1764000000, "reading_c": NaN}', b'{"at": 1764000000, "reading_c": 1e9}',
        b'{"at": 1764000000, "reading_c": -300}', b'{"at": 1764000000, "output": 140}', b'{"at": 1764000000, "mode": "pid"}',
        b'{"at": 1764000000, "reading_c": 20, "x": "' + b"y" * 5000 + b'"}', b"[" * 3000,
    ],
)  # fmt: skip
def test_what_is_no_reading_is_none(payload):
    assert values_in(payload) is None


def test_a_moment_can_be_written_with_its_zone():
    sent, values = values_in(b'{"at": "2026-11-24T09:00:00+01:00", "reading_c": 20, "second_c": null, "door": false}')
    assert sent == 1_795_507_200.0 and values == {"reading_c": 20.0, "second_c": None, "door": 0.0}


@pytest.mark.parametrize("topic", ["#", "a/+", "a//b", "/a", "a/", "", "$SYS/x", "x" * 121, "a\0b"])
def test_a_topic_is_one_devices(topic):
    assert not is_topic(topic)
