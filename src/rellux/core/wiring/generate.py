"""A complete connection list for the parts chosen: the usual circuits, sized for this supply and practice."""

from dataclasses import replace
from math import ceil

from ..heating.conductor_tables import Practice
from ..heating.conductors import conductors
from ..heating.protection import size_protection
from ..purpose.controls import Controls, ControlsFedBy
from ..purpose.cooler import CooledBy
from ..purpose.heater import heater_current
from ..purpose.purpose import Purpose, Supply
from ..sensing.colours import ANSI_E230, IEC_60584_3
from ..sensing.sensors import NTC, PT100, PT1000, is_thermocouple
from .choice import (
    MODULE_RATING_A,
    RELAY_RATING_A,
    Actuator,
    Choice,
    Output,
    actuator_rating,
    check_choice,
    switch_rating,
    switched_a,
)
from .circuit.branches import PROSPECTIVE_A
from .insulation import covering_at
from .kinds.instruments import COOLS
from .kinds.loads import BESIDE, TURNS
from .library import PART_TYPES
from .model import Circuit, Connection, ConnectionList, Part
from .names import TerminalName, terminal_of

COLOURS = {
    Practice.IEC: {"live": ("brown", "black", "grey"), "neutral": "blue", "earth": "green-yellow"},
    Practice.NEC: {"live": ("black", "red", "blue"), "neutral": "white", "earth": "green"},
}
NEC_HIGH_V = 480.0
"""From here the other set of colours is usual (common practice; NEC 210.5 leaves it to the owner)."""
NEC_HIGH_VOLTAGE = ("brown", "orange", "yellow")
"""Lives at 480Y/277 V."""


def live_colours(practice: Practice, supply_v: float) -> tuple[str, ...]:
    """Colours of the lives, in order, at this voltage between them."""
    high = practice is Practice.NEC and supply_v >= NEC_HIGH_V
    return NEC_HIGH_VOLTAGE if high else tuple(COLOURS[practice]["live"])


def control_colours(purpose: Purpose, choice: Choice) -> tuple[str, str]:
    """Of the control live and its return."""
    if purpose.dc_controls:
        return "red", "black"
    own = purpose.control_voltage_v if purpose.controls else purpose.supply_voltage_v
    return live_colours(choice.practice, own)[0], str(COLOURS[choice.practice]["neutral"])


SUPPLY_PARTS = {
    Supply.SINGLE_PHASE: ("supply_1ph", ("L",)),
    Supply.SPLIT_PHASE: ("supply_split", ("L1", "L2")),
    Supply.THREE_PHASE: ("supply_3ph", ("L1", "L2", "L3")),
    Supply.DC: ("supply_dc", ("+",)),
}
DC_SUPPLIES_A = (1.0, 2.5, 5.0, 10.0, 20.0, 40.0)
DC_RESERVE, CONTROL_W, OWN_CONTROL_W = 1.25, 10.0, 45.0
"""Sizes DC supplies are sold in, A; the reserve one is chosen with, and what controls take beside the heater, W, or from a supply of their
own (common practice, no source)."""
COOLERS = {
    CooledBy.FAN: ("M2", "fan"),
    CooledBy.VALVE: ("Y1", "solenoid"),
    CooledBy.COMPRESSOR: ("M2", BESIDE),
    CooledBy.MODULE: ("E2", "cooling_module"),
}
"""What a cooler beside the heater is in the list, and its kind."""
CONTROL_SUPPLY, CONTROL_MODULE = "Q9", "G9"
"""The controls' own supply, or their supply module, in the list."""
CONTROL_SUPPLIES = {ControlsFedBy.MAINS: ("supply_1ph", "L", "N"), ControlsFedBy.DC: ("supply_dc", "+", "-")}
"""What a supply of the controls' own is in the list, its live and its return."""
STIFF = 25.0
"""Short-circuit current of a connection as a multiple of its breaker's rating: a transformer of 4 % (common practice, no source)."""
LOGIC_V, PULL_DOWN_OHM = 5.0, 10_000.0
OUTPUT_PIN, COOLING_PIN = "PWM3", "PWM2"
"""Of a board: what drives the heater's switch, and its cooler's relay."""
LIMITER_SENSOR = "K"
"""What a limiter feels with where the controller's own sensor is no thermocouple."""
CONTROLLERS = {Output.RELAY: "controller_relay", Output.SSR_DRIVE: "controller_ssr", Output.LINEAR: "controller_linear"}
"""The controller with such an output."""


