"""How cold does a thermo-electric module get, and with which current?"""

from dataclasses import dataclass

import numpy as np

from ...cooling.thermoelectric import Module, best_current, module_of, settles, works
from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import quantity, temperature
from ...units import ABSOLUTE_ZERO_C, Kind
from ..answer import Answer, Axis, Curves, Mark, Question, Topic, curve

USUAL_SHARE = 0.7
"""Of the sheet's most current: more gains hardly any cold and much heat (common practice, no source)."""
POINTS = 61
SOURCE = "Peltier, Joule and conducted heat of a module with constant properties"


@dataclass(frozen=True)
class ModuleInput:
    """Modules by their sheet, their heat sink, and what they cool."""

    most_v: float = number("Sheet: most voltage", Kind.VOLTAGE, 0.5, 200, 15.4)
    most_a: float = number("Sheet: most current", Kind.CURRENT, 0.1, 60, 6.0)
    difference_c: float = number("Sheet: most difference", Kind.DIFFERENCE, 20, 140, 66)
    sheet_c: float = number("Sheet: at a hot side of", Kind.TEMPERATURE, 20, 60, 27)
    count: float = number("Modules, one behind the other", Kind.COUNT, 1, 20, 1)
    sink_kw: float = number("Heat sink with its fan", Kind.THERMAL_RESISTANCE, 0.01, 5, 0.25)
    ambient_c: float = number("Room", Kind.TEMPERATURE, -20, 50, 23)
    inside_c: float = number("Wanted inside", Kind.TEMPERATURE, -60, 45, 4)
    leak_w_k: float = number("It leaks", Kind.CONDUCTANCE, 0.001, 20, 0.4, hint="W for each degree")
    load_w: float = number("Made inside", Kind.POWER, 0, 500, 3)
    current_a: float = number("Current", Kind.CURRENT, 0, 60, 3)

    @property
    def module(self) -> Module:
        return module_of(self.most_v, self.most_a, self.difference_c, self.sheet_c, round(self.count))

    @property
    def leaked(self) -> float:
        """At the wanted temperature, W."""
        return self.leak_w_k * (self.ambient_c - self.inside_c) + self.load_w


def _module(g: ModuleInput) -> Answer:
    if g.inside_c >= g.ambient_c:
        raise refuse("inside_c", "it cools: it is wanted no colder than the room", f"below {temperature(g.ambient_c)}")
    if g.current_a > g.most_a:
        raise refuse("current_a", f"its sheet ends at {quantity(g.most_a, 'A')}", f"up to {quantity(g.most_a, 'A')}")
    module = g.module
    here = works(module, g.current_a, g.inside_c, g.ambient_c, g.sink_kw)
    best = best_current(module, g.inside_c, g.ambient_c, g.sink_kw)
    most = works(module, best, g.inside_c, g.ambient_c, g.sink_kw)
    rests = settles(module, g.current_a, g.ambient_c, g.sink_kw, g.leak_w_k, g.load_w)
    coldest = _coldest(g, module)
    given = (
        Input("current", g.current_a, Kind.CURRENT, "I", "given"),
        Input("thermopower", 1000.0 * module.seebeck, Kind.MILLIVOLTS, "S, for each degree", "from the sheet"),
        Input("resistance", module.ohm, Kind.RESISTANCE, "R", "from the sheet"),
        Input("conducts", module.conductance, Kind.CONDUCTANCE, "K", "from the sheet"),
    )
    figures = []
    if here and here.pumped_w >= 0:
        figures.append(
            Figure(
                "heat pumped",
                here.pumped_w,
                Kind.POWER,
                formula="S T_c I − ½ I² R − K (T_h − T_c)",
                inputs=given,
                reason="At the wanted temperature; what leaks in must be less.",
                source=SOURCE,
                symbol="Q_c",
            )
        )
    if here and most:
        figures += [
            Figure(
                "leaks in",
                g.leaked,
                Kind.POWER,
                formula="G (T_a − T) + Q_0",
                inputs=(),
                reason="At the wanted temperature.",
                source="heat balance",
            ),
            Figure(
                "it takes",
                max(here.power_w, 0.0),
                Kind.POWER,
                formula="S (T_h − T_c) I + I² R",
                inputs=given,
                reason="All of it, and what is pumped, goes into the heat sink.",
                source=SOURCE,
                symbol="P",
            ),
            Figure(
                "hot side",
                here.hot_c,
                Kind.TEMPERATURE,
                formula="T_a + R_sa (Q_c + P)",
                inputs=(Input("heat sink", g.sink_kw, Kind.THERMAL_RESISTANCE, "R_sa", "given"),),
                reason="The sink decides more than the module.",
                source=SOURCE,
                symbol="T_h",
            ),
            Figure(
                "current that pumps most",
                best,
                Kind.CURRENT,
                formula="dQ_c/dI = 0, with the sink",
                inputs=given,
                reason="Beyond it more current warms.",
                source=SOURCE,
            ),
            Figure(
                "most it pumps",
                max(most.pumped_w, 0.0),
                Kind.POWER,
                formula="Q_c at that current",
                inputs=given,
                reason="At the wanted temperature.",
                source=SOURCE,
            ),
        ]
    if rests is not None:
        figures.append(
            Figure(
                "comes to rest at",
                rests,
                Kind.TEMPERATURE,
                formula="Q_c = G (T_a − T) + Q_0",
                inputs=given,
                reason="With this current for good.",
                source=SOURCE,
            )
        )
    if coldest is not None:
        figures.append(
            Figure(
                "coldest it gets",
                coldest[1],
                Kind.TEMPERATURE,
                formula="least of that over I",
                inputs=given,
                reason=f"With {quantity(coldest[0], 'A', '.2g')}.",
                source=SOURCE,
            )
        )
    return Answer(
        _headline(g, rests, best), tuple(figures), tuple(_findings(g, best, rests, coldest)), _picture(g, module)
    )


