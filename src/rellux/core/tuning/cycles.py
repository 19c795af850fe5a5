"""An output that works in even cycles repeats what it does: a dead time that is longer or shorter by a cycle explains it as well, but for
what is not even. Where it was switched on and off by the reading itself it has to be shorter than a cycle: nothing is switched back by what
has not come yet."""

from dataclasses import replace

import numpy as np

from ..runs.controlled import Acts, controlled
from ..runs.series import Series
from .forms import Place
from .noise import Noise
from .record import Records
from .region import LONGEST_DEAD, MANY
from .settling import settled
from .stretch import Stretch

CYCLES = 2
"""Cycles that a dead time is looked for away from the first (our choice)."""
ALIKE = 10.0
"""By how much less likely (twice the logarithm) another is still as good: 1 to 150, where the model is true (our choice)."""
ANOTHER = 0.5
"""Of a cycle: two dead times that are further apart are two (our choice)."""


def likeliest(record: Records, first: Noise, best: tuple[Noise, Place]) -> tuple[tuple[Noise, Place], float | None]:
    """Noise and place of the form of the ``best`` so far, there or some cycles away, sought from the noise ``first``; and another dead
    time, s, that is as good, if there is one. Where a stretch holds many cycles they are short beside the process, and no rivals."""
    span, cycle, dead_s = record.span_s, record.cycle_s, best[1].dead_s
    if cycle < MANY * span:
        return best, None
    away = (dead_s + cycle * k for k in range(-CYCLES, CYCLES + 1) if k)
    others = (settled(record, first, replace(best[1], dead_s=d)) for d in away if 0.0 <= d < LONGEST_DEAD * span)
    rivals = [found for found in others if abs(found[1].dead_s - dead_s) > ANOTHER * cycle]
    ranked = sorted((best, *rivals), key=lambda found: record.marginal(found[0], *found[1].model))
    shorter = [found for found in ranked if found[1].dead_s < cycle]
    if shorter and is_on_off(record):
        return shorter[0], None
    likely, place = ranked[0]
    if place.dead_s >= cycle:
        return ranked[0], place.dead_s % cycle  # so few of them do not tell that it is so long
    enough = record.marginal(likely, *place.model) + ALIKE
    for n, p in ranked[1:]:
        if record.marginal(n, *p.model) < enough and abs(p.dead_s - place.dead_s) > ANOTHER * cycle:
            return ranked[0], p.dead_s
    return ranked[0], None


def is_on_off(record: Records) -> bool:
    """Whether all of it was switched by its reading, as far as its rows with a set-point show."""
    return all(_by_its_reading(part.stretch) for part in record.parts)


def _by_its_reading(s: Stretch) -> bool:
    if s.setpoint_c is None:
        return False
    nothing = np.full(len(s.time_s), np.nan)
    return controlled(Series(s.time_s, s.setpoint_c, s.reading_c, s.output, nothing)).acts is Acts.ON_OFF
