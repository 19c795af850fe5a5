"""Chambers: which rigs are zones of one, in the order they lie."""

from django.db import models

from rellux.server.rigs.models import Rig


class Chamber(models.Model):
    """``along_percent``: of each pair of neighbours, how far one comes along with the other; ``supply_w``: what all of them may draw at
    once. ``revision`` rises with every change."""

    name = models.CharField(max_length=60, unique=True)
    along_percent = models.JSONField(default=list)
    supply_w = models.FloatField(null=True, blank=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ("name",)


class ChamberZone(models.Model):
    """A rig is a zone of one chamber at the most."""

    chamber = models.ForeignKey(Chamber, on_delete=models.CASCADE, related_name="zones")
    rig = models.OneToOneField(Rig, on_delete=models.CASCADE, related_name="zone")
    place = models.PositiveSmallIntegerField()

    class Meta:
        ordering = ("place",)
        constraints = (models.UniqueConstraint(fields=("chamber", "place"), name="one_zone_in_a_place"),)
