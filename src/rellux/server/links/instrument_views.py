"""What else measures at a rig: its instruments, and what every value of each device is."""

from dataclasses import dataclass
from datetime import datetime

from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.liveness import stale_after_s
from rellux.core.errors import refuse
from rellux.core.logs.lines import LineFormat
from rellux.core.logs.mapping import Mapping
from rellux.core.runs.channels import LONGEST_NAME, ROLES, Channel, check
from rellux.core.spine import Station
from rellux.devices.registers import words_of
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig

from .channels import channels_of, values_of
from .live import live_of
from .maps import line_format_of, map_of
from .models import Instrument, InstrumentState, Link, LinkState
from .place import PlaceInput, checked_place, shortest_of
from .reaching import address_of

MOST_INSTRUMENTS = 16
CONTROLLER = "controller"


@dataclass(frozen=True)
class RoleView:
    """What a channel can be: ``kind`` is its quantity, none for a state."""

    key: str
    words: str
    kind: str | None


@dataclass(frozen=True)
class ChannelView:
    """A channel with what it shows now, as the device says it (``words``: what the device calls it); ``true`` with its offset. None
    where nothing fresh is known."""

    source: str
    words: str
    role: str
    name: str
    called: str
    sensor: str
    offset: float
    kept: bool
    kind: str | None
    shows: float | None
    true: float | None


@dataclass(frozen=True)
class DeviceView:
    """A device of a rig: its controller, or an ``instrument`` by its number, with its place and its channels."""

    instrument: int | None
    name: str
    place: str
    online: bool
    message: str
    age_s: float | None
    stale_after_s: float
    channels: list[ChannelView]


@dataclass(frozen=True)
class DevicesView:
    devices: list[DeviceView]
    roles: list[RoleView]


@dataclass(frozen=True)
class InstrumentInput(PlaceInput):
    """Another device's place, and what it is called."""

    name: str = ""


@dataclass(frozen=True)
class InstrumentView:
    id: int
    name: str
    stand_in: bool
    way: str
    device: str
    baud: int
    parity: str
    stop_bits: int
    shortest_s: float
    host: str
    port: int
    unit_id: int
    register_map: str
    map_title: str
    poll_s: float
    line_format: LineFormat | None
    mapping: Mapping | None
    username: str
    has_password: bool
    encrypted: bool
    authority: str


@dataclass(frozen=True)
class ChannelsInput:
    """What the values of a device are. ``instrument``: its number, none for the controller."""

    instrument: int | None
    channels: list[Channel]


def _state(device: Link | Instrument) -> LinkState | InstrumentState | None:
    state = getattr(device, "state", None)
    return state if state is not None and state.generation == device.generation else None


def device_view(device: Link | Instrument, now: datetime) -> DeviceView:
    """A device with what it shows, as the recorder last heard it."""
    state = _state(device)
    age = None if state is None else max(0.0, (now - state.at).total_seconds())
    stale = stale_after_s(device.poll_s)
    online = state is not None and state.online and age is not None and age <= stale
    values = state.values if state is not None and online else {}
    message = state.message if state is not None else ""
    if not online and not message:
        message = "waiting for the recorder"
    shown = []
    for c in channels_of(device):
        value = values.get(c.source)
        known = float(value) if isinstance(value, int | float) else None
        kind = c.kind.value if c.kind else None
        true = None if known is None else known + c.offset
        shown.append(
            ChannelView(
                c.source, words_of(c.source), c.role, c.name, c.called, c.sensor, c.offset, c.kept, kind, known, true
            )
        )
    instrument = device if isinstance(device, Instrument) else None
    name, number = (instrument.name, instrument.pk) if instrument else (CONTROLLER, None)
    place = "simulated" if device.stand_in else str(address_of(device))
    return DeviceView(number, name, place, online, message, age, stale, shown)


def devices_of(rig: Rig) -> list[Link | Instrument]:
    """The controller first, then every instrument."""
    link = Link.objects.filter(rig=rig).select_related("state").first()
    return [*([link] if link else []), *rig.instruments.select_related("state")]


def _instrument_of(slug: str, number: int) -> Instrument:
    return get_object_or_404(Instrument, rig__slug=slug, pk=number)


def instrument_view(i: Instrument) -> InstrumentView:
    found = map_of(i)
    return InstrumentView(
        i.pk,
        i.name,
        i.stand_in,
        i.way,
        i.device,
        i.baud,
        i.parity,
        i.stop_bits,
        shortest_of(i.way, i.device, i.baud, found, i),
        i.host,
        i.port,
        i.unit_id,
        i.register_map,
        found.title,
        i.poll_s,
        line_format_of(i) if i.way == Link.Way.TEXT else None,
        Mapping(**i.mapping) if i.mapping else None,
        i.username,
        bool(i.password),
        i.encrypted,
        i.authority,
    )


