"""The rig as its physical chain from plug to load and back through the sensor, each part's duty against its rating."""

from dataclasses import dataclass

from ..explain import Figure, Input
from ..heating.conductor_tables import Practice
from ..heating.loads import element_resistance
from ..heating.plugs import COOL_SHARE, DC_PLUGS_A, NEC_PLUG_SHARE, PLUGS_A
from ..heating.protection import Protection, size_protection
from ..heating.switches import heat_sink, relay_life, ssr_dissipation
from ..messages import quantity
from ..purpose.heater import heater_current, heater_power
from ..purpose.purpose import Purpose, Supply
from ..sensing.sensors import describe, sensor_range, tolerance
from ..units import Kind
from ..wiring.choice import Actuator, Choice, Output, actuator_rating, switch_rating, switched_a
from ..wiring.generate import loaded_cores

BOX_AMBIENT_C = 40.0


@dataclass(frozen=True)
class Piece:
    """One part of the chain: what it must carry (``duty``) against what it may (``rating``), same kind."""

    key: str
    title: str
    says: str
    duty: Figure
    rating: float

    @property
    def fill(self) -> float:
        """Duty over rating; more than 1 is overloaded."""
        return self.duty.value / self.rating if self.rating else 0.0


@dataclass(frozen=True)
class Chain:
    """The pieces in order, and the figures worth reading beside them."""

    pieces: tuple[Piece, ...]
    figures: tuple[Figure, ...]


def chain(purpose: Purpose, choice: Choice, period_s: float) -> Chain:
    """The chain for this purpose and these parts; ``period_s`` is the control period for relay life."""
    p = purpose
    if not p.acts:
        return Chain((_sensor(p, choice.sensor),), ())
    resistance = (
        (element_resistance(p.heater_power_w, p.heater_voltage_v),) if p.heats and not p.fire and not p.turns else ()
    )
    power, current = heater_power(purpose), heater_current(purpose)
    protection = size_protection(current.value, choice.practice, loaded_cores(purpose))
    pieces = [
        *_plug(purpose, choice, current),
        Piece("breaker", "Breaker", quantity(protection.breaker.value, "A"), current, protection.breaker.value),
        Piece(
            "conductor",
            "Its wire" if p.drives_motor else "Heater wire",
            protection.conductor.label,
            current,
            protection.conductor.allowed_a,
        ),
    ]
    if choice.limiter:
        pieces.append(
            Piece("limit", "Limiter contactor", "drops out on its own sensor", current, _contactor(p, current))
        )
    rating = switch_rating(choice, switched_a(p)) * current.value / switched_a(p)
    titles = {
        Actuator.RELAY: "Relay module" if choice.output is Output.PIN else "Power relay",
        Actuator.SSR: "Solid state relay",
        Actuator.CONTACTOR: "Contactor",
        Actuator.MOSFET: "MOSFET board",
        Actuator.PHASE_ANGLE: "Phase-angle unit",
    }
    pieces.append(Piece("actuator", titles[choice.actuator], quantity(rating, "A"), current, rating))
    pieces.append(_heater(purpose, power))
    pieces.append(_sensor(purpose, choice.sensor))
    return Chain(
        tuple(pieces),
        (
            current,
            *resistance,
            power,
            *_protection(protection),
            *(_switch(choice, current, period_s) if p.heats else ()),
        ),
    )


def _plug(purpose: Purpose, choice: Choice, current: Figure) -> tuple[Piece, ...]:
    """The plug chosen, or else the smallest usual one that carries the load for hours; none where that is fixed wiring."""
    share = plug_share(purpose, choice)
    rating = plug_rating(purpose, choice, current.value)
    if rating is None:
        return ()
    hours = f", {quantity(share * 100, '%', '.0f')} of it for hours" if share < 1 else ""
    return (
        Piece(
            "plug",
            "Plug and inlet",
            f"{quantity(rating, 'A')}{hours}{'' if choice.plug_a else ', proposed'}",
            current,
            rating * share,
        ),
    )


def plug_rating(purpose: Purpose, choice: Choice, current_a: float) -> float | None:
    """The rating in A of the plug chosen, or of the smallest usual one that stays cool with this current; none where no plug does."""
    cool = 1.0 if purpose.supply is Supply.DC else min(plug_share(purpose, choice), COOL_SHARE)
    return choice.plug_a or next((r for r in plugs(purpose, choice) if r * cool >= current_a), None)


def plugs(purpose: Purpose, choice: Choice) -> tuple[float, ...]:
    """Usual ratings in A of plugs for this supply and practice."""
    return DC_PLUGS_A if purpose.supply is Supply.DC else PLUGS_A[choice.practice]


def plug_share(purpose: Purpose, choice: Choice) -> float:
    """How much of a plug's rating a load may take for hours."""
    return NEC_PLUG_SHARE if choice.practice is Practice.NEC and purpose.supply is not Supply.DC else 1.0


def _contactor(purpose: Purpose, current: Figure) -> float:
    """What of its rating counts for this load, A."""
    return actuator_rating(Actuator.CONTACTOR, switched_a(purpose)) * current.value / switched_a(purpose)


def _protection(protection: Protection) -> tuple[Figure, Figure]:
    return protection.breaker, protection.area


def _heater(purpose: Purpose, power: Figure) -> Piece:
    return Piece(
        "heater",
        purpose.load.capitalize(),
        f"{quantity(purpose.heater_power_w, 'W')} at {quantity(purpose.heater_voltage_v, 'V')}",
        power,
        purpose.heater_power_w,
    )


def _sensor(purpose: Purpose, sensor: str) -> Piece:
    high = sensor_range(sensor)[1]
    allowed = tolerance(sensor, purpose.working_c)
    duty = Figure(
        "highest temperature at the sensor",
        purpose.highest_c,
        Kind.TEMPERATURE,
        inputs=(
            Input("highest allowed", purpose.highest_c, Kind.TEMPERATURE, source="purpose"),
            Input("sensor range ends", high, Kind.TEMPERATURE, source="IEC 60584-1 / IEC 60751"),
            *(
                ()
                if allowed is None
                else (Input("new sensor is within ±", allowed, Kind.DIFFERENCE, source="class 2 / B"),)
            ),
        ),
        reason="The sensor must still read when things go wrong.",
        source="IEC 60584-1, IEC 60751",
    )
    return Piece("sensor", "Sensor", describe(sensor), duty, high)


def _switch(choice: Choice, current: Figure, period_s: float) -> tuple[Figure, ...]:
    if choice.actuator is Actuator.SSR:
        heat = ssr_dissipation(current.value)
        return heat, heat_sink(heat.value, BOX_AMBIENT_C)
    if choice.actuator is Actuator.PHASE_ANGLE:
        return (ssr_dissipation(current.value),)
    return () if choice.actuator is Actuator.MOSFET else (relay_life(period_s),)