def loaded_cores(purpose: Purpose) -> int:
    """Loaded conductors in the heater's cable: three on three-phase, else two."""
    return 3 if purpose.supply is Supply.THREE_PHASE else 2


def generate(purpose: Purpose, choice: Choice) -> ConnectionList:
    """Parts and wires for this purpose and choice. Raises ``Refused`` where the choice cannot work."""
    check_choice(purpose, choice)
    return _Builder(purpose, choice).build()


class _Builder:
    """Collects parts and wires; one method a circuit."""

    def __init__(self, purpose: Purpose, choice: Choice) -> None:
        self.purpose, self.choice = purpose, choice
        self.dc = purpose.supply is Supply.DC
        self.current = heater_current(purpose).value if purpose.acts else CONTROL_W / purpose.supply_voltage_v
        self.switched = switched_a(purpose) if purpose.acts else 0.0
        self.protection = size_protection(self.current, choice.practice, loaded_cores(purpose))
        self.control_wire = next(
            c for c in conductors(choice.practice) if c.ampacity >= self._control_breaker()
        ).area_mm2
        self.parts: list[Part] = []
        self.wires: list[Connection] = []
        self.supply, names = SUPPLY_PARTS[purpose.supply]
        self.lives = [f"Q0.{name}" for name in names]
        self.neutral = self.control_return = "Q0.-" if self.dc else "Q0.N"
        self.control = "F2.2"
        self.rail = ("G1.OUT+", "G1.OUT-")
        self.suffix = "" if len(self.lives) == 1 else f"_{len(self.lives)}p"

    def build(self) -> ConnectionList:
        if not self.purpose.acts:
            return self._watching()
        self._supply()
        self._controller()
        self._cooler()
        switched = self._limit_chain([f"F1.{2 * i + 2}" for i in range(len(self.lives))])
        self._heater(self._actuator(switched))
        self._sensors()
        self._earth()
        return ConnectionList(tuple(self.parts), tuple(self.wires))

    def _watching(self) -> ConnectionList:
        """Supply, its breaker, controller and sensor."""
        self._source()
        self._controller()
        self._sensors()
        self._earth()
        return ConnectionList(tuple(self.parts), tuple(self.wires))

    def _control_breaker(self) -> float:
        return 6.0 if self.choice.practice is Practice.IEC else 15.0

    def _add(self, name: str, kind: str, **ratings: float | str) -> Part:
        part = Part(name, PART_TYPES[kind], ratings)
        self.parts.append(part)
        return part

    def _wire(self, a: str, b: str, circuit: Circuit, colour: str, insulation: str = "") -> None:
        area = {
            Circuit.POWER: self.protection.conductor.area_mm2,
            Circuit.EARTH: self.protection.conductor.area_mm2,
            Circuit.CONTROL: self.control_wire,
            Circuit.SENSOR: 0.5,
        }[circuit]
        self.wires.append(
            Connection(
                len(self.wires) + 1, TerminalName(a), TerminalName(b), circuit, area, colour, insulation=insulation
            )
        )

    def _live(self, pole: int = 0) -> str:
        if self.dc:
            return "red"
        return live_colours(self.choice.practice, self.purpose.supply_voltage_v)[pole]

    def _return(self) -> str:
        return "black" if self.dc else str(COLOURS[self.choice.practice]["neutral"])

    def _control_live(self) -> str:
        return control_colours(self.purpose, self.choice)[0]

    def _control_return(self) -> str:
        return control_colours(self.purpose, self.choice)[1]

    def _supply_current(self) -> float:
        """What a DC supply must give, A: the heater and what controls it, with a reserve, as they are sold."""
        return self._rated(self.current + (0.0 if self.purpose.controls else self._control_current()))

    def _control_current(self) -> float:
        """What the controls draw, A, with what drives a cooler; a supply of their own has room for a small fan or pump too."""
        cooler, own = self.purpose.cooler, self.purpose.controls is not None
        least = OWN_CONTROL_W if own else CONTROL_W
        return (least + (cooler.draws_w if cooler else 0.0)) / self.purpose.control_voltage_v

    def _rated(self, current_a: float) -> float:
        """The DC supply that gives so much with its reserve, A, as they are sold."""
        needed = DC_RESERVE * current_a
        return next((a for a in DC_SUPPLIES_A if a >= needed), float(ceil(needed)))

    def _supply(self) -> None:
        protector = ("fuse" if self.dc else "breaker") + self.suffix
        self._source((protector, self.protection.breaker.value))
        for i, live in enumerate(self.lives):
            self._wire(live, f"F1.{2 * i + 1}", Circuit.POWER, self._live(i))
        self._feed_control()

    def _source(self, main: tuple[str, float] | None = None) -> None:
        """The supply with what protects the heater (its kind and rating), and what protects the controls."""
        gives = {"current_a": self._supply_current()} if self.dc else self._stiffness(main)
        self._add("Q0", self.supply, voltage_v=self.purpose.supply_voltage_v, **gives)
        if main:
            self._add("F1", main[0], current_a=main[1])
        self._add("F2", "fuse" if self.purpose.dc_controls else "breaker", current_a=self._control_breaker())
        if not main:
            self._feed_control()

    def _stiffness(self, main: tuple[str, float] | None) -> dict[str, float]:
        """What a short circuit brings where a connection is larger than a socket's; nothing where it is not."""
        fault_a = STIFF * main[1] if main else 0.0
        return {"fault_a": fault_a} if fault_a > PROSPECTIVE_A else {}

    def _feed_control(self) -> None:
        """F2 from the heater's supply, or from what the controls have of their own."""
        controls = self.purpose.controls
        if controls is None:
            self._wire(self.lives[0], "F2.1", Circuit.POWER, self._live())
        elif controls.apart:
            kind, live, back = CONTROL_SUPPLIES[controls.fed_by]
            gives = {"current_a": self._rated(self._control_current())} if controls.direct else {}
            self._add(CONTROL_SUPPLY, kind, voltage_v=controls.controls_v, **gives)
            self._wire(terminal_of(CONTROL_SUPPLY, live), "F2.1", Circuit.POWER, self._control_live())
            self.control_return = terminal_of(CONTROL_SUPPLY, back)
        else:
            self._control_module(controls)

    def _control_module(self, controls: Controls) -> None:
        """A supply module behind a breaker of its own; F2 protects what it feeds."""
        self._add("F9", "breaker", current_a=self._control_breaker())
        mains_v = replace(self.purpose, controls=None).control_voltage_v
        gives = self._rated(self._control_current())
        self._add(CONTROL_MODULE, "power_module", voltage_v=mains_v, output_v=controls.controls_v, output_a=gives)
        self._wire(self.lives[0], "F9.1", Circuit.POWER, self._live())
        self._wire("F9.2", terminal_of(CONTROL_MODULE, "L"), Circuit.CONTROL, self._live())
        self._wire(self.neutral, terminal_of(CONTROL_MODULE, "N"), Circuit.CONTROL, self._return())
        self._wire(terminal_of(CONTROL_MODULE, "OUT+"), "F2.1", Circuit.CONTROL, self._control_live())
        self.control_return = terminal_of(CONTROL_MODULE, "OUT-")

    def _controller(self) -> None:
        if self.choice.output is Output.PIN:
            pin = {"cooling_pin": COOLING_PIN} if self.purpose.cooler else {}
            self._add("A1", "microcontroller", voltage_v=LOGIC_V, **pin)
            self._rail_source()
            self._rail("A1.5V", "A1.GND")
            return
        kind = CONTROLLERS[self.choice.output]
        alarm = {"alarm": COOLS, "alarm_rest": "open"} if self.purpose.cooler else {}
        self._add("A1", kind, contact_a=3.0, voltage_v=self.purpose.control_voltage_v, **alarm)
        self._feed("A1")

    def _rail_source(self) -> None:
        """What makes the boards' 5 V: a supply module from mains, a regulator from DC, nothing where it is 5 V already."""
        if not self.purpose.dc_controls:
            self._add("G1", "power_module", voltage_v=self.purpose.control_voltage_v, output_v=LOGIC_V)
            self._feed("G1")
        elif self.purpose.control_voltage_v > LOGIC_V:
            self._add("G1", "regulator", voltage_v=self.purpose.control_voltage_v, output_v=LOGIC_V)
            self._tap("G1.VIN+")
            self._back("G1.VIN-")

    def _rail(self, plus: str, minus: str) -> None:
        """Feed a board with 5 V, on from the board fed last: never more than two wires under a screw."""
        if self.purpose.dc_controls and self.purpose.control_voltage_v <= LOGIC_V:
            self._tap(plus)
            self._back(minus)
        else:
            self._wire(self.rail[0], plus, Circuit.CONTROL, "orange")
            self._wire(self.rail[1], minus, Circuit.CONTROL, "black")
        self.rail = (plus, minus)

    def _feed(self, name: str) -> None:
        self._tap(terminal_of(name, "L"))
        self._back(terminal_of(name, "N"))

    def _tap(self, terminal: str) -> None:
        """Feed a terminal from the control live, on from the terminal fed last: never more than two wires under a screw."""
        self._wire(self.control, terminal, Circuit.CONTROL, self._control_live())
        self.control = terminal

    def _back(self, terminal: str) -> None:
        """Return a terminal to what feeds the controls; to a module on from the terminal that returned last, as its own screw holds two."""
        self._wire(self.control_return, terminal, Circuit.CONTROL, self._control_return())
        if self.purpose.controls is not None and not self.purpose.controls.apart:
            self.control_return = terminal

    def _limit_chain(self, sources: list[str]) -> list[str]:
        """With a limiter: its contact holds contactor K0 in every live conductor. Returns the switched terminals."""
        if not self.choice.limiter:
            return sources
        feels = self.choice.sensor if is_thermocouple(self.choice.sensor) else LIMITER_SENSOR
        self._add("A2", "limiter", voltage_v=self.purpose.control_voltage_v, sensor=feels)
        self._feed("A2")
        self._tap("A2.COM")
        self._wire("A2.OK", "K0.A1", Circuit.CONTROL, self._control_live())
        return self._contactor("K0", sources)

    def _contactor(self, name: str, sources: list[str]) -> list[str]:
        """A contactor with all lives through it; its coil is fed from elsewhere and returns to neutral."""
        rating, coil = actuator_rating(Actuator.CONTACTOR, self.switched), self.purpose.control_voltage_v
        self._add(name, "contactor" + self.suffix, current_a=rating, coil_v=coil, suppressor="fitted")
        self._back(terminal_of(name, "A2"))
        for i, source in enumerate(sources):
            self._wire(source, terminal_of(name, f"{2 * i + 1}"), Circuit.POWER, self._live(i))
        return [terminal_of(name, f"{2 * i + 2}") for i in range(len(sources))]

    def _actuator(self, sources: list[str]) -> list[str]:
        """What the controller switches the heater with. Returns the switched terminals, the heater's ends."""
        rating = switch_rating(self.choice, self.switched)
        if self.choice.actuator is Actuator.MOSFET:
            return self._mosfet(sources[0], rating)
        if self.choice.actuator in (Actuator.SSR, Actuator.PHASE_ANGLE):
            return self._ssr(sources, rating)
        if self.choice.output is Output.PIN:
            return self._module(sources[0], rating)
        if self.purpose.turns:
            self._taking_away()
            self._tap("K3.COM")
            self._wire("K3.NC", "A1.COM", Circuit.CONTROL, self._control_live())
        elif self.purpose.cooler:
            self._wire("K2.NC", "A1.COM", Circuit.CONTROL, self._control_live())
        else:
            self._tap("A1.COM")
        self._wire("A1.NO", "K1.A1", Circuit.CONTROL, self._control_live())
        if self.choice.actuator is Actuator.CONTACTOR:
            return self._contactor("K1", sources)
        self._add("K1", "relay", current_a=rating, coil_v=self.purpose.control_voltage_v)
        self._back("K1.A2")
        return self._contact(sources[0])

    def _contact(self, source: str) -> list[str]:
        """K1's contact in the heater's live; of a module that turns, K1 puts its plus on the source and K2 its minus, each else on the
        minus of the supply: called together they give it nothing."""
        if not self.purpose.turns:
            self._wire(source, "K1.COM", Circuit.POWER, self._live())
            return ["K1.NO"]
        self._wire(source, "K1.NO", Circuit.POWER, self._live())
        self._wire("K1.NO", "K2.NO", Circuit.POWER, self._live())
        self._wire(self.neutral, "K1.NC", Circuit.POWER, self._return())
        self._wire("K1.NC", "K2.NC", Circuit.POWER, self._return())
        return ["K1.COM", "K2.COM"]

    def _module(self, source: str, rating: float) -> list[str]:
        """A relay module on the board's rail, its contact in the heater's live."""
        self._add("K1", "relay_module", current_a=rating, voltage_v=LOGIC_V)
        self._rail("K1.VCC", "K1.GND")
        self._wire(self._drive(), "K1.IN", Circuit.CONTROL, "yellow")
        self._held_low("K1.IN", "K1.GND")
        return self._contact(source)

    def _ssr(self, sources: list[str], rating: float) -> list[str]:
        """One leg, or three; on split-phase one leg switches and the other live goes straight to the heater."""
        three = len(sources) == 3
        if self.choice.actuator is Actuator.PHASE_ANGLE:
            self._add("V1", "phase_unit", current_a=rating)
        else:
            self._add("V1", "ssr_3p" if three else "ssr", current_a=rating, load_type="dc" if self.dc else "ac")
        legs = sources if three else sources[:1]
        for i, source in enumerate(legs):
            self._wire(source, f"V1.{2 * i + 1}", Circuit.POWER, self._live(i))
        plus, minus = ("A1+", "A2-") if three else ("3+", "4-")
        pin = self.choice.output is Output.PIN
        self._wire(self._drive(), f"V1.{plus}", Circuit.CONTROL, "yellow" if pin else "red")
        self._wire(self.rail[1] if pin else "A1.OUT-", f"V1.{minus}", Circuit.CONTROL, "black")
        if pin:
            self.rail = (self.rail[0], f"V1.{minus}")  # the next board's ground goes on from here
        return [f"V1.{2 * i + 2}" for i in range(len(legs))] + sources[len(legs) :]

    def _cooler(self) -> None:
        """What cools beside the heater, on a relay that the controller's alarm contact pulls in, or a board's pin. Heat is fed through a
        contact that opens then: never both."""
        cooler = self.purpose.cooler
        if cooler is None:
            return
        if cooler.turns:
            self._cooling_relay()
            return
        name, kind = COOLERS[cooler.cooled_by]
        cools = self._add(name, kind, power_w=cooler.draws_w, voltage_v=self.purpose.control_voltage_v)
        self._cooling_relay()
        self._tap("K2.COM")
        plus, minus = cools.ends
        self._wire("K2.NO", plus, Circuit.CONTROL, self._control_live())
        self._back(minus)

    def _cooling_relay(self) -> None:
        """K2, which the controller pulls in to cool."""
        if self.choice.output is Output.PIN:
            self._add("K2", "relay_module", current_a=MODULE_RATING_A, voltage_v=LOGIC_V)
            self._rail("K2.VCC", "K2.GND")
            self._wire(f"A1.{COOLING_PIN}", "K2.IN", Circuit.CONTROL, "yellow")
        else:
            self._add("K2", "relay", current_a=RELAY_RATING_A, coil_v=self.purpose.control_voltage_v)
            self._tap("A1.AL1")
            self._wire("A1.AL2", "K2.A1", Circuit.CONTROL, self._control_live())
            self._back("K2.A2")

    def _drive(self) -> str:
        """The plus of the controller's drive, or a board's pin; with a cooler behind a relay that opens while it is on."""
        pin = self.choice.output is Output.PIN
        drive = f"A1.{OUTPUT_PIN}" if pin else "A1.OUT+"
        if self.purpose.cooler is None:
            return drive
        self._taking_away()
        self._wire(drive, "K3.COM", Circuit.CONTROL, "yellow" if pin else "red")
        return "K3.NC"

    def _taking_away(self) -> None:
        """K3, which opens the heater's command while the cooler's relay is in."""
        pin = self.choice.output is Output.PIN
        if pin and self.purpose.turns:  # K2's contact is the module's: K3 follows its minus
            self._add("K3", "relay", current_a=RELAY_RATING_A, coil_v=self.purpose.supply_voltage_v)
            self._wire("K2.COM", "K3.A1", Circuit.POWER, self._live())
            self._wire("K3.A2", "K2.NC", Circuit.POWER, self._return())
            return
        self._add("K3", "relay", current_a=RELAY_RATING_A, coil_v=self.purpose.control_voltage_v)
        self._wire("K2.NO" if pin else "K2.A1", "K3.A1", Circuit.CONTROL, self._control_live())
        self._back("K3.A2")

    def _held_low(self, signal: str, ground: str) -> None:
        """An input that a relay cuts off is pulled down: it does not float."""
        if self.purpose.cooler is not None:
            self._add("R2", "resistor", ohm=PULL_DOWN_OHM)
            self._wire(signal, "R2.1", Circuit.CONTROL, "yellow")
            self._wire("R2.2", ground, Circuit.CONTROL, "black")
            self.rail = (self.rail[0], "R2.2")  # the next board's ground goes on from here

    def _mosfet(self, source: str, rating: float) -> list[str]:
        self._add("V1", "mosfet", current_a=rating, load_type="dc")
        self._wire(source, "V1.VIN+", Circuit.POWER, self._live())
        self._wire(self.neutral, "V1.VIN-", Circuit.POWER, self._return())
        self._wire(self._drive(), "V1.SIG", Circuit.CONTROL, "yellow")
        self._wire(self.rail[1], "V1.GND", Circuit.CONTROL, "black")
        self.rail = (self.rail[0], "V1.GND")  # the next board's ground goes on from here
        self._held_low("V1.SIG", "V1.GND")
        return ["V1.OUT+", "V1.OUT-"]

    def _heater(self, ends: list[str]) -> None:
        elements = TURNS if self.purpose.turns else "heater_3ph" if len(self.lives) == 3 else "heater"
        kind = "compressor" if self.purpose.cools else "fire_fan" if self.purpose.fire else elements
        name = "M1" if self.purpose.drives_motor else "E1"
        covering = covering_at(self.purpose.working_c)
        load = self._add(name, kind, power_w=self.purpose.heater_power_w, voltage_v=self.purpose.heater_voltage_v)
        for i, (end, terminal) in enumerate(zip(ends, load.ends, strict=False)):
            returns = i == 1 and (self.choice.actuator is Actuator.MOSFET or self.purpose.turns)
            self._wire(end, terminal, Circuit.POWER, self._return() if returns else self._live(i), covering)
        if len(ends) == 1:
            self._wire(load.ends[1], self.neutral, Circuit.POWER, self._return(), covering)

    def _sensors(self) -> None:
        self._sensor("B1", self._input())
        if self.choice.limiter:
            self._sensor("B2", "A2", limiter=True)

    def _input(self) -> str:
        """The part whose IN terminals the controller's sensor goes to: the controller, or a converter board of a pin's."""
        if self.choice.output is not Output.PIN or self.choice.sensor == NTC:
            return "A1"
        self._add("U1", "converter", voltage_v=LOGIC_V)
        self._rail("U1.VCC", "U1.GND")
        for pin, colour, end in (("CLK1", "green", "CS"), ("CLK3", "blue", "DO"), ("CLK4", "yellow", "CLK")):
            self._wire(f"A1.{pin}", f"U1.{end}", Circuit.SENSOR, colour)
        return "U1"

    def _sensor(self, name: str, instrument: str, limiter: bool = False) -> None:
        sensor = self.choice.sensor
        if not limiter and not is_thermocouple(sensor):
            self._resistive(name, instrument, sensor)
            return
        letter = sensor if is_thermocouple(sensor) else LIMITER_SENSOR
        self._add(name, "thermocouple", sensor=letter)
        colours = IEC_60584_3 if self.choice.practice is Practice.IEC else ANSI_E230
        plus, minus = colours[letter]
        self._wire(terminal_of(name, "+"), terminal_of(instrument, "IN+"), Circuit.SENSOR, plus)
        self._wire(terminal_of(name, "-"), terminal_of(instrument, "IN-"), Circuit.SENSOR, minus)

    def _resistive(self, name: str, instrument: str, sensor: str) -> None:
        kind = {PT100: "pt100", PT1000: "pt1000", NTC: "thermistor"}[sensor]
        self._add(name, kind, sensor=sensor)
        pin = instrument == "A1" and self.choice.output is Output.PIN
        plus, minus, third = ("AN1", "AGND", "REF") if pin else ("IN+", "IN-", "IN3")
        self._wire(terminal_of(name, "A"), terminal_of(instrument, plus), Circuit.SENSOR, "white")
        self._wire(terminal_of(name, "B"), terminal_of(instrument, minus), Circuit.SENSOR, "red")
        if sensor == PT100:
            self._wire(terminal_of(name, "B2"), terminal_of(instrument, third), Circuit.SENSOR, "red")
        if pin:
            self._add("R1", "resistor", ohm=10_000.0)
            self._wire("R1.1", terminal_of(instrument, third), Circuit.SENSOR, "orange")
            self._wire("R1.2", terminal_of(instrument, plus), Circuit.SENSOR, "white")

    def _earth(self) -> None:
        self._add("X1", "enclosure")
        controls = self.purpose.controls
        own = controls is not None and not controls.direct
        for supply in (*([] if self.dc else ["Q0"]), *([CONTROL_SUPPLY] if own else [])):
            self._wire(terminal_of(supply, "PE"), "X1.PE", Circuit.EARTH, str(COLOURS[self.choice.practice]["earth"]))
