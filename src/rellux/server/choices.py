"""Enums of the core as the choices of a model's field: the database holds what the core knows, and nothing else."""

from enum import StrEnum


def choices_of(words: type[StrEnum]) -> list[tuple[str, str]]:
    """``(value, value in words)`` of each."""
    return [(word.value, word.value.replace("_", " ")) for word in words]
