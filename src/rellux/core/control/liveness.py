"""When what a controller said is no longer news, and how long switching off may take before the main switch is named."""

LEAST_STALE_S, POLLS_MISSED = 5.0, 3
"""A reading is stale after three missed polls, and never sooner than five seconds: one lost answer on a bus is ordinary, and
nobody acts on a figure faster than that (our choice)."""
JITTER_S = 0.5
"""By how much a busy machine may be late with a poll, s (our choice)."""
NOT_ALIVE_S = 5.0
"""Without a sign of life from the recorder for so long it counts as stopped, s (our choice: five of its signs)."""
CONFIRM_S = 3.0
"""Without the controller's own word for so long the user is told to open the main switch, s (our choice: as long as a person
watches a lamp before reaching for the switch)."""
RECORDER_S = 1.4
"""How long the recorder is waited for before the controller is spoken to directly, s: half of the above, and a poll."""
DIRECT_TIMEOUT_S = 0.4
"""How long one answer of the controller is waited for when it is spoken to directly, s."""


def stale_after_s(poll_s: float) -> float:
    """Seconds after which a reading polled every ``poll_s`` seconds is stale.

    >>> stale_after_s(0.25), stale_after_s(10.0)
    (5.0, 30.0)
    """
    return max(LEAST_STALE_S, POLLS_MISSED * poll_s)


def is_stall(passed_s: float, poll_s: float) -> bool:
    """Whether so long between two answers, s, is a gap of the record: more than three intervals of ``poll_s`` and what a busy machine
    may take for one anyway.

    >>> is_stall(3.4, 1.0), is_stall(3.6, 1.0)
    (False, True)
    """
    return passed_s > POLLS_MISSED * poll_s + JITTER_S
