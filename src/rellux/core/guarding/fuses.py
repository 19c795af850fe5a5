"""Which thermal fuse: its rating from the ladder and its place, and what it stands for good."""

from dataclasses import dataclass, replace

from ..errors import refuse
from ..messages import temperature
from .ladder import Ladder, Situation, fuse_share, ladder
from .plan import ThermalFuse

RATINGS_C = (72.0, 77.0, 84.0, 91.0, 98.0, 104.0, 110.0, 117.0, 121.0, 128.0, 133.0, 142.0, 152.0, 157.0, 167.0, 172.0, 184.0, 192.0,
             205.0, 216.0, 227.0, 240.0, 257.0)  # fmt: skip
"""Usual functioning temperatures of thermal fuses, °C (from memory)."""
HOLDS_BELOW_C = 25.0
"""What one holds for good, below its rating (typical of data sheets, from memory)."""
MOUNTING = (
    "Clamped or bonded to the surface it watches, not in free air. Crimp its leads: soldering near it opens it, or heats it to a false "
    "peace. Try one of the same lot to its end in the rig, or in an oil bath with a thermometer, before the one that is fitted."
)


@dataclass(frozen=True)
class FuseChoice:
    """One rating at the place: whether it fits, or why it does not, as a sentence."""

    fuse: ThermalFuse
    fits: bool
    why: str


def fitted(situation: Situation, fuse: ThermalFuse) -> Situation:
    return replace(situation, plan=replace(situation.plan, fuse=fuse))


def choose_fuse(situation: Situation, place_c: float, lag_s: float) -> tuple[FuseChoice, ...]:
    """Every usual rating at a place that is at ``place_c`` while the rig is at its working temperature; those that fit are between ordinary
    running and the weakest thing in the rig. Raises ``Refused`` for a rig that does not heat, and for a place no warmer than the room, or
    beyond what the rig may be."""
    purpose = situation.rig.purpose
    if not purpose.heats:
        raise refuse("plan", "this rig does not heat: a thermal fuse guards nothing", "a rig that heats")
    if not purpose.ambient_c < place_c <= purpose.highest_c:
        reason = "how warm the place is while the rig works"
        raise refuse("place_c", reason, "warmer than the room, up to the highest allowed")
    found = []
    for rating in RATINGS_C:
        fuse = ThermalFuse(rating, rating - HOLDS_BELOW_C, place_c, lag_s)
        found.append(FuseChoice(fuse, *_judged(ladder(fitted(situation, fuse)), situation, fuse)))
    return tuple(found)


def hottest_at_place(found: Ladder, situation: Situation, fuse: ThermalFuse) -> float:
    """How warm its place gets in ordinary work and while tuning, °C."""
    purpose = situation.rig.purpose
    share = fuse_share(fuse, purpose.working_c, situation.rig.rests_c)
    return situation.rig.rests_c + share * (found.running_top.high - situation.rig.rests_c)


def _judged(found: Ladder, situation: Situation, fuse: ThermalFuse) -> tuple[bool, str]:
    place = hottest_at_place(found, situation, fuse)
    if fuse.holding_c <= place:
        return (
            False,
            f"holds {temperature(fuse.holding_c)} for good, and its place gets {temperature(place, '.0f')} in ordinary work",
        )
    over = found.gap("fuse over limiter")
    if over and not over.is_wide_enough:
        return False, "may open before the limiter has ended it"
    soak = found.gap("weakest over fuse")
    if soak and not soak.is_wide_enough:
        return False, f"opens too late for {found.step(found.weakest).name}"
    opens = found.step("fuse")
    return (
        True,
        f"opens while the chamber is between {temperature(opens.low, '.0f')} and {temperature(opens.high, '.0f')}",
    )
