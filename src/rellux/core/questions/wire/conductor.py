"""Which wire and breaker, and would the next smaller one do?"""

from dataclasses import replace
from typing import Any

from ...errors import Refused
from ...findings import Finding, Severity
from ...heating.conductors import Size, Sizing, size
from ...heating.protection import sizing_for
from ...heating.run_of_wire import Laying, usual_run
from ...heating.wire import nearest_awg
from ...messages import percent, quantity, temperature
from ...wiring.generate import loaded_cores
from ..answer import Alternative, Answer, Bar, Known, Question, Topic
from ..rig_values import amps
from .figures import allowed, figures
from .form import CONTROL, WireInput
from .judging import findings


def _answer(g: WireInput) -> Answer:
    found = size(g.current_a, g.run())
    best = found.best
    if best is None:
        return _none(g, found)
    at = found.sizes.index(best)
    shown = found.sizes[max(0, at - 1) : at + 3]
    full = max(s.allowed_a for s in shown)
    return Answer(
        f"{_both(best)} behind a {quantity(found.breaker_a, 'A')} {'fuse of its own' if g.serves == CONTROL else 'breaker'}.",
        figures(g, found, best),
        findings(g, found, best),
        bars=tuple(
            Bar(s.label, allowed(s, g), full, g.current_a, _word(i, found, s), Severity.DANGER if s.wrong else None)
            for i, s in enumerate(found.sizes)
            if s in shown
        ),
        alternatives=tuple(_alternative(i, s, g, found) for i, s in enumerate(found.sizes) if s in shown),
    )


def _none(g: WireInput, found: Sizing) -> Answer:
    """Nothing of its kind will do: what of the other kind would."""
    last, fixed = found.sizes[-1], size(g.current_a, replace(g.run(), laying=Laying.CONDUIT)).best
    if g.laying is Laying.CORD and fixed:
        headline = (
            f"No cord is made for this: {_both(fixed)} in conduit behind a {quantity(found.breaker_a, 'A')} breaker."
        )
        fix = f"Fixed wiring: {_both(fixed)}, in conduit or trunking, and no plug."
    else:
        headline = "No size in the table will do here."
        fix = "Cooler route, hotter insulation, fewer together, or have it designed."
    finding = Finding(
        "wire.none",
        Severity.DANGER,
        title="No cord will do" if g.laying is Laying.CORD else "No size in the table will do",
        reason=f"{last.label}: {last.wrong[0]}.",
        fix=fix,
    )
    return Answer(headline, findings=(finding,))


def _word(i: int, found: Sizing, s: Size) -> str:
    if s.wrong:
        return "too thin"
    return "the least" if i == found.chosen else "comfortable"


def _both(s: Size) -> str:
    """A size in its own words and the other world's."""
    return (
        f"{s.label} ({quantity(s.area_mm2, 'mm²', '.2g')})"
        if "AWG" in s.label
        else f"{s.label} (about {nearest_awg(s.area_mm2)} AWG)"
    )


def _alternative(i: int, s: Size, g: WireInput, found: Sizing) -> Alternative:
    share = s.drop_v / g.voltage_v
    says = (
        s.wrong[0]
        if s.wrong
        else f"drops {percent(share, '.1f')}, {quantity(s.heat_w_m, 'W/m', '.1f')}, {temperature(s.conductor_c, '.0f')} inside"
    )
    return Alternative(
        s.label, _both(s), Severity.DANGER if s.wrong else None, says=says, reasons=s.wrong, chosen=i == found.chosen
    )


def _of_rig(known: Known) -> dict[str, Any]:
    """The run the rig's own chain is sized for, and what is fitted."""
    p, practice = known.purpose, known.choice.practice
    cores = loaded_cores(p)
    try:
        run = sizing_for(amps(known), practice, cores, p.supply_voltage_v).run
    except Refused:  # beyond the breakers here: asking says so, opening does not
        run = replace(usual_run(practice, cores, p.supply_voltage_v), laying=Laying.CONDUIT)
    return {
        "current_a": amps(known),
        "practice": practice,
        "voltage_v": p.supply_voltage_v,
        "route": "three" if cores == 3 else "two",
        "laying": run.laying,
        "ambient_c": run.ambient_c,
        "fitted_mm2": known.fitted_mm2,
    }


WIRE = Question(
    "wire",
    "Which wire and which breaker?",
    Topic.WIRE,
    WireInput,
    _answer,
    _of_rig,
    (
        "IEC: load ≤ breaker ≤ wire. NEC: breaker and wire at least 125 % of a load that runs for hours.",
        "A flex sits beside hot steel more often than people think: measure the place, then size.",
        "Plugs and inlets have a rating of their own; near full load for hours they overheat.",
    ),
    "Values are from memory of the codes. Fixed wiring belongs to a licensed person; the local code overrules.",
    ("plug", "breaker", "conductor"),
    ("current_a", "fitted_mm2"),
)
