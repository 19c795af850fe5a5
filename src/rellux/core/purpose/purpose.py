"""What a rig is for: the temperatures it must reach and never leave, its supply and its heater."""

from dataclasses import dataclass
from enum import StrEnum
from math import sqrt

from ..errors import Problem, refuse_all
from ..messages import quantity, span, temperature
from ..units import ABSOLUTE_ZERO_C
from .controls import Controls, controls_problems
from .cooler import COLDEST_STAGE_C, CooledBy, Cooler, cooler_problems
from .heater_sensor import HeaterSensor, heater_sensor_problems
from .neighbours import Neighbours
from .own_mains import OwnMains, own_mains_problems

HOTTEST_C = 1800.0
"""No sensor here reads higher, °C (type B ends at 1820)."""
COLDEST_ROOM_C, HOTTEST_ROOM_C = -40.0, 60.0
"""A room round a rig, °C (our choice: what switchgear and controllers are made for, and a margin)."""
MOST_W, MOST_V = 200_000.0, 1000.0
"""Largest heater, and its rated voltage (our choice: beyond it a slip of unit is likelier)."""
LARGE_W = 20_000.0
"""From here on a heater is no workshop's own affair (our choice)."""
FULL = 100.0
"""All of it, %."""
LONGEST_NAME = 40
"""Letters of a material's name, as it is printed."""
COLDEST_LIMIT_C, HOTTEST_LIMIT_C = -200.0, 2500.0
"""What a material stands, °C (from frozen rubber to tungsten carbide)."""


class Effect(StrEnum):
    """What a rig does to the temperature: it heats, it cools with a compressor, or something else makes it and the rig only watches."""

    HEATS = "heats"
    COOLS = "cools"
    WATCHES = "watches"


class RigKind(StrEnum):
    """The kinds of rig with a thermal model of their own."""

    CABINET = "cabinet"
    DRYING = "drying"
    OVEN = "oven"
    KILN = "kiln"
    MUFFLE = "muffle"
    REFLOW_OVEN = "reflow_oven"
    REFLOW_PLATE = "reflow_plate"
    PLATE = "plate"
    PRESS = "press"
    BED = "bed"
    TANK = "tank"
    BOILER = "boiler"
    BLOWER = "blower"
    DUCT = "duct"
    BELL = "bell"
    BAR = "bar"
    TOOL = "tool"
    FIRE = "fire"
    COLD = "cold"


class Supply(StrEnum):
    """Supplies this version sizes and wires."""

    SINGLE_PHASE = "single_phase"
    SPLIT_PHASE = "split_phase"
    THREE_PHASE = "three_phase"
    DC = "dc"


SUPPLY_VOLTAGES = {
    Supply.SINGLE_PHASE: (100.0, 110.0, 120.0, 220.0, 230.0, 240.0, 277.0, 347.0),
    Supply.SPLIT_PHASE: (240.0,),
    Supply.THREE_PHASE: (200.0, 208.0, 220.0, 380.0, 400.0, 415.0, 440.0, 480.0, 600.0),
    Supply.DC: (5.0, 12.0, 24.0, 48.0),
}
"""Usual voltages in V; between two lives where there are several."""
SUPPLY_SPAN_V = {
    Supply.SINGLE_PHASE: (90.0, 360.0),
    Supply.SPLIT_PHASE: (200.0, 260.0),
    Supply.THREE_PHASE: (180.0, 720.0),
    Supply.DC: (3.0, 60.0),
}
"""What each may be, V (our choice; DC beyond 60 V is no extra-low voltage, and needs what its own codes say)."""
AT_60_HZ = (110.0, 120.0, 208.0, 277.0, 347.0, 440.0, 480.0, 600.0)
"""Voltages at which mains of 60 Hz are usual; split-phase always is."""
LEAST_HZ, MOST_HZ = 16.0, 400.0
"""Frequencies of AC, from railway supplies to aircraft ones, Hz."""
PROPOSED_V = {Supply.SINGLE_PHASE: 230.0, Supply.SPLIT_PHASE: 240.0, Supply.THREE_PHASE: 400.0, Supply.DC: 24.0}
"""The one a new rig begins with."""

SUPPLY_WORDS = {
    Supply.SINGLE_PHASE: "single-phase",
    Supply.SPLIT_PHASE: "split-phase",
    Supply.THREE_PHASE: "three-phase",
    Supply.DC: "DC",
}
TO_NEUTRAL = {
    200.0: 115.0, 208.0: 120.0, 220.0: 127.0, 380.0: 220.0, 400.0: 230.0, 415.0: 240.0, 440.0: 254.0, 480.0: 277.0, 600.0: 347.0,
}  # fmt: skip
"""Nominal voltage of one live against neutral, by the voltage between three lives."""


