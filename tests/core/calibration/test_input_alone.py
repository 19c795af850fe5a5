"""The input fed in place of its sensor: simulated instruments and sources, with voltages from an independent library."""

import numpy as np
import pytest
import thermocouple_its90

from rellux.core.calibration.corrections import NOTHING, Correction
from rellux.core.calibration.input_alone import Fed, Source, Whole, input_alone
from rellux.core.errors import Refused
from rellux.core.sensing.feed_table import Lead

K = thermocouple_its90.get("K")


def test_a_wrong_gain_of_the_input_is_its_own_and_the_rest_is_the_sensors():
    """An instrument 1.2 % high through copper, terminals at 27 °C and measured at 26.5; a sensor 3 °C high; 400 °C to be held."""
    shown = lambda true: 1.012 * true  # noqa: E731
    fed = tuple(Fed(K.emf(float(t)) - K.emf(27.0), shown(t)) for t in (300, 400, 500))
    found = input_alone("K", fed, Source(junction_c=26.5), NOTHING, 0.1, 400.0, Whole(1.012 * 403.0 - 400.0, 0.6))
    assert found.unit == "mV"
    assert found.at_work.low <= 4.8 <= found.at_work.high and found.at_work.high - found.at_work.low < 3.0
    assert found.sensor.low <= 3.0 <= found.sensor.high
    assert "is left for the sensor" in found.says


@pytest.mark.parametrize(
    ("input_off", "sensor_off", "says"),
    [(3.0, 0.0, "not to blame"), (0.0, 3.0, "is left for the sensor"), (0.0, 0.0, "nothing is left"), (2.0, 2.0, "is left for the sensor")],
)  # fmt: skip
def test_whose_error_it_is(input_off, sensor_off, says):
    """A Pt100's ohms by the formula of IEC 60751, as it is printed."""
    ohms = lambda t: 100.0 * (1.0 + 3.9083e-3 * t - 5.775e-7 * t * t)  # noqa: E731
    fed = tuple(Fed(ohms(t), t + input_off) for t in (40.0, 60.0, 80.0))
    found = input_alone("Pt100", fed, Source(accuracy=0.01), NOTHING, 0.1, 60.0, Whole(input_off + sensor_off, 0.2))
    assert says in found.says and found.unit == "Ω"
    assert all(p.means_c == pytest.approx(t, abs=1e-6) for p, t in zip(found.points, (40, 60, 80), strict=True))


def test_what_is_in_force_is_taken_off_first():
    fed = (Fed(500.0, 1.01 * 500.0 - 3.0),)
    found = input_alone("K", fed, Source(Lead.SIMULATOR, accuracy=0.2), Correction(-3.0, 1.01), 0.1, 500.0, None)
    assert found.at_work.value == pytest.approx(0.0, abs=1e-9) and "right within" in found.says


def test_the_interval_holds_the_truth():
    """2,000 simulated feedings: a source, a junction and a rounded display that are each off within what was said."""
    random, held = np.random.default_rng(12), 0
    for _ in range(2000):
        true, off, junction = random.uniform(100, 900), random.normal(0, 2), random.uniform(18, 32)
        mv = K.emf(true) - K.emf(junction) + random.uniform(-0.01, 0.01)
        display = round(true + off, 1)
        source = Source(junction_c=junction + random.uniform(-1, 1), known_c=1.0, accuracy=0.01)
        at = input_alone("K", (Fed(mv + 0.0, display),), source, NOTHING, 0.1, true, None).at_work
        held += at.low <= off <= at.high
    assert held / 2000 >= 0.94


@pytest.mark.parametrize(
    ("sensor", "fed", "source"),
    [
        ("NTC", (Fed(1.0, 20.0),), Source()),
        ("K", (), Source()),
        ("K", (Fed(99.0, 20.0),), Source()),
        ("K", (Fed(1.0, 5000.0),), Source()),
        ("K", (Fed(1.0, 20.0),), Source(junction_c=300.0)),
        ("K", (Fed(1.0, 20.0),), Source(accuracy=-1.0)),
        ("Pt100", (Fed(5.0, 20.0),), Source()),
    ],
)
def test_what_cannot_be_fed_is_asked_back(sensor, fed, source):
    with pytest.raises(Refused):
        input_alone(sensor, fed, source, NOTHING, 0.1, 60.0, None)


def test_nothing_fed_near_the_work_says_so():
    found = input_alone("K", (Fed(1.0, 49.0),), Source(), NOTHING, 0.1, 600.0, None)
    assert found.at_work is None and "nothing was fed near" in found.says
