"""A simulated controller that tunes itself: it switches round its set-point until two cycles are alike, then reckons its numbers."""

from dataclasses import replace

import numpy as np

from rellux.core.control.settings import FULL_OUTPUT, ControllerSettings, HysteresisSchool, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Record
from rellux.core.tuning.relay.describing import estimated
from rellux.core.tuning.relay.experiment import OWN_HYSTERESIS_C, RelayKind, RelayTest, settled_swing
from rellux.core.tuning.rules.published import tyreus_luyben_pid

LOOK_S, GIVES_UP = 1.0, 100_000
"""How often it looks at its own reading, s, and after how many looks without a result it gives up."""


class SelfTuning:
    """Under way. ``before``: the settings it shows meanwhile, and goes on with where it is stopped."""

    def __init__(self, before: ControllerSettings) -> None:
        self.before = before
        self._test = RelayTest(RelayKind.OWN, before.setpoint_c, OWN_HYSTERESIS_C, 0.0, before.output_high)
        self._seen = np.empty((3, 0))

    @property
    def during(self) -> ControllerSettings:
        """How it switches meanwhile."""
        return replace(
            self.before,
            mode=Mode.ON_OFF,
            hysteresis_c=OWN_HYSTERESIS_C,
            hysteresis_school=HysteresisSchool.CENTRED,
            period_s=0.0,
        )

    def saw(self, record: Record) -> ControllerSettings | None:
        """What it does next, once it has its numbers; ``None`` while it has not."""
        seen = np.vstack((record.time_s, record.reading_c, FULL_OUTPUT * record.switch))
        self._seen = np.hstack((self._seen, seen))
        t, y, u = self._seen
        swing = settled_swing(t, y, u, self._test)
        if not np.isfinite(swing.period_s):
            return self.before if self._seen.shape[1] > GIVES_UP else None
        try:
            found = estimated(self._test.step, swing.top_c - swing.bottom_c, OWN_HYSTERESIS_C, swing.period_s, None)
        except Refused:
            return self.before  # nothing but its own hysteresis was seen: it gives up
        return replace(self.before, mode=Mode.PID, pid=tyreus_luyben_pid(found.by_function), inner=None)