def _coldest(g: ModuleInput, module: Module) -> tuple[float, float] | None:
    found = [(float(a), t) for a in np.linspace(0.0, g.most_a, POINTS) if (t := _rest(g, module, float(a))) is not None]
    return min(found, key=lambda f: f[1]) if found else None


def _rest(g: ModuleInput, module: Module, amps: float) -> float | None:
    found = settles(module, amps, g.ambient_c, g.sink_kw, g.leak_w_k, g.load_w)
    return found if found is not None and found > ABSOLUTE_ZERO_C else None


def _headline(g: ModuleInput, rests: float | None, best: float) -> str:
    if rests is None:
        return f"With {quantity(g.current_a, 'A')} it runs away: this heat sink cannot carry it off."
    rest = f"With {quantity(g.current_a, 'A')} it comes to rest at {temperature(rests, '.0f')}"
    return f"{rest}; it pumps most with {quantity(best, 'A', '.2g')}."


def _findings(g: ModuleInput, best: float, rests: float | None, coldest: tuple[float, float] | None) -> list[Finding]:
    found = []
    if rests is None or (g.current_a > best and best < g.most_a * (1.0 - 1e-3)):
        found.append(
            Finding(
                "module.turns",
                Severity.DANGER,
                title="More current warms here",
                reason=f"Beyond {quantity(best, 'A', '.2g')} its own heat outruns what it pumps: more warms it, and the controller asks "
                "for more still.",
                fix=f"Limit the output to {quantity(min(best, USUAL_SHARE * g.most_a), 'A', '.2g')}, and give the hot side a better sink.",
            )
        )
    elif g.current_a > USUAL_SHARE * g.most_a:
        found.append(
            Finding(
                "module.much",
                Severity.ADVICE,
                title="More current than it is worth",
                reason=f"Above {quantity(USUAL_SHARE * g.most_a, 'A', '.2g')}, seven tenths of its most, hardly any cold is gained "
                "and much heat is made.",
                fix="Less current, or another module beside it.",
            )
        )
    if coldest is None or coldest[1] > g.inside_c:
        reached = f"It gets to {temperature(coldest[1], '.0f')} at most" if coldest else "It runs away with any current"
        found.append(
            Finding(
                "module.reach",
                Severity.FAULT,
                title=f"{temperature(g.inside_c)} is out of its reach",
                reason=f"{reached}, with what leaks in here.",
                fix="A better heat sink first, then less that leaks in, then another module.",
            )
        )
    return found


def _picture(g: ModuleInput, module: Module) -> Curves:
    grid = np.linspace(0.0, g.most_a, POINTS)
    rests = [
        t if (t := _rest(g, module, float(a))) is not None and t < g.ambient_c + g.difference_c else float("nan")
        for a in grid
    ]
    here = _rest(g, module, g.current_a)
    return Curves(
        Axis("current", Kind.CURRENT),
        Axis("comes to rest at", Kind.TEMPERATURE),
        (curve("cold side", grid, rests), curve("wanted", (0.0, g.most_a), (g.inside_c, g.inside_c), "limit")),
        (Mark("here", g.current_a, here),) if here is not None and here < g.ambient_c + g.difference_c else (),
    )


MODULE = Question(
    "module",
    "How cold does a thermo-electric module get?",
    Topic.COLD,
    ModuleInput,
    _module,
    None,
    (
        "No on/off and no slow pulses: its solder joints tire. DC, or some kilohertz behind a choke.",
        "Pause before the current is reversed: the swing of temperature cracks it.",
        "Water that freezes round it corrodes it: seal its edge.",
    ),
    "Without its fan the hot side overheats in seconds: a cut-out on the heat sink ends it, whatever the controller does.",
)
