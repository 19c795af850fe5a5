"""A cooler beside the heater, against what the found process loses."""

from dataclasses import dataclass, replace

from ..control.settings import CoolingBand
from ..process.models import FOPDT
from ..process.networks import ThermalNetwork
from ..purpose.heater import heat_w
from ..purpose.purpose import Purpose


@dataclass(frozen=True)
class CooledToo:
    """A cooler beside the heater: what it takes out for a degree, as a multiple of what the rig loses for one where it works (W/K over
    W/K), its coolant above ambient in °C, and when it is on."""

    times_loss: float
    coolant_rise_c: float
    band: CoolingBand

    def on(self, network: ThermalNetwork) -> ThermalNetwork:
        """A rig that loses 1 W/K where it works, with it."""
        return replace(network, cooler_w_per_k=self.times_loss, coolant_rise_c=self.coolant_rise_c)


def cooled_too(purpose: Purpose, process: FOPDT, band: CoolingBand) -> CooledToo | None:
    """The cooler of a rig whose process was found: ``K`` °C for a hundredth of its power ``P`` is a loss of ``P/(100 K)`` W/K. Among other
    zones it is found as it is there, from where they keep it."""
    if purpose.cooler is None:
        return None
    loss = heat_w(purpose) / process.full_power_rise_c
    coolant_rise = purpose.cooler.with_c(purpose.ambient_c) - purpose.kept_at_c
    return CooledToo(purpose.cooler.w_per_k(purpose.working_c, purpose.ambient_c) / loss, coolant_rise, band)