@dataclass(frozen=True)
class Limited:
    """Something in or on the rig with a temperature in °C it must not pass: a seal, a glue, the load itself."""

    name: str
    limit_c: float


FIRE_W = (100.0, 2_000_000.0)
"""What a fire gives, W (our choice: beyond it a slip of unit is likelier)."""
DIES_S = (5.0, 7200.0)
"""How slowly a bed of fuel dies down, s: embers of charcoal, a load of logs (our choice)."""


IDLE_PERCENT, DIES_DOWN_S = 5.0, 300.0
"""What a fire is taken for until somebody knows better: a door that closes, and embers (our choice)."""


@dataclass(frozen=True)
class Fire:
    """A fire or burner that a fan, or the demand contact of its own control, brings up. ``fire_w``: its heat at full;
    ``idle_percent``: what of it is left for good when the fan stands, through a leaking door; ``dies_s``: in so long what is above that has
    fallen to a third."""

    fire_w: float
    idle_percent: float = IDLE_PERCENT
    dies_s: float = DIES_DOWN_S

    @property
    def idle(self) -> float:
        """What is left with the fan standing, as a share."""
        return self.idle_percent / 100.0


MOST_MATERIALS = 8


@dataclass(frozen=True)
class Purpose:
    """Temperatures in °C, supply in V, heater by its nameplate in W and V.

    With several lives the supply's voltage is between two of them, and the heater's nameplate is that of the whole bank:
    all its power, at the voltage between lives that gives it. Of one that cools they are those of its compressor, ``lowest_c`` is what must
    never be passed, ``highest_c`` what it must hold. A rig that only watches has none: both are 0, ``working_c`` is the usual
    temperature, and the supply feeds its instrument.

    With a ``fire`` the heater's fields are those of its fan. A ``cooler`` is switched beside a heater, never both at once. ``neighbours``:
    other zones of its chamber, at work. ``controls``: what feeds them, where that is not the heater's supply.
    ``own_mains``: a generator or inverter that makes that supply. ``heater_sensor``: a second one, for two loops in a row.

    ``lowest_c``/``highest_c`` bound what the load may see; the reasons say what happens beyond them.
    """

    working_c: float
    highest_c: float
    highest_reason: str
    supply: Supply
    supply_voltage_v: float
    heater_power_w: float
    heater_voltage_v: float
    lowest_c: float | None = None
    lowest_reason: str = ""
    ambient_c: float = 21.0
    materials: tuple[Limited, ...] = ()
    effect: Effect = Effect.HEATS
    frequency_hz: float = 50.0
    fire: Fire | None = None
    cooler: Cooler | None = None
    neighbours: Neighbours | None = None
    controls: Controls | None = None
    own_mains: OwnMains | None = None
    heater_sensor: HeaterSensor | None = None

    @property
    def heats(self) -> bool:
        return self.effect is Effect.HEATS

    @property
    def cools(self) -> bool:
        return self.effect is Effect.COOLS

    @property
    def acts(self) -> bool:
        """Whether it moves the temperature itself."""
        return self.effect is not Effect.WATCHES

    @property
    def drives_motor(self) -> bool:
        """Whether what is switched is a motor: a compressor, or the fan of a fire."""
        return self.cools or self.fire is not None

    @property
    def has_compressor(self) -> bool:
        """Whether it cools with a compressor, alone or beside its heater."""
        return self.cools or (self.cooler is not None and self.cooler.rests)

    @property
    def turns(self) -> bool:
        """Whether its heater is a thermo-electric module that cools when its current is turned round."""
        return self.cooler is not None and self.cooler.turns

    @property
    def kept_at_c(self) -> float:
        """Where other zones at work keep it with its own output off, °C: at the room, where there are none."""
        return self.neighbours.keep_at_c(self.ambient_c) if self.neighbours else self.ambient_c

    @property
    def load(self) -> str:
        """What is switched, in a word."""
        return "compressor" if self.cools else "fan" if self.fire else "module" if self.turns else "heater"

    @property
    def lives(self) -> int:
        """Live conductors of the supply (the plus of DC counts as one)."""
        return {Supply.THREE_PHASE: 3, Supply.SPLIT_PHASE: 2}.get(self.supply, 1)

    @property
    def control_voltage_v(self) -> float:
        """What control circuits are fed with: a supply of their own, else one live against neutral."""
        if self.controls is not None:
            return self.controls.controls_v
        if self.supply is Supply.SPLIT_PHASE:
            return self.supply_voltage_v / 2.0
        if self.supply is Supply.THREE_PHASE:
            return TO_NEUTRAL.get(self.supply_voltage_v, round(self.supply_voltage_v / sqrt(3.0), 1))
        return self.supply_voltage_v

    @property
    def dc_controls(self) -> bool:
        """Whether controls run on DC."""
        return self.controls.direct if self.controls else self.supply is Supply.DC


