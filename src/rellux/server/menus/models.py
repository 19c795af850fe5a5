"""Descriptions of controllers' menus, and which controller a rig has."""

from django.db import models

from rellux.server.rigs.models import Rig


class ControllerFile(models.Model):
    """A description the workshop made itself."""

    key = models.CharField(max_length=40, unique=True)
    title = models.CharField(max_length=160)
    data = models.JSONField()

    class Meta:
        ordering = ("title",)


class ManualPhoto(models.Model):
    """A photograph of a page of a controller's manual; ``place``: what its pages say of where the manual tells of them."""

    controller = models.ForeignKey(ControllerFile, on_delete=models.CASCADE, related_name="photos")
    place = models.CharField(max_length=160)
    image = models.BinaryField()

    class Meta:
        ordering = ("pk",)


class RigController(models.Model):
    """A controller that was fitted, with its description as it was then; the newest is in the rig. ``found``: counts of pages that were
    read off it. ``wanted``: the sheet of a walk that has begun (empty: none has), ``began`` the counts it began with, ``done`` how many of
    its gestures have been done. ``block``: of one that is set in its source text, instead. ``fresh``: it came in place of another, as it
    was delivered; sheets of before say nothing of it."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="controllers")
    at = models.DateTimeField()
    key = models.CharField(max_length=40, blank=True)
    description = models.JSONField()
    found = models.JSONField(default=dict)
    wanted = models.JSONField(default=dict)
    began = models.JSONField(default=list)
    done = models.PositiveIntegerField(default=0)
    block = models.JSONField(default=dict)
    fresh = models.BooleanField(default=False)
    why = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ("-at", "-pk")
