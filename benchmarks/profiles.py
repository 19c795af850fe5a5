"""A programme of three days, predicted."""

from unittest.mock import patch

from benchmarks.measure import report, turns

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.guarding.family import HeatedRig, family
from rellux.core.plant import follow
from rellux.core.profiles.load import Load, Shape
from rellux.core.profiles.predict import Conditions, course
from rellux.core.profiles.profile import EndAction, Holdback, Profile, Segment, SegmentKind
from rellux.core.purpose.purpose import Purpose, RigKind, Supply

K = SegmentKind
THREE_DAYS = Profile(
    (
        Segment(K.RAMP_RATE, 120.0, 0.2, holdback=Holdback(5.0)),
        Segment(K.SOAK, time_s=6 * 3600.0),
        Segment(K.RAMP_RATE, 560.0, 0.5, holdback=Holdback(5.0)),
        Segment(K.SOAK, time_s=12 * 3600.0, holdback=Holdback(3.0)),
        Segment(K.RAMP_TIME, 60.0, time_s=32 * 3600.0),
        Segment(K.END, end=EndAction.OFF),
    )
)


def prediction() -> None:
    """All of it on one network with a load of eight shells, against the same loops in plain Python."""
    purpose = Purpose(560.0, 600.0, "it slumps", Supply.SINGLE_PHASE, 230.0, 3200.0, 230.0)
    rigs = family(HeatedRig(RigKind.KILN, purpose, 3200.0))
    settings = ControllerSettings(20.0, Mode.PID, pid=PID(2.0, 600.0), period_s=2.0)
    made = Conditions(rigs, settings, 20.0, 20.0, Load("borosilicate", Shape.SLAB, 25.0, 12.0))

    def plainly() -> None:
        with patch.object(follow, "follow", follow.follow.plain):
            course(THREE_DAYS, rigs.likely, made)

    ratio = turns(plainly, lambda: course(THREE_DAYS, rigs.likely, made), 2)
    report("a programme of three days predicted against plain Python", ratio, 100, at_least=True)