def usual_hz(supply: Supply, voltage_v: float) -> float:
    """The frequency mains of this voltage usually have, Hz."""
    return 60.0 if supply is Supply.SPLIT_PHASE or voltage_v in AT_60_HZ else 50.0


def check_purpose(purpose: Purpose) -> None:
    """Raise ``Refused`` with every field that cannot be right; a slip of unit is asked back rather than computed."""
    refuse_all(_problems(purpose))


def _fire_problems(p: Purpose, fire: Fire) -> list[Problem]:
    if not p.heats:
        return [Problem("fire", "only what heats has a fire of its own", "none")]
    found = []
    if not FIRE_W[0] <= fire.fire_w <= FIRE_W[1]:
        reason = f"{quantity(fire.fire_w, 'W')} looks like a slip of unit (W or kW?)"
        found.append(Problem("fire.fire_w", reason, span(*FIRE_W, "W")))
    if not 0 <= fire.idle_percent < FULL:
        found.append(
            Problem(
                "fire.idle_percent",
                "a fire that is not turned down by its fan is not controlled by it",
                "0 to less than 100 %",
            )
        )
    if not DIES_S[0] <= fire.dies_s <= DIES_S[1]:
        found.append(Problem("fire.dies_s", f"no fire dies down in {quantity(fire.dies_s, 's')}", span(*DIES_S, "s")))
    if p.lives > 1:
        found.append(
            Problem(
                "supply",
                "the fan of a fire on several lives has a direction of rotation: have it designed",
                "single-phase, or DC",
            )
        )
    return found


def _cooler_problems(p: Purpose, cooler: Cooler) -> list[Problem]:
    if not p.heats:
        return [Problem("cooler", "a cooler stands beside a heater; what only cools is described as that", "none")]
    if p.fire is not None:
        return [Problem("cooler", "what cools beside a fire has to be designed with it", "none")]
    found = list(cooler_problems(cooler, p.working_c, p.ambient_c))
    if cooler.pumps and p.lowest_c is None:
        reason = "say below what the load is spoiled: a cooler that never stops gets there"
        found.append(Problem("lowest_c", reason, f"below {temperature(p.working_c)}"))
    if cooler.cooled_by is CooledBy.MODULE and not p.dc_controls:
        reason = "a thermo-electric module runs on direct current, and the controls that feed it are on mains"
        found.append(Problem("cooler.cooled_by", reason, "controls fed with DC"))
    if cooler.turns and p.supply is not Supply.DC:
        found.append(Problem("supply", "a thermo-electric module runs on direct current", "DC"))
    return found


def _heater_sensor_problems(p: Purpose, sensor: HeaterSensor) -> list[Problem]:
    if not p.heats or p.fire is not None:
        return [Problem("heater_sensor", "a loop at the heater is for an electric heater", "none")]
    if p.cooler is not None:
        reason = "two loops at the heater and a cooler beside it have to be designed together"
        return [Problem("heater_sensor", reason, "one of the two")]
    return list(heater_sensor_problems(sensor, p.working_c, HOTTEST_C))


def _controls_problems(p: Purpose, controls: Controls) -> list[Problem]:
    if not p.acts:
        return [Problem("controls", "it only watches: its supply feeds the instrument and nothing else", "none")]
    spans = SUPPLY_SPAN_V[Supply.SINGLE_PHASE], SUPPLY_SPAN_V[Supply.DC]
    return list(controls_problems(controls, *spans, heated_with_dc=p.supply is Supply.DC))


def _own_mains_problems(p: Purpose, own: OwnMains) -> list[Problem]:
    if not p.acts:
        return [Problem("own_mains", "it only watches: any source feeds its instrument", "public mains")]
    if p.supply is Supply.DC:
        return [Problem("own_mains", "a DC supply is described by its voltage; what makes it is its own affair", "AC")]
    return list(own_mains_problems(own))


