"""What the bench questions answer: figures against published values, and the alternatives of a chain."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.heating.conductor_tables import Practice
from rellux.core.heating.lining import Log, course, estimate
from rellux.core.heating.transient import Contents
from rellux.core.heating.walls import Chamber, Layer
from rellux.core.messages import spoken
from rellux.core.parts.chain import chain
from rellux.core.parts.checks import chain_findings
from rellux.core.parts.compare import alternatives
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.questions.registry import QUESTIONS
from rellux.core.wiring.choice import Actuator, Choice, Output


def ask(key, **values):
    return QUESTIONS[key].ask(values)


def figure(answer, name):
    return next(f.value for f in answer.figures if f.name == name)


def test_pairs_of_a_copper_run_on_name_it_and_draw_it():
    """NIST type K, head 60, terminals 25: 800 °C reads 34.9 °C low."""
    answer = ask("mistake", pairs=[{"display_c": 765.1, "true_c": 800}, {"display_c": 466, "true_c": 500}])
    assert answer.alternatives[0].key == "copper" and answer.headline == "Copper instead of extension wire explains it."
    assert next(c.key for c in answer.curves.lines if c.sort == "main") == "copper"
    reversed_ = next(c for c in answer.curves.lines if c.key == "reversed")
    assert reversed_.y[0] is not None and reversed_.y[-1] is None  # under-range is a gap, not a number


def test_the_table_feeds_what_the_standards_say():
    """NIST Monograph 175: type K 100 °C is 4.096 mV; IEC 60751: 100 °C is 138.506 Ω."""
    k = ask("feed", low_c=100, high_c=100, lead="extension", source_c=0).table
    assert k.rows[0] == pytest.approx((100, 4.096), abs=5e-4) and k.columns[1].kind == "millivolts"
    pt = ask("feed", sensor="Pt100", low_c=100, high_c=120, step_c=20).table
    assert pt.rows[0][1] == pytest.approx(138.506, abs=1e-3) and len(pt.rows) == 2


def test_the_budget_shares_add_up_and_every_class_is_compared():
    answer = ask("reading", sensor="N", celsius=515)
    assert sum(float(next(spoken(b.note)).numbers[0]) for b in answer.bars) == pytest.approx(100, abs=3)
    says = {a.key: a.says for a in answer.alternatives}
    assert says["IEC class 3"].startswith("Does not cover") and says["IEC class 2"] == "Permits ± {3.86 Δ°C}."


def test_the_resistance_front_end_matches_ohms_law():
    """1 mA through a Pt100 at 400 °C (247.092 Ω, IEC 60751) is 247.09 mV: gain 13.355 to 3.3 V, 10 bits."""
    answer = ask("front", sensor="Pt100")
    assert figure(answer, "gain") == pytest.approx(3.3 / 0.247092, rel=1e-4)
    assert figure(answer, "warms itself by") == pytest.approx(1e-6 * 247.092 / 0.005, rel=1e-3)
    ratio = ask("front", sensor="Pt100", way="digital", highest_c=1)
    assert figure(ratio, "one step is") == pytest.approx(400 / 32768 / 0.39, rel=0.01)  # 0.39 Ω/°C near 0 °C


def test_star_in_delta_is_three_times_the_power():
    """Hand phasors: three 1500 W 220 V elements on 380 V give 4475 W together in star and three times it in delta."""
    star, delta = (ask("bank", supply="three_phase 380", bank=b, voltage_v=220) for b in ("star", "delta"))
    assert figure(star, "power of the bank") == pytest.approx(4475, rel=1e-3)
    assert figure(delta, "power of the bank") == pytest.approx(3 * 4475, rel=1e-3)
    assert ask("bank", fault="L3").bank.lost == ("L3",)


WIDE = Chamber(100.0, 100.0, 0.05, (Layer("brick_23", 0.3),))


def test_a_lining_heats_as_carslaw_and_jaeger_say():
    """Semi-infinite solid under a constant flux q: ΔT = 2 q √(t/(π k ρc)) (Carslaw & Jaeger 1959, §2.9)."""
    k, rho_c, q = 0.2, 5e5, 400.0
    t = np.array([3600.0, 7200.0, 10_800.0])
    log = Log(t, t * 0, q * WIDE.inside_m2, 1e9, 20.0)
    found = course(WIDE, Contents(0.0), log, k, rho_c) - 20.0
    assert found == pytest.approx(2 * q * np.sqrt(t / (np.pi * k * rho_c)), rel=0.03)


@pytest.mark.parametrize(("k", "rho_c"), [(0.08, 2e5), (0.5, 1.5e6)])
def test_a_lining_is_found_again_in_its_own_log(k, rho_c):
    box = Chamber(0.3, 0.3, 0.3, (Layer("brick_23", 0.1),))
    t = np.array([10, 30, 60, 120, 150, 200, 300, 500]) * 60.0
    blank = Log(t, t * 0, 1500.0, 7200.0, 21.0)
    measured = course(box, Contents(2.0), blank, k, rho_c) + np.array([1, -1, 1, -1, 1, -1, 1, -1])
    found = estimate(box, Contents(2.0), Log(t, measured, 1500.0, 7200.0, 21.0))
    assert found.conductivity == pytest.approx(k, rel=0.05)
    assert found.heat_capacity == pytest.approx(rho_c, rel=0.05)
    assert found.conductivity_error < 0.05


def test_a_tip_heats_as_one_lump():
    """By hand: 8 g copper, 50 W, 8 W holding 329 K: C/G ln(P/(P − 8)) = 128.3 s × 0.1744 = 22.4 s."""
    answer = ask("tip", tips=[{"mass_g": 8}])
    assert figure(answer, "slowest from cold") == pytest.approx(22.4, abs=0.1)


KILN = Purpose(560, 620, "sags", Supply.SINGLE_PHASE, 230, 3200, 230)
SSR = Choice("N", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)


def tried(key, choice=SSR, purpose=KILN):
    return {c.title: c for c in alternatives(purpose, choice, lambda actuator: 20.0, key)}


def test_the_plug_chosen_is_judged_and_the_next_ones_compared():
    """13.9 A: a 13 A plug is too small, 16 A carries it; by NEC practice 15 A carries 12 A for hours."""
    small = Choice(**{**SSR.__dict__, "plug_a": 13.0})
    assert [f.rule for f in chain_findings(chain(KILN, small, 2.0))] == ["parts.plug"]
    assert chain_findings(chain(KILN, SSR, 2.0)) == []
    found = tried("plug", small)
    assert found["13 A"].chosen and found["13 A"].fill > 1 > found["16 A"].fill and not found["16 A"].findings
    hot = replace(KILN, heater_power_w=3500.0)  # 15.2 A on 16 A, and nine tenths of it on 14.4 A
    assert "parts.plug-hours" in [
        f.rule for f in chain_findings(chain(hot, Choice(**{**SSR.__dict__, "plug_a": 16.0}), 2.0))
    ]
    assert "parts.plug-hours" not in [
        f.rule for f in chain_findings(chain(KILN, Choice(**{**SSR.__dict__, "plug_a": 16.0}), 2.0))
    ]
    assert next(p for p in chain(hot, SSR, 2.0).pieces if p.key == "plug").says == "{32 A}, proposed"
    nec = Choice(**{**SSR.__dict__, "practice": Practice.NEC, "plug_a": 15.0})
    assert next(p for p in chain(KILN, nec, 2.0).pieces if p.key == "plug").rating == 12.0


def test_switches_and_sensors_are_compared_in_place():
    switches = tried("actuator")
    assert switches["Solid state relay"].chosen and "DC only" in switches["MOSFET board"].refused
    assert switches["Contactor"].choice.output is Output.RELAY
    sensors = tried("sensor")
    assert sensors["Pt100"].fill < 1 and "thermistor" in sensors["10 kΩ thermistor"].refused
    assert tried("heater") == {}


def test_a_low_voltage_rig_has_a_connector_too():
    plate = Purpose(90, 110, "pitch runs", Supply.DC, 24, 120, 24)
    mosfet = Choice("NTC", Output.PIN, Actuator.MOSFET, False, Practice.IEC)
    assert next(p for p in chain(plate, mosfet, 0.1).pieces if p.key == "plug").says == "{5 A}, proposed"
