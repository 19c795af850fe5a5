"""The rig and its book. Everything else of a rig hangs off :class:`Rig`."""

from django.conf import settings
from django.db import models

from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Effect, RigKind, Supply
from rellux.core.spine import Station
from rellux.core.wiring.choice import Actuator, Output
from rellux.core.wiring.usual_circuits import Usual
from rellux.server.choices import choices_of


class Rig(models.Model):
    """A heating rig: purpose and chosen parts. Temperatures in °C. ``revision`` rises with every change; ``rewired_at``: when
    other terminals were last joined than before; ``archived_at``: since when it is kept out of the way, unchanged."""

    slug = models.SlugField(max_length=60, unique=True)
    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=20, choices=choices_of(RigKind))
    working_c = models.FloatField()
    lowest_c = models.FloatField(null=True, blank=True)
    lowest_reason = models.CharField(max_length=200, blank=True)
    highest_c = models.FloatField()
    highest_reason = models.CharField(max_length=200)
    ambient_c = models.FloatField(default=21.0)
    supply = models.CharField(max_length=20, choices=choices_of(Supply))
    supply_voltage_v = models.FloatField()
    frequency_hz = models.FloatField(default=50.0)
    effect = models.CharField(max_length=10, default=Effect.HEATS.value, choices=choices_of(Effect))
    heater_power_w = models.FloatField(default=0.0)
    heater_voltage_v = models.FloatField(default=0.0)
    materials = models.JSONField(default=list, blank=True)
    fire = models.JSONField(default=dict, blank=True)
    cooler = models.JSONField(default=dict, blank=True)
    controls = models.JSONField(default=dict, blank=True)
    own_mains = models.JSONField(default=dict, blank=True)
    heater_sensor = models.JSONField(default=dict, blank=True)
    sensor = models.CharField(max_length=10, blank=True)
    output = models.CharField(max_length=20, blank=True, choices=choices_of(Output))
    actuator = models.CharField(max_length=20, blank=True, choices=choices_of(Actuator))
    limiter = models.BooleanField(default=False)
    practice = models.CharField(max_length=10, default=Practice.IEC.value, choices=choices_of(Practice))
    plug_a = models.FloatField(null=True, blank=True)
    programme_forms = models.JSONField(default=dict, blank=True)
    circuit = models.CharField(max_length=20, default=Usual.PARTS.value, choices=choices_of(Usual))
    revision = models.PositiveIntegerField(default=1)
    created_at = models.DateTimeField()
    rewired_at = models.DateTimeField(null=True, blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("created_at", "pk")

    def __str__(self) -> str:
        return self.name


class Entry(models.Model):
    """One line of the book: what changed at which station, before and after, and why. ``imported``: it came with a file."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="entries")
    at = models.DateTimeField(db_index=True)
    who = models.CharField(max_length=60)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    station = models.CharField(max_length=20, choices=choices_of(Station))
    title = models.CharField(max_length=200)
    why = models.CharField(max_length=400, blank=True)
    before = models.JSONField(default=dict)
    after = models.JSONField(default=dict)
    imported = models.BooleanField(default=False)

    class Meta:
        ordering = ("-at", "-pk")
