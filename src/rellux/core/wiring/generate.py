"""A complete connection list for the parts chosen: the usual circuits, sized for this supply and practice."""

from dataclasses import dataclass
from enum import StrEnum

from ..errors import refuse
from ..heating.loads import heater_current
from ..heating.protection import size_protection
from ..heating.protection_data import CONDUCTORS, Practice
from ..purpose.purpose import Purpose, Supply
from ..sensing.colours import ANSI_E230, IEC_60584_3
from ..sensing.sensors import PT100, PT1000, describe, is_thermocouple, sensor_range
from .library import PART_TYPES
from .model import Circuit, Connection, ConnectionList, Part

RELAY_RATING_A = 16.0
CONTACTOR_RATINGS_A = (20.0, 25.0, 32.0, 40.0, 63.0)
SSR_RATINGS_A = (10.0, 25.0, 40.0, 60.0, 80.0)
SSR_SHARE = 0.7
"""Share of an SSR's rating to use (60–80 %, common practice, no source)."""


class Output(StrEnum):
    """What the controller drives the actuator with."""

    RELAY = "relay"
    SSR_DRIVE = "ssr_drive"


class Actuator(StrEnum):
    """What switches the heater."""

    RELAY = "relay"
    SSR = "ssr"
    CONTACTOR = "contactor"


@dataclass(frozen=True)
class Choice:
    """The parts chosen in the Parts station."""

    sensor: str
    output: Output
    actuator: Actuator
    limiter: bool
    practice: Practice


COLOURS = {
    Practice.IEC: {"live": "brown", "neutral": "blue", "earth": "green-yellow"},
    Practice.NEC: {"live": "black", "neutral": "white", "earth": "green"},
}


SUGGESTED = Choice("K", Output.SSR_DRIVE, Actuator.SSR, limiter=True, practice=Practice.IEC)
"""Where somebody starts who has chosen nothing yet: the safer school of everything, and a common sensor."""


def check_choice(purpose: Purpose, choice: Choice) -> None:
    """Raise ``Refused`` for a sensor that ends too low, and for outputs that cannot move the actuator."""
    ends = sensor_range(choice.sensor)[1]
    if purpose.highest_c > ends:
        raise refuse(
            "sensor", f"a {describe(choice.sensor)} ends at {ends:g} °C, below {purpose.highest_c:g} °C", "another"
        )
    if choice.output is Output.SSR_DRIVE and choice.actuator is not Actuator.SSR:
        raise refuse(
            "actuator",
            "an SSR drive gives 12–24 V pulses at a few milliamps: it cannot pull in a relay or contactor coil",
            "ssr, or a controller with a relay output",
        )
    if choice.output is Output.RELAY and choice.actuator is Actuator.SSR:
        raise refuse(
            "actuator",
            "a relay output is a bare contact without voltage: it cannot drive an SSR input by itself, and would wear out",
            "relay or contactor, or a controller with an SSR drive",
        )


def actuator_rating(actuator: Actuator, current_a: float) -> float:
    """Smallest rating in A that carries ``current_a``: an SSR at 70 % of its rating, relays and contactors at 100 %."""
    ratings = {
        Actuator.SSR: tuple(r * SSR_SHARE for r in SSR_RATINGS_A),
        Actuator.RELAY: (RELAY_RATING_A,),
        Actuator.CONTACTOR: CONTACTOR_RATINGS_A,
    }[actuator]
    for i, usable in enumerate(ratings):
        if usable >= current_a:
            return SSR_RATINGS_A[i] if actuator is Actuator.SSR else usable
    raise refuse(
        "actuator",
        f"{current_a:.1f} A is more than the largest {actuator.value} here carries ({ratings[-1]:.0f} A)",
        "a contactor" if actuator is Actuator.RELAY else "have it designed",
    )


def generate(purpose: Purpose, choice: Choice) -> ConnectionList:
    """Parts and wires for this purpose and choice. Raises ``Refused`` where the choice cannot work."""
    check_choice(purpose, choice)
    return _Builder(purpose, choice).build()


