"""Profiles of a rig, every version of each kept as it was: one that was run is never changed, only succeeded."""

from django.db import models

from rellux.server.rigs.models import Rig


class ProfileVersion(models.Model):
    """``key`` names the profile through all its versions, ``number`` counts them from 1. ``kind`` and ``inputs``: what it was made from,
    empty where it was made by hand. A profile is removed by its newest version's ``removed_at``."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="profile_versions")
    key = models.SlugField(max_length=60)
    number = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=80)
    at = models.DateTimeField()
    who = models.CharField(max_length=60)
    kind = models.CharField(max_length=20, blank=True)
    inputs = models.JSONField(default=dict)
    profile = models.JSONField()
    why = models.CharField(max_length=400, blank=True)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("key", "-number")
        constraints = [models.UniqueConstraint(fields=("rig", "key", "number"), name="profile_version_once")]


class Programme(models.Model):
    """A profile that Rellux runs over the link of a rig: the recorder writes its set-points. ``state`` as the executor tells it;
    ``beat_at``: when it last moved. ``ask``: what somebody wants of it, taken by the recorder and emptied then."""

    class Ask(models.TextChoices):
        PAUSE = "pause"
        GO_ON = "go_on"
        SKIP = "skip"
        ABORT = "abort"

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="programmes")
    generation = models.PositiveIntegerField()
    key = models.SlugField(max_length=60)
    number = models.PositiveSmallIntegerField()
    who = models.CharField(max_length=60)
    attended = models.BooleanField()
    begun_at = models.DateTimeField()
    beat_at = models.DateTimeField()
    start_c = models.FloatField()
    least_s = models.FloatField()
    step_c = models.FloatField()
    standing = models.CharField(max_length=10)
    state = models.JSONField(default=dict)
    ask = models.CharField(max_length=8, blank=True, choices=Ask.choices)

    class Meta:
        ordering = ("-begun_at", "-pk")
