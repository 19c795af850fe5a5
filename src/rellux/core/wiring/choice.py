"""The parts chosen in the Parts station: what there is, what can drive and switch what, and where somebody starts."""

from dataclasses import dataclass, replace
from enum import StrEnum

from ..errors import Refused, refuse
from ..heating.conductor_tables import Practice
from ..messages import quantity, span, temperature
from ..purpose.heater import heater_current
from ..purpose.purpose import Purpose, Supply
from ..sensing.sensors import NAMES, describe, sensor_range

RELAY_RATING_A, MODULE_RATING_A = 16.0, 10.0
CONTACTOR_RATINGS_A = (20.0, 25.0, 32.0, 40.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0, 315.0, 400.0)
SSR_RATINGS_A = (10.0, 25.0, 40.0, 60.0, 80.0, 100.0, 125.0)
MOSFET_RATINGS_A = (10.0, 15.0, 30.0, 60.0, 100.0)
PHASE_UNIT_RATINGS_A = (16.0, 25.0, 40.0, 60.0, 90.0, 125.0, 160.0, 250.0)
"""Sizes of phase-angle units, A, on their own sinks (typical of catalogues, from memory)."""
SSR_SHARE = 0.7
"""Share of an SSR's rating to use (60–80 %, common practice, no source)."""


class Output(StrEnum):
    """What the controller drives the actuator with."""

    RELAY = "relay"
    SSR_DRIVE = "ssr_drive"
    LINEAR = "linear"
    PIN = "pin"


class Actuator(StrEnum):
    """What switches the heater; nothing in a rig that only watches."""

    RELAY = "relay"
    SSR = "ssr"
    CONTACTOR = "contactor"
    MOSFET = "mosfet"
    PHASE_ANGLE = "phase_angle"
    NONE = "none"


@dataclass(frozen=True)
class Choice:
    """The parts chosen in the Parts station. ``plug_a``: the plug's or inlet's rating in A; None to have one proposed."""

    sensor: str
    output: Output
    actuator: Actuator
    limiter: bool
    practice: Practice
    plug_a: float | None = None


LEAST_PLUG_A, LARGEST_PLUG_A = 1.0, 250.0
"""Ratings plugs and inlets have (IEC 60309, from memory)."""
SUGGESTED = Choice("K", Output.SSR_DRIVE, Actuator.SSR, limiter=True, practice=Practice.IEC)
"""Where somebody starts who has chosen nothing yet: the safer school of everything, and a common sensor."""
WATCHING = Choice("K", Output.RELAY, Actuator.NONE, limiter=False, practice=Practice.IEC)
"""The same for a rig that only watches: its controller has an alarm contact."""
COOLED = Choice("Pt100", Output.RELAY, Actuator.RELAY, limiter=True, practice=Practice.IEC)
"""The same for a rig that cools: a compressor's motor wants a contact, and a module that is turned round two that change over."""
MOTOR_TIMES = 3.0
"""A contact that starts a motor (AC-3) is rated for so many times its current (our choice: AC-3 is about a third of AC-1)."""


def suggested(purpose: Purpose) -> Choice:
    """Where somebody starts with a rig of this purpose."""
    if purpose.cools or purpose.turns:
        return COOLED
    return SUGGESTED if purpose.heats else WATCHING


def switched_a(purpose: Purpose) -> float:
    """What a contact in the load's circuit must be rated for, A."""
    return heater_current(purpose).value * (MOTOR_TIMES if purpose.drives_motor else 1.0)


def fitting(purpose: Purpose, choice: Choice) -> Choice:
    """The choice as it can be after the purpose changed: its own switch where that can be, else what the same output drives, else what
    somebody would start with. Raises ``Refused`` where nothing here carries such a load."""
    start = suggested(purpose)
    if (choice.actuator is not Actuator.NONE) is not purpose.acts:
        choice = replace(choice, output=start.output, actuator=start.actuator, limiter=start.limiter, plug_a=None)
    outputs = (choice.output, start.output, Output.RELAY)
    others = [(o, a) for o in outputs for a in DRIVES[o]] if purpose.acts else []
    refused: Refused | None = None
    for output, actuator in [(choice.output, choice.actuator), *others]:
        other = replace(choice, output=output, actuator=actuator)
        try:
            check_switch(purpose, other)
            if purpose.acts:
                switch_rating(other, switched_a(purpose))
        except Refused as problem:
            refused = refused or problem
        else:
            return other
    raise refused or refuse("actuator", "nothing here switches such a load", "a smaller one")


def to_choose_from(purpose: Purpose, choice: Choice) -> Choice:
    """Where somebody goes on choosing whose choice can no longer be: fitting, and with a sensor that reads so high."""
    other = fitting(purpose, choice)
    if purpose.highest_c <= sensor_range(other.sensor)[1]:
        return other
    return replace(other, sensor=next(n for n in NAMES if purpose.highest_c <= sensor_range(n)[1]))


def check_choice(purpose: Purpose, choice: Choice) -> None:
    """Raise ``Refused`` for a sensor that ends too low, for outputs that cannot move the actuator, and for no plug's rating."""
    if choice.plug_a is not None and not LEAST_PLUG_A <= choice.plug_a <= LARGEST_PLUG_A:
        raise refuse(
            "plug_a",
            f"{quantity(choice.plug_a, 'A')} is not the rating of a plug",
            f"{span(LEAST_PLUG_A, LARGEST_PLUG_A, 'A')}, or left empty",
        )
    ends = sensor_range(choice.sensor)[1]
    if purpose.highest_c > ends:
        raise refuse(
            "sensor",
            f"a {describe(choice.sensor)} ends at {temperature(ends)}, below {temperature(purpose.highest_c)}",
            "another",
        )
    check_switch(purpose, choice)


