"""People as roles. On the loopback address everybody is the one local operator."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class User(AbstractUser):
    """A role at the bench; ``title`` is what the book shows."""

    title = models.CharField(max_length=60, default="Operator")

    def __str__(self) -> str:
        return self.title
