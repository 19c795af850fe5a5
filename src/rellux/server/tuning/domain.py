"""What Tuning found, for others to work with."""

from rellux.core.process.models import FOPDT, SOPDT, with_second_lag
from rellux.core.tuning.fit_verdict import FitVerdict

from .models import Identification


def model_of(row: Identification | None) -> FOPDT | SOPDT | None:
    """The process that was found, with its second lag; ``None`` where there is none that may be used."""
    if row is None or not FitVerdict(row.verdict).usable:
        return None
    second = next((f["value"] for f in row.result["figures"] if f["symbol"] == "τ₂"), 0.0)
    return with_second_lag(FOPDT(row.gain, row.lag_s, row.dead_time_s), second)
