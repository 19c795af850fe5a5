"""What was identified from which stretch of which run."""

from django.db import models

from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.server.choices import choices_of
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run


class Identification(models.Model):
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="identifications")
    run = models.ForeignKey(Run, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField()
    start_s = models.FloatField()
    end_s = models.FloatField()
    gain = models.FloatField()
    lag_s = models.FloatField()
    dead_time_s = models.FloatField()
    verdict = models.CharField(max_length=20, choices=choices_of(FitVerdict))
    result = models.JSONField(default=dict)
    accepted = models.CharField(max_length=30, blank=True)
    accepted_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-at", "-pk")
