"""Parts and wires of a rig, as rows; what has been wired, what was accepted, photos, and steps to undo."""

from django.db import models

from rellux.core.wiring.model import Circuit
from rellux.server.choices import choices_of
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
    circuit = models.CharField(max_length=10, choices=choices_of(Circuit))
    area_mm2 = models.FloatField()
    colour = models.CharField(max_length=20)
    length_m = models.FloatField(default=1.5)
    insulation = models.CharField(max_length=20, blank=True)
    route = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ("number",)
        constraints = [models.UniqueConstraint(fields=("rig", "number"), name="wire_number_once")]


class BuiltWire(models.Model):
    """A wire ticked off at the rig, as it was when it was ticked."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="built")
    number = models.PositiveIntegerField()
    a = models.CharField(max_length=40)
    b = models.CharField(max_length=40)
    area_mm2 = models.FloatField()
    colour = models.CharField(max_length=20)
    at = models.DateTimeField()

    class Meta:
        ordering = ("number",)
        constraints = [models.UniqueConstraint(fields=("rig", "number"), name="built_once")]


class Accepted(models.Model):
    """A finding somebody lives with, and why."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="accepted")
    rule = models.CharField(max_length=40)
    subjects = models.JSONField(default=list)
    reason = models.CharField(max_length=300)
    who = models.CharField(max_length=60)
    at = models.DateTimeField()

    class Meta:
        ordering = ("pk",)


class Photo(models.Model):
    """A photograph at a terminal."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="photos")
    terminal = models.CharField(max_length=40)
    image = models.BinaryField()
    kind = models.CharField(max_length=20)
    at = models.DateTimeField()

    class Meta:
        ordering = ("pk",)


class Step(models.Model):
    """One edit of the list, with the list before and after it."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="steps")
    title = models.CharField(max_length=200)
    before = models.JSONField()
    after = models.JSONField()
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ("pk",)
