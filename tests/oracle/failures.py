"""What can fail, by the words of the trade's list: SSR shorted, contact welded, coil open, sensor open, shorted or reversed,
output stuck on or off, fuse blown, wire off, a phase or the neutral lost, a limiter's contact stuck, rails, elements to the case.

Written from that list for the oracle, not from the application's own catalogue: a failure that the application does not name,
or names otherwise, shows as a difference.
"""

from .judge import GUARDS, PRESSED, Broken

SEMICONDUCTORS = ("ssr", "ssr_3p", "mosfet", "triac")
COILS = ("relay", "contactor", "contactor_2p", "contactor_3p", "timer")
PROBES = ("thermocouple", "pt100", "pt1000", "thermistor")
INSTRUMENTS = ("controller_relay", "controller_cascade", "controller_ssr", "controller_cascade_ssr", "microcontroller")


def catalogue(wiring) -> dict[str, Broken]:
    """Every failure by its title."""
    found: dict[str, Broken] = {}
    wired = {end for w in wiring.connections for end in (w.a, w.b)}
    for p in wiring.parts:
        found |= _of(p, wired)
    found |= {f"wire {w.number} comes off": Broken(cut_wires=frozenset({w.number})) for w in wiring.connections}
    for probe in (p for p in wiring.parts if p.type.kind in PROBES):
        found |= _of_probe(wiring, probe)
    cases = [p.name for p in wiring.parts if p.type.kind == "enclosure"]
    for case in cases:
        called = "the case" if len(cases) == 1 else case
        for heater in (p for p in wiring.parts if p.type.family == "heater"):
            for t in heater.type.terminals:
                title = f"{heater.name} touches {called} at {t.name}"
                found[title] = Broken(joined=((f"{heater.name}.{t.name}", f"{case}.PE"),))
            for share in (0.25, 0.5):
                found[f"{heater.name} touches {called} {share:.0%} along"] = Broken(
                    tapped=((heater.name, share, f"{case}.PE"),)
                )
    return found


