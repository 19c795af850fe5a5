"""Recorded runs. Samples live in compressed column chunks, appended and never changed (small ones are merged)."""

from django.db import models

from rellux.server.rigs.models import Rig


class Run(models.Model):
    class Source(models.TextChoices):
        LIVE = "live"
        CSV = "csv"
        SIMULATED = "simulated"

    class Status(models.TextChoices):
        RECORDING = "recording"
        FINISHED = "finished"
        INTERRUPTED = "interrupted"

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="runs")
    name = models.CharField(max_length=80)
    source = models.CharField(max_length=10, choices=Source.choices)
    status = models.CharField(max_length=12, choices=Status.choices)
    started_at = models.DateTimeField()
    clock_start_s = models.FloatField(null=True)
    sheet = models.JSONField(default=dict)
    samples = models.PositiveIntegerField(default=0)
    length_s = models.FloatField(default=0.0)
    peak_c = models.FloatField(null=True)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-started_at", "-pk")


class Chunk(models.Model):
    """``data``: Arrow stream of the columns. ``overview``: minimum and maximum per bucket, for drawing wide windows."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="chunks")
    sequence = models.PositiveIntegerField()
    first_s = models.FloatField()
    last_s = models.FloatField()
    count = models.PositiveIntegerField()
    data = models.BinaryField()
    overview = models.BinaryField()

    class Meta:
        ordering = ("sequence",)
        constraints = [models.UniqueConstraint(fields=("run", "sequence"), name="chunk_once")]


class Event(models.Model):
    """Something that happened at a moment of a run: a note, a gap, a restart."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="events")
    time_s = models.FloatField()
    kind = models.CharField(max_length=20)
    text = models.CharField(max_length=200)

    class Meta:
        ordering = ("time_s", "pk")


class Upload(models.Model):
    """A file waiting to be understood; removed once imported or after a day. ``above``: lines it has before the first row of the
    file it was made from."""

    name = models.CharField(max_length=200)
    path = models.CharField(max_length=300)
    above = models.PositiveSmallIntegerField(default=0)
    created_at = models.DateTimeField()


class RememberedMapping(models.Model):
    """How files with this heading were read last time."""

    heading = models.CharField(max_length=64, unique=True)
    mapping = models.JSONField()
