"""Recorded runs. Samples live in compressed column chunks, appended and never changed (small ones are merged)."""

from django.db import models

from rellux.server.rigs.models import Rig


class Run(models.Model):
    """``programme``: of which version of which profile it was (``key``, ``number``) and when in the run that began (``start_s``)."""

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
    programme = models.JSONField(default=dict)

    class Meta:
        ordering = ("-started_at", "-pk")


class Piece(models.Model):
    """``data``: the packed columns. ``overview``: minimum and maximum per bucket, for drawing wide windows."""

    sequence = models.PositiveIntegerField()
    first_s = models.FloatField()
    last_s = models.FloatField()
    count = models.PositiveIntegerField()
    data = models.BinaryField()
    overview = models.BinaryField()

    class Meta:
        abstract = True
        ordering = ("sequence",)


class Chunk(Piece):
    """A piece of a run's own series."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="chunks")

    class Meta(Piece.Meta):
        constraints = [models.UniqueConstraint(fields=("run", "sequence"), name="chunk_once")]


class Track(models.Model):
    """What one device showed beside the control reading during a run. ``channels``: for every column its source, role, name, quantity
    (empty for a state), what measured it and what is added to it to be true, as they were then."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="tracks")
    device = models.CharField(max_length=60)
    channels = models.JSONField()
    interval_s = models.FloatField(null=True)
    samples = models.PositiveIntegerField(default=0)
    length_s = models.FloatField(default=0.0)

    class Meta:
        ordering = ("pk",)
        constraints = [models.UniqueConstraint(fields=("run", "device"), name="track_once")]


class TrackChunk(Piece):
    """A piece of a track."""

    track = models.ForeignKey(Track, on_delete=models.CASCADE, related_name="chunks")

    class Meta(Piece.Meta):
        constraints = [models.UniqueConstraint(fields=("track", "sequence"), name="track_chunk_once")]


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
