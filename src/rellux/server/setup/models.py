"""Parameter sheets: every saved state of the controller's settings, never overwritten."""

from django.db import models

from rellux.server.rigs.models import Rig


class Sheet(models.Model):
    """A full set of values at a moment. The newest is what the controller is believed to hold. ``walked``: every page of it was set by a
    walk; ``who`` saved it, empty where that was not written down yet."""

    class Kind(models.TextChoices):
        AS_FOUND = "as_found"
        AS_LEFT = "as_left"

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="sheets")
    at = models.DateTimeField()
    kind = models.CharField(max_length=10, choices=Kind.choices)
    values = models.JSONField()
    why = models.CharField(max_length=400, blank=True)
    walked = models.BooleanField(default=False)
    who = models.CharField(max_length=60, blank=True)

    class Meta:
        ordering = ("-at", "-pk")
