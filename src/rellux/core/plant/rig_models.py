"""A plausible thermal network for each kind of rig, for stand-in devices and predictions before anything is measured.

Typical proportions, common practice, no source. Once a run is recorded, the identified model takes over.
"""

from dataclasses import dataclass, replace

from ..cooling.machine import pumped_w
from ..errors import refuse
from ..messages import temperature
from ..process.networks import ThermalNetwork
from ..purpose.heater import heat_w, heater_power
from ..purpose.heater_sensor import SPARE_C, too_low
from ..purpose.purpose import Purpose, RigKind

MOST_VIGOUR = 1.5
"""A stand-in with half as much power again as its nameplate is the strongest (our choice)."""


@dataclass(frozen=True)
class Character:
    """``reserve``: full-power rise over working rise. Times in s. ``lining``: share of the loss through the wall."""

    reserve: float
    element_s: float
    chamber_s: float
    lining_s: float
    lining_share: float
    sensor_s: float
    dead_s: float


CHARACTERS = {
    RigKind.CABINET: Character(2.4, 35.0, 560.0, 1200.0, 0.18, 15.0, 22.0),
    RigKind.DRYING: Character(2.2, 40.0, 700.0, 1500.0, 0.2, 20.0, 30.0),
    RigKind.OVEN: Character(1.9, 45.0, 900.0, 2400.0, 0.4, 12.0, 15.0),
    RigKind.KILN: Character(1.7, 60.0, 2600.0, 7000.0, 0.4, 20.0, 20.0),
    RigKind.MUFFLE: Character(1.8, 60.0, 1500.0, 4500.0, 0.4, 15.0, 15.0),
    RigKind.REFLOW_OVEN: Character(2.2, 8.0, 90.0, 400.0, 0.2, 4.0, 4.0),
    RigKind.REFLOW_PLATE: Character(2.2, 12.0, 240.0, 600.0, 0.15, 6.0, 4.0),
    RigKind.PLATE: Character(2.2, 12.0, 240.0, 600.0, 0.15, 6.0, 4.0),
    RigKind.PRESS: Character(2.0, 30.0, 1500.0, 3000.0, 0.25, 10.0, 20.0),
    RigKind.BED: Character(1.8, 4.0, 180.0, 400.0, 0.1, 4.0, 3.0),
    RigKind.TANK: Character(2.0, 30.0, 3600.0, 5400.0, 0.3, 10.0, 25.0),
    RigKind.BOILER: Character(1.8, 60.0, 2400.0, 3600.0, 0.15, 15.0, 30.0),
    RigKind.BLOWER: Character(1.6, 6.0, 8.0, 60.0, 0.1, 2.0, 1.0),
    RigKind.DUCT: Character(1.8, 15.0, 40.0, 200.0, 0.1, 5.0, 6.0),
    RigKind.BELL: Character(1.9, 60.0, 1200.0, 3000.0, 0.3, 15.0, 20.0),
    RigKind.BAR: Character(2.4, 20.0, 400.0, 900.0, 0.15, 6.0, 10.0),
    RigKind.TOOL: Character(3.0, 2.0, 15.0, 60.0, 0.1, 0.5, 0.5),
    RigKind.FIRE: Character(1.8, 60.0, 600.0, 1800.0, 0.3, 10.0, 20.0),
    RigKind.COLD: Character(2.0, 60.0, 1800.0, 3600.0, 0.3, 20.0, 40.0),
}


LEFT_ALONE_W = 100.0
"""A rig that only watches has no power of its own: any gives it its masses, W."""


def left_alone(kind: RigKind, purpose: Purpose) -> ThermalNetwork:
    """What a rig that only watches looks at: it follows what is round it, slowly, with the masses of its kind."""
    return network_for(kind, purpose, LEFT_ALONE_W)


SHARE_OF_CARNOT = 0.4
"""What a small machine does of what physics allows (typical, from memory)."""


def pumped_at_work(purpose: Purpose) -> float:
    """Heat in W that the cooler of a rig takes out of it at its working temperature."""
    return pumped_w(heater_power(purpose).value, SHARE_OF_CARNOT, purpose.working_c, purpose.ambient_c)


def network_of(kind: RigKind, purpose: Purpose, vigour: float = 1.0) -> ThermalNetwork:
    """What a rig of this purpose moves or looks at: heated, cooled, or left alone. A cooler is taken to pump at every temperature what it
    pumps at work; colder it really pumps less."""
    if purpose.heats:
        return with_cooler(network_for(kind, purpose, heat_w(purpose), vigour), purpose)
    if not purpose.cools:
        return left_alone(kind, purpose)
    warmed = network_for(kind, purpose, pumped_at_work(purpose), vigour)
    return replace(warmed, heater_power_w=-warmed.heater_power_w)


def with_cooler(network: ThermalNetwork, purpose: Purpose) -> ThermalNetwork:
    """The network of a rig with the cooler beside its heater, where it has one. Among other zones it is warmed from where they keep it."""
    cooler = purpose.cooler
    if cooler is None:
        return network
    rise_c = cooler.with_c(purpose.ambient_c) - purpose.kept_at_c
    return replace(network, cooler_w_per_k=cooler.w_per_k(purpose.working_c, purpose.ambient_c), coolant_rise_c=rise_c)


MOST_HEAT = 0.5
"""A heater that holds more of all the heat than this share is no heater beside a chamber (our choice)."""


