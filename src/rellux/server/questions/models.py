"""Answers kept in a rig: the values of a question; the answer itself is computed anew each time."""

from django.db import models

from rellux.server.rigs.models import Rig


class Kept(models.Model):
    """Values of one question for one rig; one of each."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="kept")
    question = models.CharField(max_length=30)
    values = models.JSONField()
    at = models.DateTimeField()

    class Meta:
        ordering = ("pk",)
        constraints = (models.UniqueConstraint(fields=("rig", "question"), name="one_answer_a_question"),)
