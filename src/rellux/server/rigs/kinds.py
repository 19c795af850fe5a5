"""The kinds of rig as the screens show them."""

from dataclasses import dataclass

from rellux.core.guarding.family import assumed
from rellux.core.purpose.cautions import CAUTIONS
from rellux.core.purpose.kinds import KINDS, Fires
from rellux.core.purpose.purpose import DIES_DOWN_S, IDLE_PERCENT, Effect, RigKind
from rellux.core.spine import Station


@dataclass(frozen=True)
class CautionView:
    """A danger of the kind, at the station where it is met. ``watched``: also where the rig only watches; ``lit``: only where a fire makes
    its heat; ``pumped``: only where a compressor cools beside its heater."""

    station: Station
    lead: str
    says: str
    watched: bool
    lit: bool
    pumped: bool


@dataclass(frozen=True)
class RigKindView:
    """``usual_low_c``, ``usual_high_c``: between what they work. ``assumed``, ``assumed_lit``: what is taken of
    its masses until a process is found, and over a fire; ``idle_percent``, ``dies_s``: what a fire is taken for to begin with."""

    kind: RigKind
    title: str
    effects: list[Effect]
    fires: Fires
    usual_low_c: float
    usual_high_c: float
    assumed: str
    assumed_lit: str
    idle_percent: float
    dies_s: float
    cautions: list[CautionView]


def rig_kind_view(kind: RigKind) -> RigKindView:
    known = KINDS[kind]
    cautions = [
        CautionView(c.station, c.lead, c.says, c.watched, *(also and kind not in c.kinds for also in (c.lit, c.pumped)))
        for c in CAUTIONS
        if kind in c.kinds or (c.lit and known.fires is not Fires.NEVER) or (c.pumped and Effect.HEATS in known.effects)
    ]
    told = assumed(kind), assumed(kind, burns=True)
    fire = IDLE_PERCENT, DIES_DOWN_S
    return RigKindView(kind, known.title, list(known.effects), known.fires, *known.usual_c, *told, *fire, cautions)
