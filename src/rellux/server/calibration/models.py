"""Calibrations: pairs and offsets, as found and as left; and when they are done again."""

from django.db import models

from rellux.core.calibration.conformity import WHOLE_U
from rellux.core.calibration.due import Interval
from rellux.core.calibration.schools import OffsetSchool
from rellux.server.choices import choices_of
from rellux.server.rigs.models import Rig


class Calibration(models.Model):
    """``compared_with``: answers of the reference's form; ``scatter_before`` and ``allowed_c``: what was known then of how pairs
    scatter, and how far the display might be off. With these and the pairs every number of it can be worked out again."""

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
    compared_with = models.JSONField(default=dict, blank=True)
    scatter_before = models.JSONField(default=dict, blank=True)
    allowed_c = models.FloatField(null=True, blank=True)
    guard = models.FloatField(default=WHOLE_U)

    class Meta:
        ordering = ("-at", "-pk")


class CalibrationPlan(models.Model):
    """By which school a rig's display is compared again, how far it may be off, and above which temperature its sensor ages (left out: as
    is usual). Every one is kept; the newest is in force."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="calibration_plans")
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    interval = models.CharField(max_length=10, choices=choices_of(Interval))
    days = models.PositiveIntegerField(null=True, blank=True)
    allowed_c = models.FloatField(null=True, blank=True)
    guard = models.FloatField(default=WHOLE_U)
    hot_c = models.FloatField(null=True, blank=True)
    why = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ("-at", "-pk")
