"""Parts and wires of a rig, as rows; the core computes on them."""

from django.db import models

from rellux.server.rigs.models import Rig


class FittedPart(models.Model):
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="parts")
    name = models.CharField(max_length=20)
    kind = models.CharField(max_length=30)
    ratings = models.JSONField(default=dict)
    title = models.CharField(max_length=60, blank=True)
    numbers = models.JSONField(default=dict)

    class Meta:
        ordering = ("pk",)
        constraints = [models.UniqueConstraint(fields=("rig", "name"), name="part_name_once")]


class Wire(models.Model):
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="wires")
    number = models.PositiveIntegerField()
    a = models.CharField(max_length=40)
    b = models.CharField(max_length=40)
    circuit = models.CharField(max_length=10)
    area_mm2 = models.FloatField()
    colour = models.CharField(max_length=20)

    class Meta:
        ordering = ("number",)
        constraints = [models.UniqueConstraint(fields=("rig", "number"), name="wire_number_once")]
