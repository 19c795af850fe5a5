"""Plans that guard a rig, and the proofs that they act. Every saved plan is kept; the newest is in force."""

from django.db import models

from rellux.server.rigs.models import Rig


class GuardPlan(models.Model):
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="guard_plans")
    at = models.DateTimeField()
    plan = models.JSONField()
    why = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ("-at", "-pk")


class Proof(models.Model):
    """What was dialled and seen, by whom; ``plan`` as it was then."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="proofs")
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    plan = models.JSONField()
    terminals_c = models.FloatField()
    by_heat = models.BooleanField()
    observed = models.JSONField()
    passed = models.BooleanField()
    says = models.CharField(max_length=300)

    class Meta:
        ordering = ("-at", "-pk")


class AlarmAsk(models.Model):
    """What a person wants of an alarm: taken by the recorder, which judges the alarms, and gone then."""

    class What(models.TextChoices):
        ACKNOWLEDGE = "acknowledge"
        RESET = "reset"
        SHELVE = "shelve"
        UNSHELVE = "unshelve"
        TAKE_OUT = "take_out"
        PUT_BACK = "put_back"

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="alarm_asks")
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    name = models.CharField(max_length=160)
    what = models.CharField(max_length=12, choices=What.choices)
    minutes = models.FloatField(default=0.0)

    class Meta:
        ordering = ("pk",)
