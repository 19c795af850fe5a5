"""The rig as its physical chain from plug to load and back through the sensor, each part's duty against its rating."""

from dataclasses import dataclass

from ..explain import Figure, Input
from ..heating.loads import element_resistance, heater_current, power_at
from ..heating.protection import Protection, size_protection
from ..heating.switches import heat_sink, relay_life, ssr_dissipation
from ..purpose.purpose import Purpose
from ..sensing.sensors import describe, sensor_range, tolerance
from ..units import Kind
from ..wiring.generate import Actuator, Choice, actuator_rating

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
    resistance = element_resistance(p.heater_power_w, p.heater_voltage_v)
    power = power_at(p.heater_power_w, p.heater_voltage_v, p.supply_voltage_v)
    current = heater_current(p.heater_power_w, p.heater_voltage_v, p.supply_voltage_v)
    protection = size_protection(current.value, choice.practice)
    pieces = [
        Piece("breaker", "Breaker", f"{protection.breaker.value:g} A", current, protection.breaker.value),
        Piece(
            "conductor",
            "Heater wire",
            protection.conductor.label,
            current,
            protection.conductor.ampacity,
        ),
    ]
    if choice.limiter:
        pieces.append(Piece("limit", "Limiter contactor", "drops out on its own sensor", current, _contactor(current)))
    rating = actuator_rating(choice.actuator, current.value)
    titles = {Actuator.RELAY: "Power relay", Actuator.SSR: "Solid state relay", Actuator.CONTACTOR: "Contactor"}
    pieces.append(Piece("actuator", titles[choice.actuator], f"{rating:g} A", current, rating))
    pieces.append(_heater(purpose, power))
    pieces.append(_sensor(purpose, choice.sensor))
    return Chain(
        tuple(pieces), (current, resistance, power, *_protection(protection), *_switch(choice, current, period_s))
    )


def _contactor(current: Figure) -> float:
    return actuator_rating(Actuator.CONTACTOR, current.value)


def _protection(protection: Protection) -> tuple[Figure, Figure]:
    return protection.breaker, protection.area


def _heater(purpose: Purpose, power: Figure) -> Piece:
    return Piece(
        "heater",
        "Heater",
        f"{purpose.heater_power_w:g} W at {purpose.heater_voltage_v:g} V",
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
    return (relay_life(period_s),)
