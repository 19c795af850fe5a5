"""The workshop's own parts."""

from django.db import models

from rellux.core.wiring.own_parts import OwnPart


class Own(models.Model):
    """A part with the numbers printed on it, for every rig of the workshop."""

    title = models.CharField(max_length=60, unique=True)
    kind = models.CharField(max_length=30)
    numbers = models.JSONField(default=dict)
    ratings = models.JSONField(default=dict)

    class Meta:
        ordering = ("title",)

    def part(self) -> OwnPart:
        return OwnPart(self.title, self.kind, self.numbers, self.ratings)