def _problems(p: Purpose) -> list[Problem]:
    found: list[Problem] = []

    def unless(ok: bool, field: str, reason: str, accepted: str) -> None:
        if not ok:
            found.append(Problem(field, reason, accepted))

    unless(
        ABSOLUTE_ZERO_C < p.working_c <= HOTTEST_C,
        "working_c",
        f"no sensor here reads {temperature(p.working_c)}",
        "more than {-273.15 °C} and up to {1800 °C}",
    )
    unless(
        COLDEST_ROOM_C <= p.ambient_c <= HOTTEST_ROOM_C,
        "ambient_c",
        "the room round the rig is not that cold or hot",
        "{-40…60 °C}",
    )
    unless(
        p.working_c > p.ambient_c or not p.heats,
        "working_c",
        f"a heater cannot hold {temperature(p.working_c)} in a room at {temperature(p.ambient_c)}",
        f"above {temperature(p.ambient_c)}",
    )
    unless(
        p.working_c < p.ambient_c or not p.cools,
        "working_c",
        f"a cooler cannot hold {temperature(p.working_c)} in a room at {temperature(p.ambient_c)}",
        f"below {temperature(p.ambient_c)}",
    )
    unless(
        p.working_c >= COLDEST_STAGE_C or not p.cools,
        "working_c",
        f"one compressor stage does not reach {temperature(p.working_c)}",
        "{-45 °C} or more",
    )
    unless(
        p.lowest_c is not None or not p.cools,
        "lowest_c",
        "say below what the load is spoiled: a cooler that never stops gets there",
        f"below {temperature(p.working_c)}",
    )
    unless(
        not p.cools or p.supply in (Supply.SINGLE_PHASE, Supply.DC),
        "supply",
        "a compressor on several lives has a direction of rotation and protection of its own: have it designed",
        "single-phase, or DC",
    )
    unless(
        p.highest_c > p.working_c,
        "highest_c",
        "the highest allowed temperature must lie above the working temperature, or the rig "
        + ("shuts down at work" if p.heats else "calls all the time"),
        f"above {temperature(p.working_c)}",
    )
    unless(p.highest_c <= HOTTEST_C, "highest_c", "no sensor here reads so high", "up to {1800 °C}")
    if p.lowest_c is not None:
        unless(
            p.lowest_c < p.working_c,
            "lowest_c",
            "the lowest allowed temperature must lie below the working temperature",
            f"below {temperature(p.working_c)}",
        )
    unless(bool(p.highest_reason.strip()), "highest_reason", "say what is spoiled above it", "a few words")
    low, high = SUPPLY_SPAN_V[p.supply]
    unless(
        low <= p.supply_voltage_v <= high,
        "supply_voltage_v",
        f"{quantity(p.supply_voltage_v, 'V')} is no {SUPPLY_WORDS[p.supply]} supply for this",
        span(low, high, "V"),
    )
    unless(
        p.supply is Supply.DC or LEAST_HZ <= p.frequency_hz <= MOST_HZ,
        "frequency_hz",
        f"no mains has {quantity(p.frequency_hz, 'Hz')}",
        span(LEAST_HZ, MOST_HZ, "Hz"),
    )
    if p.acts:
        unless(
            1 <= p.heater_power_w <= MOST_W,
            "heater_power_w",
            f"{quantity(p.heater_power_w, 'W')} looks like a slip of unit (W or kW?)",
            "1…200 000 W",
        )
        unless(
            1 <= p.heater_voltage_v <= MOST_V,
            "heater_voltage_v",
            f"{quantity(p.heater_voltage_v, 'V')} is no rated voltage of it",
            "1…1000 V",
        )
    if p.fire is not None:
        found += _fire_problems(p, p.fire)
    if p.cooler is not None:
        found += _cooler_problems(p, p.cooler)
    if p.controls is not None:
        found += _controls_problems(p, p.controls)
    if p.own_mains is not None:
        found += _own_mains_problems(p, p.own_mains)
    if p.heater_sensor is not None:
        found += _heater_sensor_problems(p, p.heater_sensor)
    for name in () if p.acts else ("heater_power_w", "heater_voltage_v"):
        unless(getattr(p, name) == 0, name, "a rig that only watches has none", "left empty")
    unless(len(p.materials) <= MOST_MATERIALS, "materials", "more than the scale can show", f"up to {MOST_MATERIALS}")
    names = [m.name.strip() for m in p.materials]
    for i, m in enumerate(p.materials):
        unless(1 <= len(m.name.strip()) <= LONGEST_NAME, f"materials[{i}].name", "say what it is", "1…40 characters")
        unless(names.count(names[i]) == 1, f"materials[{i}].name", f"{m.name} is there twice", "once")
        unless(
            COLDEST_LIMIT_C <= m.limit_c <= HOTTEST_LIMIT_C,
            f"materials[{i}].limit_c",
            "nothing here stands that",
            "{-200…2500 °C}",
        )
    return found
