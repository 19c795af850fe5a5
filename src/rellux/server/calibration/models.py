"""Calibrations: pairs and offsets, as found and as left."""

from django.db import models

from rellux.core.calibration.schools import OffsetSchool
from rellux.server.choices import choices_of
from rellux.server.rigs.models import Rig


class Calibration(models.Model):
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="calibrations")
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    reference = models.CharField(max_length=120)
    sensor = models.CharField(max_length=10)
    school = models.CharField(max_length=30, choices=choices_of(OffsetSchool))
    pairs = models.JSONField()
    rule = models.JSONField()
    as_found_c = models.FloatField()
    as_left_c = models.FloatField()
    error_c = models.FloatField()
    uncertainty_c = models.FloatField()

    class Meta:
        ordering = ("-at", "-pk")
