"""What the workshop owns by the piece, where each was, and what was said of it."""

from django.conf import settings
from django.db import models

from rellux.core.equipment.equipment import EquipmentRole
from rellux.server.choices import choices_of
from rellux.server.rigs.models import Rig


class Equipment(models.Model):
    """A piece. ``probe``: the fields of :class:`rellux.core.equipment.equipment.Probe`, or empty. ``revision`` rises with every change."""

    name = models.CharField(max_length=40, unique=True)
    role = models.CharField(max_length=12, choices=choices_of(EquipmentRole))
    note = models.CharField(max_length=400, blank=True)
    probe = models.JSONField(default=dict, blank=True)
    life = models.FloatField(null=True, blank=True)
    due = models.DateField(null=True, blank=True)
    certificates = models.JSONField(default=list, blank=True)
    scrapped_at = models.DateTimeField(null=True, blank=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ("name",)


class Stay(models.Model):
    """It was in a rig. ``rig_name`` stays when the rig is removed."""

    equipment = models.ForeignKey(Equipment, on_delete=models.CASCADE, related_name="stays")
    rig = models.ForeignKey(Rig, null=True, on_delete=models.SET_NULL, related_name="stays")
    rig_name = models.CharField(max_length=60)
    since = models.DateTimeField()
    until = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("since", "pk")
        constraints = (
            models.UniqueConstraint(
                fields=("equipment",), condition=models.Q(until__isnull=True), name="one_place_at_a_time"
            ),
        )


class Remark(models.Model):
    """Something done to it, or seen of it."""

    equipment = models.ForeignKey(Equipment, on_delete=models.CASCADE, related_name="remarks")
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    text = models.CharField(max_length=400)

    class Meta:
        ordering = ("at", "pk")