def _of(p, wired: set[str]) -> dict[str, Broken]:
    name, kind, family = p.name, p.type.kind, p.type.family

    def shut(*whens: str) -> Broken:
        opposite = {"coil": "rest", "driven": "undriven", "call": "uncall", "ok": "trip"}
        return Broken(
            shut=frozenset((name, w) for w in whens),
            open=frozenset((name, opposite[w]) for w in whens if w in opposite),
        )

    def cut(*whens: str) -> Broken:
        return Broken(open=frozenset((name, w) for w in whens))

    first = tuple(f"{name}.{t.name}" for t in p.type.terminals[:2])
    dead = {f"{name} loses its supply": cut("power")}
    if kind in SEMICONDUCTORS:
        found = {f"{name} fails shorted": shut("driven"), f"{name} fails open": cut("driven", "input", "always")}
        if kind != "mosfet" and p.ratings.get("load_type", "ac") == "ac":
            half = shut("driven")
            found[f"{name} conducts every other half-wave"] = Broken(shut=half.shut, open=half.open, share=0.5)
        return found
    if kind in COILS:
        return {f"{name} welds": shut("coil"), f"{name} does not pull in": cut("coil")}
    if kind in ("relay_module", "relay_module_low"):
        return {f"{name} welds": shut("driven"), f"{name} does not pull in": cut("power")}
    if family in ("breaker", "fuse", "rcd"):
        return {
            f"{name} opens": cut("hand"),
            f"{name} does not open when it should": Broken(shut=frozenset({(name, "hand")}), stuck=frozenset({name})),
        }
    if kind == "limiter":
        return {f"{name} does not open its contact": shut("ok"), **dead}
    if kind in INSTRUMENTS:
        found = {
            f"{name} keeps its output on": Broken(calls=frozenset({name})),
            f"{name} keeps its output off": Broken(silent=frozenset({name})),
            **dead,
        }
        if kind in ("controller_relay", "controller_cascade"):
            found[f"{name}'s relay welds"] = shut("call")
        pin = f"{name}.{p.ratings.get('cooling_pin', 'none')}"
        if pin in wired:
            found[f"{name} keeps its cooler on"] = Broken(joined=((pin, f"{name}.5V"),))
            found[f"{name} never calls its cooler"] = Broken(lost=frozenset({f"{name} cool"}))
        if {f"{name}.AL1", f"{name}.AL2"} & wired:
            found[f"{name}'s alarm contact stays closed"] = Broken(shut=frozenset({(name, "alarm")}))
            found[f"{name}'s alarm contact never closes (or its option board is not fitted)"] = cut("alarm")
        return found
    if kind == "logger":
        return dead
    if kind in PRESSED:
        return {f"{name} stays closed": Broken(joined=(first,)), f"{name} does not close": cut("pressed")}
    if kind == "selector":
        return {
            f"{name} stays closed at 1–2": Broken(joined=((f"{name}.1", f"{name}.2"),)),
            f"{name} stays open at 1–2": cut("hand"),
            f"{name} stays closed at 3–4": Broken(joined=((f"{name}.3", f"{name}.4"),)),
            f"{name} stays open at 3–4": cut("pressed"),
        }
    if kind in (*GUARDS, "switch", "plug"):
        return {f"{name} does not open": Broken(shut=frozenset({(name, "hand")})), f"{name} stays open": cut("hand")}
    if family == "heater":
        return {f"{name} burns out": cut("heat"), f"{name} is shorted": Broken(joined=(first,))}
    if kind in ("supply_split", "supply_3ph"):
        lives = [t.name for t in p.type.terminals if t.name.startswith("L")]
        return {
            **{f"{name} {x} is lost": Broken(lost=frozenset({f"{name} {x}"})) for x in lives},
            f"{name} neutral is lost": Broken(lost=frozenset({f"{name} neutral"})),
        }
    if kind == "supply_1ph":
        return {f"{name} neutral is lost": Broken(lost=frozenset({f"{name} neutral"}))}
    if kind == "regulator":
        gone = frozenset({name})
        return {
            f"{name} gives nothing": Broken(lost=gone),
            f"{name} lets its input through": Broken(lost=gone, joined=((f"{name}.VIN+", f"{name}.OUT+"),)),
        }
    if kind == "power_module":
        return {f"{name} gives nothing": Broken(lost=frozenset({name}))}
    if kind == "resistor":
        return {f"{name} burns out": cut("other")}
    return {}


def _of_probe(wiring, probe) -> dict[str, Broken]:
    """Who reads it is found by following wires from its first terminal, terminal blocks and slip rings included."""
    through = {"terminal_block": 4, "slip_ring": 2, "earth_bar": 0}
    reached, waiting = set(), [f"{probe.name}.{probe.type.terminals[0].name}"]
    while waiting:
        end = waiting.pop()
        if end in reached:
            continue
        reached.add(end)
        waiting += [w.b if w.a == end else w.a for w in wiring.connections if end in (w.a, w.b)]
        part, _, terminal = end.partition(".")
        if through.get(wiring.part(part).type.kind):
            number = int(terminal)
            waiting.append(f"{part}.{number + 1 if number % 2 else number - 1}")
    readers = {end.partition(".")[0] for end in reached}
    kinds = {p.name: p.type.kind for p in wiring.parts}
    if any(kinds[r] == "converter" for r in readers):
        readers |= {n for n, k in kinds.items() if k == "microcontroller"}
    callers = frozenset(r for r in readers if kinds[r] in INSTRUMENTS)
    limiters = frozenset(r for r in readers if kinds[r] == "limiter")
    low, high = Broken(calls=callers, blind=limiters), Broken(silent=callers, trips=limiters)
    name = probe.name
    found = {
        f"{name} slips out or reads too low": low,
        f"{name} reads too high": high,
        f"{name} is open, and the instrument reads too low": low,
        f"{name} is open, and the instrument reads too high": high,
    }
    if probe.type.kind == "thermocouple":
        return {
            **found,
            f"{name} is shorted along its cable: reads too low": low,
            f"{name} is reversed: reads too low": low,
        }
    if probe.type.kind == "thermistor":
        return {**found, f"{name} is shorted: reads too high": high}
    return {**found, f"{name} is shorted: reads too low": low}
