"""What a contact may switch, by the kind of load: utilization categories of IEC 60947 (AC-1, AC-5b, AC-6a, AC-15, DC-13).

Ratings are typical of data sheets, from memory: the contact's own sheet decides.
"""

from enum import StrEnum

import numpy as np

from ..errors import refuse


class Served(StrEnum):
    """What hangs on the contact."""

    HEATER = "heater"
    COIL = "coil"
    LAMP = "lamp"
    TRANSFORMER = "transformer"


class Contact(StrEnum):
    """Which contact it is."""

    OWN = "own"
    RELAY = "relay"
    CONTACTOR = "contactor"


CATEGORY = {Served.HEATER: "AC-1", Served.COIL: "AC-15", Served.LAMP: "AC-5b", Served.TRANSFORMER: "AC-6a"}
RATED_A = {
    Contact.OWN: {Served.HEATER: 3.0, Served.COIL: 1.5, Served.LAMP: 0.5, Served.TRANSFORMER: 0.5},
    Contact.RELAY: {Served.HEATER: 16.0, Served.COIL: 3.0, Served.LAMP: 4.3, Served.TRANSFORMER: 2.0},
    Contact.CONTACTOR: {Served.HEATER: 63.0, Served.COIL: 6.0, Served.LAMP: 30.0, Served.TRANSFORMER: 18.0},
}
"""Current in A on AC up to 240 V by category; of a contactor for coils that of its auxiliary contact."""
DC_CONTACT = ((30.0, 16.0), (48.0, 3.0), (60.0, 1.5), (110.0, 0.5), (220.0, 0.3))
"""Volts of DC and the amps an AC contact breaks at them: the arc goes out by itself only at low voltage (curves of makers, from
memory); none beyond the last."""
DC_COIL_SHARE = 0.3
"""Of that, with a coil on it (DC-13, without a diode across the coil)."""


def breaks_a(contact: Contact, served: Served, volts: float, *, dc: bool) -> float:
    """Current in A the contact may switch for life. On DC that of its arc, on a straight line between logarithms, 0 beyond the last
    voltage. Raises ``Refused`` for a transformer on DC.

    >>> breaks_a(Contact.RELAY, Served.COIL, 230.0, dc=False), round(breaks_a(Contact.RELAY, Served.COIL, 110.0, dc=True), 2)
    (3.0, 0.15)
    """
    rated = RATED_A[contact][served]
    if not dc:
        return rated
    if served is Served.TRANSFORMER:
        raise refuse("served", "a transformer on DC is a short circuit", "AC, or another load")
    at, amps = (np.log([row[i] for row in DC_CONTACT]) for i in (0, 1))
    arc = 0.0 if volts > DC_CONTACT[-1][0] else float(np.exp(np.interp(np.log(volts), at, amps)))
    return min(rated, arc * (DC_COIL_SHARE if served is Served.COIL else 1.0))


def category(served: Served, *, dc: bool) -> str:
    """Name of the category that must be on the contact's sheet."""
    return ("DC-13" if served is Served.COIL else "DC-1") if dc else CATEGORY[served]
