"""What was identified from which stretch of which run, and the relay tests that were made over the link."""

from django.db import models

from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.relay.driven import TestStanding
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


class DrivenRelayTest(models.Model):
    """A relay test over the link of a rig, by its controller's own on/off mode. ``driven``: what was allowed; ``before``: the controller's
    own numbers, kept before the first of them is overwritten; ``beat_at``: when the recorder last looked after it; ``is_off``: it ended
    with the heat switched off; ``swing``: the settled cycle it ended with; ``ask_end``: somebody wants it to end. Of its run, which it may
    have ``opened`` itself, it is what lies from ``start_s`` to ``end_s``."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="relay_tests")
    run = models.ForeignKey(Run, null=True, on_delete=models.SET_NULL)
    generation = models.PositiveIntegerField()
    who = models.CharField(max_length=60)
    begun_at = models.DateTimeField()
    beat_at = models.DateTimeField()
    driven = models.JSONField()
    before = models.JSONField()
    standing = models.CharField(max_length=10, choices=choices_of(TestStanding))
    said = models.CharField(max_length=300, blank=True)
    is_off = models.BooleanField(default=False)
    swing = models.JSONField(default=dict)
    ask_end = models.BooleanField(default=False)
    opened = models.BooleanField(default=False)
    start_s = models.FloatField(default=0.0)
    end_s = models.FloatField(null=True)

    class Meta:
        ordering = ("-begun_at", "-pk")