def heater_stands(kind: RigKind, purpose: Purpose) -> tuple[float, float]:
    """How much hotter than the rig its heater is while that holds its working temperature, °C, and with what lag it comes down to it, s: as
    was said of its sensor, else as rigs of this kind have it."""
    network = network_for(kind, purpose, heat_w(purpose))
    link = network.links[0][2]
    lost = network.heater_power_w * (purpose.working_c - purpose.ambient_c) / float(network.equilibrium_rise()[1])
    return lost / link, network.capacities[0] / link


def check_heater_sensor(kind: RigKind, purpose: Purpose) -> None:
    """Raise ``Refused`` for a loop at a heater that leaves nothing to control with, or at one that is most of the rig."""
    sensor = purpose.heater_sensor
    if sensor is None:
        return
    hotter_c, _ = heater_stands(kind, purpose)
    least = purpose.working_c + hotter_c + SPARE_C
    if sensor.most_c < least:
        raise refuse("heater_sensor.most_c", *too_low(purpose.working_c, least))
    heater, *others = network_for(kind, purpose, heat_w(purpose)).capacities
    if heater > MOST_HEAT * sum(others):
        raise refuse(
            "heater_sensor.lag_s",
            "a heater that slow holds more heat than what it heats, as rigs of this kind are taken to be",
            "less, or hotter while it holds",
        )


def idle_rise_c(kind: RigKind, purpose: Purpose, idle: float) -> float:
    """How far above the room it settles with ``idle`` of its full heat, °C, as a rig of this kind is taken to be."""
    return CHARACTERS[kind].reserve * (purpose.working_c - purpose.ambient_c) * idle


def rests_c(kind: RigKind, purpose: Purpose) -> float:
    """Where it settles with its output off, °C. A fire glows on, and other zones keep one warm; the network is linear, so out of that rest
    everything goes as in a room that is so warm, and whatever computes with its heat takes it for the room."""
    if purpose.fire is None:
        return purpose.kept_at_c
    return purpose.ambient_c + idle_rise_c(kind, purpose, purpose.fire.idle)


def check_fire(kind: RigKind, purpose: Purpose) -> None:
    """Raise ``Refused`` for a fire that keeps it too warm with its fan standing: no set-point cures that."""
    fire = purpose.fire
    if fire is None:
        return
    rests = rests_c(kind, purpose)
    most = purpose.ambient_c + (purpose.working_c - purpose.ambient_c) * HOLDS
    if rests < most:
        return
    least = 100.0 * HOLDS / CHARACTERS[kind].reserve
    raise refuse(
        "fire.idle_percent",
        f"with its fan standing it would settle at about {temperature(rests, '.0f')}: no control holds {temperature(purpose.working_c)}",
        f"below {least:.0f} % (as such a rig is taken to be), by a tighter door",
    )


GLOWS_C = 900.0
"""How much hotter a fire is at its full heat than what it heats, °C (typical of embers, from memory): so what it gives hardly depends on
that, and dies down by itself."""
ELEMENT_LINK = 6.0
"""An element hands on so many times what the rig loses for a degree (typical): holding, it is a sixth of the rig's rise hotter."""
HOLDS = 0.9
"""Share of the working rise a fire may hold by itself: above it there is hardly anything left to control (our choice)."""


def network_for(kind: RigKind, purpose: Purpose, power_w: float, vigour: float = 1.0) -> ThermalNetwork:
    """Network of element, chamber and lining for a rig of this kind, at ``power_w`` of heating.
    Raises ``Refused`` for no heating, and for a vigour beyond 0…1.5.

    ``vigour`` scales the heater (0.88: an element that has lost 12 %). Nodes: 0 element, 1 chamber, 2 lining. Among other zones that hold
    what they are to, its rise is above where they keep it.
    """
    if not power_w > 0:
        raise refuse("power_w", "without heat nothing warms up", "above 0 W")
    if not 0 < vigour <= MOST_VIGOUR:
        raise refuse("vigour", "must be a share of the nominal heating", "above 0, up to 1.5")
    character = CHARACTERS[kind]
    working_rise = max(abs(purpose.working_c - purpose.ambient_c), 10.0)
    total = power_w / (character.reserve * working_rise)
    controlled = power_w if purpose.fire is None else power_w * (1.0 - purpose.fire.idle)
    releases_s = character.element_s if purpose.fire is None else purpose.fire.dies_s
    through_lining = total * character.lining_share
    direct = total - through_lining
    inner, outer = through_lining * 1.8, through_lining * 1.8 / 0.8
    element_link = power_w / GLOWS_C if purpose.fire else total * ELEMENT_LINK
    at_heater = purpose.heater_sensor
    if at_heater is not None:
        releases_s = at_heater.lag_s or releases_s
        element_link = total * working_rise / at_heater.hotter_c if at_heater.hotter_c else element_link
    beside = purpose.neighbours.share / (1.0 - purpose.neighbours.share) if purpose.neighbours else 0.0
    return ThermalNetwork(
        capacities=(
            element_link * releases_s,
            total * character.chamber_s,
            (inner + outer) * character.lining_s * 0.5,
        ),
        links=((0, 1, element_link), (1, 2, inner)),
        to_ambient=(0.0, direct + total * beside, outer),
        heater_power_w=controlled * vigour,
        heater_node=0,
        sensor_node=1,
        sensor_lag_s=character.sensor_s,
        dead_time_s=character.dead_s,
        late_reading=at_heater is not None,
    )
