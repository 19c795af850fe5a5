"""The shop's bath for polishing slurry: a pump carries it past the heater and to the lap. Its flow switch let the contactor go at every
bubble, and somebody moved it to where it no longer does."""

import numpy as np

from rellux.core.plant.simulation import Disturbance
from rellux.core.runs.channels import Channel
from rellux.core.spine import Station
from rellux.server.links.maps import keep as keep_map
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Event, Run
from rellux.server.setup.models import Sheet

from .making import (
    OPTICIAN,
    TECHNICIAN,
    Day,
    beside_it,
    book,
    described,
    guarded,
    identified,
    instrument,
    keep,
    link,
    run,
    sheet,
    wired,
)
from .register_maps import LOGGER

HOSE_SHARE, HOSE_LAG_S = 0.12, 90.0
"""What of its rise the slurry loses on its way to the lap, and how far the probe there is behind."""
STOOD_FROM_S, STOOD_TO_S, COOLS_S = 9_900.0, 10_800.0, 600.0
"""When the hose was kinked, and how fast the lap cools with nothing coming."""
WARMED_FROM_S, WARMED_TO_S, WARMTH_W_PER_K = 4_700.0, 9_100.0, 38.0
"""When the lap ran fast, and the heat it brought for every degree above the room."""


def slurry_bath(day: Day) -> Rig:
    """Kept at 32 °C, on/off by a relay, and cooled by tap water while the lap warms it; a second probe at the lap is only looked at."""
    rig = Rig.objects.create(
        slug="slurry-bath",
        name="Slurry bath",
        kind="tank",
        working_c=32.0,
        lowest_c=28.0,
        lowest_reason="the polish settles in the hose",
        highest_c=40.0,
        highest_reason="the pitch lap gives way",
        materials=[{"name": "tank, polypropylene", "limit_c": 90.0}, {"name": "hose, soft", "limit_c": 60.0}],
        ambient_c=21.0,
        supply="single_phase",
        supply_voltage_v=230.0,
        heater_power_w=500.0,
        heater_voltage_v=230.0,
        cooler={"cooled_by": "valve", "cooler_w": 350.0, "drive_w": 12.0, "coolant_c": 14.0},
        sensor="Pt100",
        output="relay",
        actuator="relay",
        limiter=True,
        practice="iec",
        circuit="pump",
        created_at=day.ago(64),
    )
    described(rig, day.ago(64), OPTICIAN)
    wired(rig, day.ago(63), TECHNICIAN)
    values = sheet(rig, day.ago(63), TECHNICIAN, {"hysteresis_c": 0.5}, Sheet.Kind.AS_LEFT)
    for age, stood in ((21.0, False), (3.0, True)):
        fast = (Disturbance(WARMED_FROM_S, WARMED_TO_S, -WARMTH_W_PER_K),) if stood else ()
        done = run(rig, values, day.ago(age, 8), "Polishing, flat 80", 5 * 3600, int(age), brought=fast)
        _at_the_lap(rig, done, stood)
        if not stood:
            identified(rig, done, day.ago(age - 1.0))
        if stood:
            for at, words in (
                (STOOD_TO_S, "hose kinked, nothing at the lap for a quarter of an hour"),
                (WARMED_FROM_S, "the lap runs fast and warms it"),
            ):
                Event.objects.create(run=done, time_s=at, kind="note", text=words)
    keep(rig, day.ago(62), "flow", flow=5.5, in_c=30.6, out_c=31.8, power_w=500.0, interlocked=True)
    guarded(rig, day.ago(60), TECHNICIAN)
    _into_the_coil(rig, day)
    bus = {"way": "serial", "device": "slurry-bus", "baud": 19_200, "poll_s": 1.0}
    link(rig, speed=10.0, start_c=31.2, **bus)
    lap = [{"source": "load_c", "role": "second", "name": "at the lap", "sensor": "Pt100"}]
    instrument(rig, "Logger", lap, register_map=keep_map(LOGGER).key, unit_id=2, **bus)
    return rig


def _at_the_lap(rig: Rig, done: Run, stood: bool) -> None:
    """The second probe: behind the bath and a little colder, and on its way to the room while nothing comes."""
    series = store.read(done)
    lap, t = np.full(len(series), rig.ambient_c), series.time_s
    for i, dt in enumerate(np.diff(t)):
        still = stood and STOOD_FROM_S <= t[i] < STOOD_TO_S
        comes_c = series.reading_c[i] - HOSE_SHARE * (series.reading_c[i] - rig.ambient_c)
        towards, lag_s = (rig.ambient_c, COOLS_S) if still else (comes_c, HOSE_LAG_S)
        lap[i + 1] = lap[i] + (towards - lap[i]) * -np.expm1(-dt / lag_s)
    noise = np.random.default_rng(done.pk).normal(0.0, 0.04, len(t))
    beside_it(done, "Logger", [Channel("load_c", "second", "at the lap", "Pt100")], t, np.round(lap + noise, 1))


def _into_the_coil(rig: Rig, day: Day) -> None:
    """The contactor fell at every bubble: the flow switch came into the relay's coil, which the controller switches."""
    chain, coil = rig.wires.get(a="A2.OK"), rig.wires.get(b="K1.A1")
    after = rig.wires.get(a="B3.2")
    chain.b, after.b, after.colour = "K0.A1", "K1.A1", coil.colour
    coil.b = "B3.1"
    for wire in (chain, coil, after):
        wire.save()
    why = "the contactor fell at every bubble in the hose"
    book(
        rig,
        day.ago(8),
        TECHNICIAN,
        Station.WIRING,
        f"Wires {chain.number}, {coil.number} and {after.number} moved",
        why=why,
    )