def _not_recording(rig: Rig, field: str) -> None:
    if live_of(rig).recording:
        raise refuse(field, "a run is being recorded, and would change what it holds", "stop the run first")


class Devices(APIView):
    @endpoint("devices", DevicesView)
    def get(self, request: Request, slug: str) -> Response:
        """Every device of a rig with its channels, as last heard."""
        rig = get_object_or_404(Rig, slug=slug)
        now = timezone.now()
        roles = [RoleView(r.key, r.words, r.kind.value if r.kind else None) for r in ROLES.values()]
        return reply(DevicesView([device_view(d, now) for d in devices_of(rig)], roles))

    @endpoint("setChannels", DevicesView, ChannelsInput)
    def put(self, request: Request, slug: str) -> Response:
        """Say what the values of a device are. Runs recorded before keep what was said then."""
        given = read(request, ChannelsInput)
        rig = get_object_or_404(Rig, slug=slug)
        if given.instrument is not None:
            device: Link | Instrument | None = _instrument_of(slug, given.instrument)
        else:
            device = Link.objects.filter(rig=rig).first()
        if device is None:
            raise Http404
        check(given.channels, values_of(device), isinstance(device, Link))
        _not_recording(rig, "channels")
        before = {c.source: c for c in channels_of(device)}
        device.channels = as_json(given.channels)
        device.save(update_fields=["channels"])
        changed = [c for c in channels_of(device) if before.get(c.source) != c]
        if changed:
            named = ", ".join(f"{c.source}: {c.called}" for c in changed)
            note(rig, request.user, Station.RUNS, f"Channels set: {named}"[:200])
        return self.get(request, slug)


class Instruments(APIView):
    @endpoint("instruments", InstrumentView, many=True)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        return reply([instrument_view(i) for i in rig.instruments.all()])

    @endpoint("addInstrument", InstrumentView, InstrumentInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """Another device that measures at this rig. It is only ever read."""
        given = read(request, InstrumentInput)
        rig = get_object_or_404(Rig, slug=slug)
        if rig.instruments.count() >= MOST_INSTRUMENTS:
            raise refuse("name", "the rig has many instruments already", f"up to {MOST_INSTRUMENTS}")
        place = _checked(given, rig, None)
        made = Instrument.objects.create(rig=rig, name=given.name.strip(), poll_s=given.poll_s, **place)
        note(rig, request.user, Station.RUNS, f"Instrument added: {made.name}")
        return reply(instrument_view(made), 201)


class InstrumentDetail(APIView):
    @endpoint("setInstrument", InstrumentView, InstrumentInput)
    def put(self, request: Request, slug: str, number: int) -> Response:
        given = read(request, InstrumentInput)
        old = _instrument_of(slug, number)
        place = _checked(given, old.rig, old)
        moved = any(getattr(old, name) != value for name, value in place.items())
        if moved or given.name.strip() != old.name:
            _not_recording(old.rig, "instrument")
        for name, value in {**place, "name": given.name.strip(), "poll_s": given.poll_s}.items():
            setattr(old, name, value)
        old.generation += moved
        old.save()
        note(old.rig, request.user, Station.RUNS, f"Instrument changed: {old.name}")
        return reply(instrument_view(old))

    @endpoint("removeInstrument", None, status=204)
    def delete(self, request: Request, slug: str, number: int) -> Response:
        old = _instrument_of(slug, number)
        _not_recording(old.rig, "instrument")
        old.delete()
        note(old.rig, request.user, Station.RUNS, f"Instrument removed: {old.name}")
        return Response(status=204)


def _checked(given: InstrumentInput, rig: Rig, old: Instrument | None) -> dict[str, object]:
    """The place of an instrument. Raises ``Refused`` for one that cannot be, and for a name that is taken or none."""
    name = given.name.strip()
    if not 1 <= len(name) <= LONGEST_NAME or name == CONTROLLER:
        raise refuse("name", "what is it called?", f"1…{LONGEST_NAME} characters, not {CONTROLLER}")
    if rig.instruments.filter(name=name).exclude(pk=old.pk if old else None).exists():
        raise refuse("name", f"this rig has a {name} already", "a name of its own")
    if given.stand_in and not Link.objects.filter(rig=rig, stand_in=True).exists():
        raise refuse("stand_in", "it is simulated at a simulated controller", "a simulated controller first")
    return checked_place(given, old)
