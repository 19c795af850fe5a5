"""The link of a rig to its controller and to what else measures there, their present states, and the writes waiting to be sent."""

from django.db import models
from django.utils import timezone

from rellux.server.accounts.models import User
from rellux.server.rigs.models import Rig


class RegisterMapFile(models.Model):
    """A register map the workshop has described, as its file. Never changed: an edit is its ``successor``."""

    key = models.CharField(max_length=30, unique=True)
    title = models.CharField(max_length=60)
    data = models.JSONField()
    created_at = models.DateTimeField(default=timezone.now)
    successor = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="former")


class Reached(models.Model):
    """How to reach a device. A stand-in is started by Rellux itself. ``generation`` rises whenever it points elsewhere: what was
    heard from or meant for the former device is told apart by it. ``recorder_at``: when a recorder last said that it follows it.
    ``device``: its serial port, its log's path or its topic. ``line_format``: how to read what is printed, ``mapping`` a log.
    ``channels``: what its values are, where somebody has said so. ``username`` to ``authority``: how a broker lets Rellux in."""

    class Way(models.TextChoices):
        """How it is reached: over the network, over the network with serial frames, over a serial port of this machine, by listening
        to what it prints there, by following a log that another program writes, or by the messages it sends to a broker."""

        TCP = "tcp"
        RTU_TCP = "rtu_tcp"
        SERIAL = "serial"
        TEXT = "text"
        FILE = "file"
        MQTT = "mqtt"

    stand_in = models.BooleanField(default=False)
    way = models.CharField(max_length=8, choices=Way.choices, default=Way.TCP)
    device = models.CharField(max_length=200, blank=True)
    baud = models.PositiveIntegerField(default=9600)
    parity = models.CharField(max_length=1, default="N")
    stop_bits = models.PositiveSmallIntegerField(default=1)
    host = models.CharField(max_length=100, default="127.0.0.1")
    port = models.PositiveIntegerField()
    unit_id = models.PositiveSmallIntegerField(default=1)
    register_map = models.CharField(max_length=30, default="stand_in")
    poll_s = models.FloatField(default=0.25)
    line_format = models.JSONField(default=dict)
    mapping = models.JSONField(default=dict)
    channels = models.JSONField(default=list)
    username = models.CharField(max_length=100, blank=True)
    password = models.CharField(max_length=200, blank=True)
    encrypted = models.BooleanField(default=False)
    authority = models.CharField(max_length=200, blank=True)
    generation = models.PositiveIntegerField(default=0)
    recorder_at = models.DateTimeField(null=True)

    class Meta:
        abstract = True


class Link(Reached):
    """The controller of a rig: the one device that can be written to. ``text_commands``: what a board takes as lines.
    ``armed_window``: the browser window writing is armed for. ``writes``: how often each value was written from here, by its name."""

    rig = models.OneToOneField(Rig, on_delete=models.CASCADE, related_name="link")
    text_commands = models.JSONField(default=dict)
    speed = models.FloatField(default=1.0)
    vigour = models.FloatField(default=1.0)
    start_c = models.FloatField(null=True)
    armed_until = models.DateTimeField(null=True)
    armed_window = models.CharField(max_length=40, blank=True)
    writes = models.JSONField(default=dict)


class Instrument(Reached):
    """Another device that measures something of a rig: a logger, a meter, a limiter that can be read. It is only ever read."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="instruments")
    name = models.CharField(max_length=60)

    class Meta:
        ordering = ("pk",)
        constraints = [models.UniqueConstraint(fields=("rig", "name"), name="instrument_once")]


class State(models.Model):
    """The newest poll, written by the recorder only."""

    at = models.DateTimeField()
    online = models.BooleanField(default=False)
    generation = models.PositiveIntegerField(default=0)
    message = models.CharField(max_length=200, blank=True)
    values = models.JSONField(default=dict)

    class Meta:
        abstract = True


class LinkState(State):
    """``alarms``: where the alarms of the rig's plan stand, as the recorder judges them; ``feel``: what its status light says, empty where
    it has none."""

    alarms = models.JSONField(default=list)
    feel = models.CharField(max_length=8, blank=True, default="")
    link = models.OneToOneField(Link, on_delete=models.CASCADE, related_name="state")


class InstrumentState(State):
    instrument = models.OneToOneField(Instrument, on_delete=models.CASCADE, related_name="state")


class Command(models.Model):
    """A write to the controller: queued by somebody, claimed and sent by the recorder, value by value. ``begun`` is written
    before each value goes out, ``read_back`` after it was read again, so that a crash leaves no doubt about the others.
    ``safe_off``: the map's safe-off sequence, which needs no arming."""

    class State(models.TextChoices):
        """What became of it. ``part``: some of it may have reached the controller."""

        QUEUED = "queued"
        SENDING = "sending"
        DONE = "done"
        PART = "part"
        REFUSED = "refused"
        EXPIRED = "expired"
        CANCELLED = "cancelled"

    link = models.ForeignKey(Link, on_delete=models.CASCADE, related_name="commands")
    generation = models.PositiveIntegerField(default=0)
    safe_off = models.BooleanField(default=False)
    by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True)
    created_at = models.DateTimeField()
    expires_at = models.DateTimeField(default=timezone.now)
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    values = models.JSONField()
    before = models.JSONField(default=dict)
    begun = models.JSONField(default=list)
    read_back = models.JSONField(default=dict)
    error = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ("-safe_off", "pk")