def check_switch(purpose: Purpose, choice: Choice) -> None:
    """Raise ``Refused`` for a switch that this output, supply or load cannot have."""
    if not purpose.acts:
        _check_watching(choice)
        return
    if purpose.cools and choice.actuator not in CONTACTS:
        reason = "a compressor's motor wants a contact: a solid state switch lets its current through at every start and stop"
        raise refuse("actuator", reason, " or ".join(a.value for a in CONTACTS))
    if purpose.heater_sensor is not None and choice.output is Output.PIN:
        reason = "two loops are laid out with a controller of two inputs; a board’s firmware would have to make them"
        raise refuse("output", reason, " or ".join(o.value for o in Output if o is not Output.PIN))
    if purpose.turns and choice.actuator is not Actuator.RELAY:
        reason = "a module is turned round by two contacts that change over: at rest both its ends lie on the minus"
        raise refuse("actuator", reason, "a power relay")
    drives = DRIVES[choice.output]
    if choice.actuator is Actuator.NONE:
        raise refuse("actuator", "something must switch it", " or ".join(a.value for a in drives))
    if choice.actuator not in drives:
        raise refuse("actuator", CANNOT_DRIVE[choice.output], " or ".join(a.value for a in drives))
    if choice.actuator is Actuator.MOSFET and purpose.supply is not Supply.DC:
        raise refuse("actuator", "a MOSFET switches DC only: on AC it conducts backwards all the time", "an SSR")
    if choice.actuator is Actuator.PHASE_ANGLE and purpose.supply is Supply.DC:
        raise refuse(
            "actuator",
            "direct current never comes to zero: a phase-angle unit would stay on",
            "a MOSFET, or an SSR for DC",
        )
    if choice.actuator is Actuator.PHASE_ANGLE and purpose.lives == 3:
        raise refuse(
            "actuator",
            "on three lives it is a unit of its own kind, fired together: have it designed",
            "ssr or contactor",
        )
    if choice.actuator is Actuator.RELAY and purpose.lives > 1:
        raise refuse("actuator", "a single contact leaves the other live on it", "contactor or ssr")


def _check_watching(choice: Choice) -> None:
    if choice.actuator is not Actuator.NONE:
        raise refuse("actuator", "this rig only watches: there is nothing to switch", Actuator.NONE.value)
    if choice.limiter:
        raise refuse("limiter", "this rig only watches: a limiter has nothing to open", "none")
    if choice.output is Output.PIN:
        raise refuse("output", "a microcontroller has no alarm contact", "a controller")


CONTACTS = (Actuator.RELAY, Actuator.CONTACTOR)
"""Switches with a contact."""
DRIVES = {
    Output.SSR_DRIVE: (Actuator.SSR,),
    Output.RELAY: (Actuator.RELAY, Actuator.CONTACTOR),
    Output.LINEAR: (Actuator.PHASE_ANGLE,),
    Output.PIN: (Actuator.MOSFET, Actuator.RELAY, Actuator.SSR),
}
CANNOT_DRIVE = {
    Output.SSR_DRIVE: "an SSR drive gives 12–24 V pulses at a few milliamps: it cannot pull in a relay or contactor coil",
    Output.RELAY: "a relay output is a bare contact without voltage: it cannot drive an SSR input by itself, "
    "and would wear out",
    Output.LINEAR: "a linear output gives milliamps or volts that mean a share of the power: only a unit made for that understands it",
    Output.PIN: "a logic pin gives a few milliamps at 3–5 V: it drives a MOSFET board, a relay module or an SSR's input, "
    "nothing larger (a transistor between them for whatever needs more volts or milliamps)",
}


def actuator_rating(actuator: Actuator, current_a: float) -> float:
    """Smallest rating in A that carries ``current_a``: an SSR at 70 % of its rating, relays and contactors at 100 %.
    Raises ``Refused`` beyond the largest.
    """
    ratings = {
        Actuator.SSR: tuple(r * SSR_SHARE for r in SSR_RATINGS_A),
        Actuator.RELAY: (RELAY_RATING_A,),
        Actuator.CONTACTOR: CONTACTOR_RATINGS_A,
        Actuator.MOSFET: MOSFET_RATINGS_A,
        Actuator.PHASE_ANGLE: PHASE_UNIT_RATINGS_A,
    }[actuator]
    for i, usable in enumerate(ratings):
        if usable >= current_a:
            return SSR_RATINGS_A[i] if actuator is Actuator.SSR else usable
    raise refuse(
        "actuator",
        f"{quantity(current_a, 'A', '.1f')} is more than the largest {actuator.value} "
        f"here carries ({quantity(ratings[-1], 'A', '.0f')})",
        "a contactor" if actuator is Actuator.RELAY else "have it designed",
    )


def switch_rating(choice: Choice, current_a: float) -> float:
    """Rating in A of what switches the heater: a relay module's own where a pin drives a relay, else the smallest that does.
    Raises ``Refused`` where none carries it.
    """
    if choice.output is Output.PIN and choice.actuator is Actuator.RELAY:
        if current_a > MODULE_RATING_A:
            reason = (
                f"a relay module carries {quantity(MODULE_RATING_A, 'A')}, "
                f"{quantity(current_a, 'A', '.1f')} have to be switched"
            )
            raise refuse("actuator", reason, "an SSR drive, or a contactor behind a controller's relay")
        return MODULE_RATING_A
    return actuator_rating(choice.actuator, current_a)
