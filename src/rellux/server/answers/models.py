from django.db import models


class LastingAnswer(models.Model):
    """What took long to work out, ``of`` a function, by a version of the code. ``digest``: of both and of what was asked."""

    digest = models.CharField(max_length=64, primary_key=True)
    of = models.CharField(max_length=100)
    code = models.CharField(max_length=64)
    at = models.DateTimeField(auto_now=True)
    answer = models.BinaryField()

    class Meta:
        indexes = [models.Index(fields=["at"])]
