"""What was proved of a rig, step by step, and the names under its stages. Every record is kept; the newest of a step counts."""

from django.db import models

from rellux.core.proving.judging import StepVerdict
from rellux.server.rigs.models import Rig


class ProvedStep(models.Model):
    """What was seen at a step, what was expected of it then (``expected``, as words), and everything it hung on (``cites``)."""

    Verdict = models.TextChoices("Verdict", [(v.name, v.value) for v in StepVerdict])

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="proved_steps")
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    key = models.CharField(max_length=160)
    stage = models.PositiveSmallIntegerField()
    title = models.CharField(max_length=160)
    verdict = models.CharField(max_length=10, choices=Verdict.choices)
    says = models.CharField(max_length=500)
    seen = models.JSONField()
    number = models.FloatField(null=True)
    room_c = models.FloatField()
    cites = models.JSONField()
    why = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ("-at", "-pk")


class ProvedStage(models.Model):
    """A name under a stage, with the keys of the steps it had then; ``why`` where something stood against it."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="proved_stages")
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    stage = models.PositiveSmallIntegerField()
    steps = models.JSONField(default=list)
    why = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ("-at", "-pk")
