"""How the board plate came by its numbers: two pairs of runs with a change that helped between them, and one that did nothing."""

from rellux.core.spine import Station
from rellux.server.rigs.models import Rig
from rellux.server.setup.models import Sheet
from rellux.server.tuning.ledger_views import SAID

from .making import TECHNICIAN, Build, Day, book, run

HASTY = {"proportional_band_c": 80.0, "integral_time_s": 20.0}
BARE_S = 2400.0


def tried_out(
    rig: Rig, day: Day, first: dict[str, float | str], left: dict[str, float | str], build: Build
) -> dict[str, float | str]:
    """From the sheet it was set up with to what was ``left`` in it; returns the whole sheet then. ``build``: what its plate is."""
    values = {**first, **left}
    for i, hour in enumerate((9, 10)):
        run(rig, first, day.ago(14, hour), f"Bare plate, as set up, {i + 1}", BARE_S, seed=40 + i, build=build)
    Sheet.objects.create(
        rig=rig, at=day.ago(14, 12), kind=Sheet.Kind.AS_LEFT, values=values, why="it swung by thirty degrees"
    )
    was = {name: first[name] for name in left}
    book(rig, day.ago(14, 12), TECHNICIAN, Station.SETUP, "Controller settings as left", dict(was), dict(left))
    for i, hour in enumerate((13, 14)):
        run(
            rig,
            values,
            day.ago(14, hour),
            f"Bare plate, longer integral, {i + 1}",
            BARE_S,
            seed=50 + i,
            build=build,
        )
    cork = "cork under the plate"
    book(
        rig,
        day.ago(14, 15),
        TECHNICIAN,
        Station.TUNING,
        f"Changed: {cork}",
        after={SAID: cork},
        why="the bench got warm",
    )
    for i, hour in enumerate((16, 17)):
        run(rig, values, day.ago(14, hour), f"Bare plate, on cork, {i + 1}", BARE_S, seed=60 + i, build=build)
    return values
