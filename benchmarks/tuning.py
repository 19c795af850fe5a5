"""What a moved slider costs: a candidate on its rig and the nineteen it may be, against as many bare simulations of the same heat-up."""

from benchmarks.measure import report, timed

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_model
from rellux.core.tuning.candidates import try_out
from rellux.core.tuning.hand import HandNumbers, proposal_of
from rellux.core.tuning.situation import Situation
from rellux.core.tuning.trials import Trial, put_through
from rellux.core.tuning.truths import JUDGES

AT_MOST = 15.0


def slider() -> None:
    """Figures, margins and shade included; the situation as it is kept from one slider to the next."""
    loop = ControllerSettings(60.0, Mode.ON_OFF, 2.0, period_s=20.0)
    s = Situation(FOPDT(1.05, 620.0, 52.0), loop, 21.0, 57.5, 68.0)
    proposal = proposal_of(s, HandNumbers(30.0, 600.0))
    network, step = from_model(s.plant), s.step_s(proposal.settings)

    def bare() -> None:
        for _ in range(JUDGES + 1):
            put_through(network, proposal.settings, s.stage, (Trial.HEAT_UP,), step)

    def answer() -> None:
        try_out(s, proposal)

    bare(), answer()
    took = min(timed(answer) for _ in range(5))
    report(
        "a slider's answer against its simulations alone",
        took / min(timed(bare) for _ in range(5)),
        AT_MOST,
        at_least=False,
    )
    print(f"     answered in {took * 1000:.0f} ms")
