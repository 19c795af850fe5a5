"""Which controller each rig of the shop has: one half walked through, one that replaced another."""

from rellux.core.menus.contents import walk_to
from rellux.core.menus.options import as_bought
from rellux.core.menus.shipped import SHIPPED
from rellux.core.setup.text_block import TEMPLATE, TextBlock
from rellux.core.spine import Station
from rellux.server.api.shapes import as_json
from rellux.server.menus.models import RigController
from rellux.server.menus.rig_views import as_fitted, controller_part, found_in, wanted_of
from rellux.server.rigs.models import Rig

from .making import OPTICIAN, TECHNICIAN, Day, book

FITTED = (
    ("cement-cabinet", "larch", 39.0, TECHNICIAN, ""),
    ("blank-annealer", "basalt", 118.0, TECHNICIAN, ""),
    ("blank-annealer", "teasel", 96.0, TECHNICIAN, "the old one shows no more than 999"),
    ("bake-out-shell", "heron", 74.0, TECHNICIAN, ""),
    ("bake-out-shell", "teasel", 2.0, TECHNICIAN, "the old one’s display stayed dark"),
    ("pitch-plate", "osier", 27.0, OPTICIAN, ""),
    ("cement-store", "plover", 20.0, TECHNICIAN, ""),
    ("detector-cold-box", "basalt", 20.0, TECHNICIAN, ""),
    ("slurry-bath", "larch", 62.0, TECHNICIAN, ""),
    ("spectro-furnace", "teasel", 1009.0, TECHNICIAN, ""),
)
NEW = "bake-out-shell"
"""Its controller was exchanged, and two of its wires are on the new one so far."""
HALF = {"offset_c": -0.4, "hysteresis_c": 0.8, "output_high": 90.0}
"""What somebody was entering into the cement cabinet's when the telephone rang."""


BOARD = TextBlock(
    TEMPLATE + "\nconst int   ALGORITHM  = {mode};",
    words={"mode": {"on_off": "0", "pid": "1", "off": "2"}},
    tune="T",
    tuned="tuned Kp={kp} Ki={ki} Kd={kd}",
)
"""The board plate is a sketch of the technician's own."""


def controllers(day: Day) -> None:
    """After the rigs and their sheets."""
    rigs = {r.slug: r for r in Rig.objects.all()}
    for slug, key, age, who, why in FITTED:
        if slug not in rigs:
            continue
        row = RigController.objects.create(
            rig=rigs[slug],
            at=day.ago(age),
            key=key,
            description=as_json(as_bought(SHIPPED[key], ())),
            why=why,
            fresh=slug == NEW,
        )
        book(
            rigs[slug], row.at, who, Station.SETUP, "Controller described", after={"controller": SHIPPED[key].title}, why=why
        )  # fmt: skip
        if slug == "cement-cabinet":
            _half_way(rigs[slug], row)
        as_fitted(rigs[slug], SHIPPED[key], False)
    if NEW in rigs:
        part = controller_part(rigs[NEW])
        at_it = [b.pk for b in rigs[NEW].built.all() if part and part.name in (b.a.split(".")[0], b.b.split(".")[0])]
        rigs[NEW].built.filter(pk__in=at_it[2:]).delete()
    if "board-plate" in rigs:
        RigController.objects.create(rig=rigs["board-plate"], at=day.ago(14.0), description={}, block=as_json(BOARD))
        book(rigs["board-plate"], day.ago(14.0), TECHNICIAN, Station.SETUP, "Block of constants kept")


def _half_way(rig: Rig, row: RigController) -> None:
    description = SHIPPED[row.key]
    wish = wanted_of(rig, row, HALF)
    found = found_in(rig, row, description)
    way = walk_to(description, found, wish)
    row.wanted, row.began = wish, list(found)
    row.done = sum(len(leg.gestures) for leg in way.legs[: len(way.legs) // 2])
    row.save()