class _Builder:
    """Collects parts and wires; one method a circuit."""

    def __init__(self, purpose: Purpose, choice: Choice) -> None:
        self.purpose, self.choice = purpose, choice
        self.dc = purpose.supply is Supply.DC
        current = heater_current(purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v).value
        self.current = current
        self.protection = size_protection(current, choice.practice)
        self.control_wire = next(
            c for c in CONDUCTORS[choice.practice] if c.ampacity >= self._control_breaker()
        ).area_mm2
        self.parts: list[Part] = []
        self.wires: list[Connection] = []
        self.live, self.neutral = ("Q0.+", "Q0.-") if self.dc else ("Q0.L", "Q0.N")

    def build(self) -> ConnectionList:
        self._supply()
        self._controller()
        switched = self._limit_chain("F1.2")
        self._actuator(switched)
        self._sensors()
        self._earth()
        return ConnectionList(tuple(self.parts), tuple(self.wires))

    def _control_breaker(self) -> float:
        return 6.0 if self.choice.practice is Practice.IEC else 15.0

    def _add(self, name: str, kind: str, **ratings: float | str) -> Part:
        part = Part(name, PART_TYPES[kind], ratings)
        self.parts.append(part)
        return part

    def _wire(self, a: str, b: str, circuit: Circuit, colour: str) -> None:
        area = {
            Circuit.POWER: self.protection.conductor.area_mm2,
            Circuit.EARTH: self.protection.conductor.area_mm2,
            Circuit.CONTROL: self.control_wire,
            Circuit.SENSOR: 0.5,
        }[circuit]
        self.wires.append(Connection(len(self.wires) + 1, a, b, circuit, area, colour))

    def _colour(self, role: str) -> str:
        if self.dc:
            return {"live": "red", "neutral": "black", "earth": "green-yellow"}[role]
        return COLOURS[self.choice.practice][role]

    def _supply(self) -> None:
        volts = self.purpose.supply_voltage_v
        self._add("Q0", "supply_dc" if self.dc else "supply_1ph", voltage_v=volts)
        protector = "fuse" if self.dc else "breaker"
        self._add("F1", protector, current_a=self.protection.breaker.value)
        self._add("F2", protector, current_a=self._control_breaker())
        self._wire(self.live, "F1.1", Circuit.POWER, self._colour("live"))
        self._wire(self.live, "F2.1", Circuit.POWER, self._colour("live"))

    def _controller(self) -> None:
        kind = "controller_relay" if self.choice.output is Output.RELAY else "controller_ssr"
        self._add("A1", kind, contact_a=3.0, voltage_v=self.purpose.supply_voltage_v)
        self._feed("A1")

    def _feed(self, name: str) -> None:
        self._wire("F2.2", f"{name}.L", Circuit.CONTROL, self._colour("live"))
        self._wire(self.neutral, f"{name}.N", Circuit.CONTROL, self._colour("neutral"))

    def _limit_chain(self, source: str) -> str:
        """With a limiter: its contact holds contactor K0 in the heater's live conductor. Returns the switched terminal."""
        if not self.choice.limiter:
            return source
        self._add("A2", "limiter", voltage_v=self.purpose.supply_voltage_v)
        self._feed("A2")
        self._add(
            "K0",
            "contactor",
            current_a=actuator_rating(Actuator.CONTACTOR, self.current),
            coil_v=self.purpose.supply_voltage_v,
        )
        self._wire("F2.2", "A2.COM", Circuit.CONTROL, self._colour("live"))
        self._wire("A2.OK", "K0.A1", Circuit.CONTROL, self._colour("live"))
        self._wire(self.neutral, "K0.A2", Circuit.CONTROL, self._colour("neutral"))
        self._wire(source, "K0.1", Circuit.POWER, self._colour("live"))
        return "K0.2"

    def _actuator(self, source: str) -> None:
        volts = self.purpose.supply_voltage_v
        live, neutral = self._colour("live"), self._colour("neutral")
        self._add("E1", "heater", power_w=self.purpose.heater_power_w, voltage_v=self.purpose.heater_voltage_v)
        rating = actuator_rating(self.choice.actuator, self.current)
        if self.choice.actuator is Actuator.SSR:
            self._add("V1", "ssr", current_a=rating, load_type="dc" if self.dc else "ac")
            self._wire(source, "V1.1", Circuit.POWER, live)
            self._wire("V1.2", "E1.1", Circuit.POWER, live)
            self._wire("A1.OUT+", "V1.3+", Circuit.CONTROL, "red")
            self._wire("A1.OUT-", "V1.4-", Circuit.CONTROL, "black")
        else:
            relay = self.choice.actuator is Actuator.RELAY
            self._add("K1", "relay" if relay else "contactor", current_a=rating, coil_v=volts)
            contact_in, contact_out = ("K1.COM", "K1.NO") if relay else ("K1.1", "K1.2")
            self._wire("F2.2", "A1.COM", Circuit.CONTROL, live)
            self._wire("A1.NO", "K1.A1", Circuit.CONTROL, live)
            self._wire(self.neutral, "K1.A2", Circuit.CONTROL, neutral)
            self._wire(source, contact_in, Circuit.POWER, live)
            self._wire(contact_out, "E1.1", Circuit.POWER, live)
        self._wire("E1.2", self.neutral, Circuit.POWER, neutral)

    def _sensors(self) -> None:
        self._sensor("B1", "A1")
        if self.choice.limiter:
            self._sensor("B2", "A2", limiter=True)

    def _sensor(self, name: str, instrument: str, limiter: bool = False) -> None:
        sensor = self.choice.sensor
        if sensor == PT100 and not limiter:
            self._add(name, "pt100", sensor=PT100)
            self._wire(f"{name}.A", f"{instrument}.IN+", Circuit.SENSOR, "white")
            self._wire(f"{name}.B", f"{instrument}.IN-", Circuit.SENSOR, "red")
            self._wire(f"{name}.B2", f"{instrument}.IN3", Circuit.SENSOR, "red")
            return
        if sensor == PT1000 and not limiter:
            self._add(name, "pt1000", sensor=PT1000)
            self._wire(f"{name}.A", f"{instrument}.IN+", Circuit.SENSOR, "white")
            self._wire(f"{name}.B", f"{instrument}.IN-", Circuit.SENSOR, "red")
            return
        letter = sensor if is_thermocouple(sensor) else "K"
        self._add(name, "thermocouple", sensor=letter)
        colours = IEC_60584_3 if self.choice.practice is Practice.IEC else ANSI_E230
        plus, minus = colours[letter]
        self._wire(f"{name}.+", f"{instrument}.IN+", Circuit.SENSOR, plus)
        self._wire(f"{name}.-", f"{instrument}.IN-", Circuit.SENSOR, minus)

    def _earth(self) -> None:
        self._add("X1", "enclosure")
        if not self.dc:
            self._wire("Q0.PE", "X1.PE", Circuit.EARTH, self._colour("earth"))
