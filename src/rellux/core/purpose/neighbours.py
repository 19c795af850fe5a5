"""What the other zones of a chamber do to one of them."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Neighbours:
    """Zones beside one, at work: they hold ``at_c`` (°C; of several, the mean by how closely each lies), and with its own heater off it
    comes ``share`` of the way from the room to that."""

    at_c: float
    share: float

    def keep_at_c(self, ambient_c: float) -> float:
        """Where they keep it with its own heater off, °C.

        >>> Neighbours(820.0, 0.25).keep_at_c(20.0)
        220.0
        """
        return ambient_c + self.share * (self.at_c - ambient_c)
