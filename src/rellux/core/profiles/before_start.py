"""What is to be known, and what must be so, before a programme is run over a link."""

from ..messages import quantity, span, temperature
from .profile import MOVES, Profile

VOLATILE_S, STORED_S = 1.0, 60.0
"""Least time between two writes: into memory that does not wear, and into memory that does, s (our choice)."""
DISPLAY_C = 0.1
"""A set-point is moved by a step of the display, °C: finer is seen by nobody, and every step is a write."""
UNKNOWN_LOSS = "What the controller does then its map does not say: most hold the last set-point for ever."
NEVER = "Its link timer is off: it holds that set-point for ever."
POLLS = 5.0
"""Questions that a link timer must outlast: one may be late, and asked once more (our choice)."""


def least_s(stored: bool) -> float:
    """Between two writes, s."""
    return STORED_S if stored else VOLATILE_S


def step_c(register_step_c: float) -> float:
    """By how much the set-point is moved at the least, °C."""
    return max(register_step_c, DISPLAY_C)


def not_done(profile: Profile) -> list[str]:
    """What of the profile Rellux does not do when it runs it: it writes set-points, and says the rest."""
    found = []
    if any(s.events for s in profile.segments):
        found.append("Rellux switches no fan, vent or buzzer: it marks in the run when each is due.")
    if any(s.alarms is not None for s in profile.segments):
        found.append("Every alarm of the plan holds in every segment.")
    if any(s.pid_set != 1 for s in profile.segments):
        found.append("The control values stay as they are in every segment.")
    return found


def hottest_in(profile: Profile, start_c: float) -> dict[int, float]:
    """The highest set-point in each segment over all its passages, °C, from ``start_c`` on, where none is skipped."""
    found: dict[int, float] = {}
    celsius = start_c
    for i in profile.order():
        s = profile.segments[i]
        after = s.target_c if s.kind in MOVES and s.target_c is not None else celsius
        found[i] = max(found.get(i, celsius), celsius, after)
        celsius = after
    return found


def hottest_skipped(profile: Profile, start_c: float) -> dict[int, float]:
    """The same where segments before it may be skipped: the set-point then stays as it is. The hottest there was until then, °C."""
    found: dict[int, float] = {}
    peak = start_c
    for i in profile.order():
        s = profile.segments[i]
        if s.kind in MOVES and s.target_c is not None:
            peak = max(peak, s.target_c)
        found[i] = max(found.get(i, peak), peak)
    return found


def on_link_loss(link_loss: str, timer_s: float | None) -> str:
    """What the controller does when nobody asks any more: the map's own words, and its timer where it has one (0: off)."""
    if timer_s is None:
        return link_loss or UNKNOWN_LOSS
    if timer_s <= 0:
        return NEVER
    return f"After {quantity(timer_s, 's', '.0f')} without a question: {link_loss or UNKNOWN_ACTION}"


UNKNOWN_ACTION = "it acts by itself; how, its map does not say."


def if_stopped(profile: Profile, start_c: float, link_loss: str, timer_s: float | None = None) -> list[str]:
    """A sentence a segment: what the rig does if Rellux, this computer or the link stops there (:func:`on_link_loss`)."""
    does, last = on_link_loss(link_loss, timer_s), len(profile.segments) - 1
    skipped = hottest_skipped(profile, start_c)

    def more(i: int, top: float) -> str:
        return f", or {temperature(skipped[i], '.0f')} where one before it was skipped" if skipped[i] > top else ""

    return [
        f"Stopped in segment {i + 1}, the last set-point is up to {temperature(top, '.0f')}{more(i, top)}. {does}"
        for i, top in hottest_in(profile, start_c).items()
        if i != last
    ]


def too_quick(timer_s: float | None, poll_s: float) -> list[str]:
    """A link timer that would act between two questions of a programme that is well."""
    if not timer_s or timer_s >= POLLS * poll_s:
        return []
    said, least = quantity(timer_s, "s", ".3g"), quantity(POLLS * poll_s, "s", ".3g")
    return [
        f"The controller acts after {said} without a question: set its link timer to {least} or more, or ask more often."
    ]


def timer_off(timer_s: float | None) -> list[str]:
    """A controller that could look after itself, and was told not to, is not left alone."""
    if timer_s is None or timer_s > 0:
        return []
    return [
        "Its link timer is off: set it in the controller's menu, so that it ends the heat when nobody asks any more."
    ]


def beyond_limits(profile: Profile, start_c: float, low_c: float, high_c: float) -> list[str]:
    """Where the controller's own limits of its set-point would refuse or clip what is written."""
    asked = [start_c, *(s.target_c for s in profile.segments if s.target_c is not None and s.kind in MOVES)]
    if low_c <= min(asked) and max(asked) <= high_c:
        return []
    limits, wanted = span(low_c, high_c, "°C"), span(min(asked), max(asked), "°C", ".0f")
    return [
        f"The controller takes set-points of {limits} only, and the profile goes through {wanted}: change its limits under Set-up."
    ]
