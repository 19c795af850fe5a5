"""An independent judge of a connection list: brute force over every state that can be reached, by dense linear algebra.

It answers one thing: which element is hot, above 2 % of its own rating, in which state. It shares no code with
``rellux.core.wiring.circuit``. Wires and terminal blocks are ideal here (nodes are merged), contacts are milliohms; what lies
near a threshold is marked marginal instead of being judged.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import product

import numpy as np

from . import parts as kinds

HOT, TRIP, MARGIN = 0.02, 1.45, 0.12
TURNED = ("switch", "selector")
GUARDS = (
    "estop",
    "door_switch",
    "flow_switch",
    "level_switch",
    "isolator",
    "cutout_manual",
    "cutout_auto",
    "thermal_fuse",
)
PRESSED = ("pushbutton", "estop_no")
LAST = ("thermal_fuse", "cutout_manual")
TIE_S, JOIN_S = 1e-9, 1e3


@dataclass(frozen=True)
class Broken:
    """A failure in the oracle's own words."""

    cut_wires: frozenset[int] = frozenset()
    open: frozenset[tuple[str, str]] = frozenset()
    """Contacts by (part, when), or loads by (part, role), that never conduct."""
    shut: frozenset[tuple[str, str]] = frozenset()
    lost: frozenset[str] = frozenset()
    joined: tuple[tuple[str, str], ...] = ()
    tapped: tuple[tuple[str, float, str], ...] = ()
    calls: frozenset[str] = frozenset()
    silent: frozenset[str] = frozenset()
    blind: frozenset[str] = frozenset()
    trips: frozenset[str] = frozenset()
    stuck: frozenset[str] = frozenset()
    share: float = 1.0


NOTHING = Broken()


@dataclass(frozen=True)
class Where:
    """Everything somebody or something may do to a rig."""

    call: bool
    limit: bool
    alarm: bool
    moved: frozenset[str]


@dataclass
class Found:
    """Hot elements by where; ``marginal``: something lay too near a threshold to be judged."""

    hot: dict[Where, set[str]] = field(default_factory=dict)
    marginal: bool = False


class Judge:
    """A list with one failure in it."""

    def __init__(self, wiring, supply_v: float, broken: Broken = NOTHING, welded: frozenset[str] = frozenset()) -> None:
        self.wiring, self.broken, self.welded = wiring, broken, welded
        self.wired = {end for w in wiring.connections for end in (w.a, w.b)}
        self.contacts, self.loads, self.sources = [], [], []
        for p in wiring.parts:
            kind, ratings = p.type.kind, p.ratings
            self.contacts += kinds.contacts(kind, p.name)
            self.loads += kinds.loads(kind, p.name, ratings, supply_v, self.wired)
            self.sources += kinds.sources(kind, p.name, ratings, self.wired)
        self.contacts = [
            c
            for c in self.contacts
            if (c.part, c.when) not in broken.open and (c.part, f"{c.a}-{c.b}") not in broken.open
        ]
        self.loads = [x for x in self.loads if (x.part, x.role) not in broken.open]
        self.sources = [s for s in self.sources if s.name not in broken.lost]
        self.leaks = [
            (c.a, c.b, supply_v / 0.005)
            for c in self.contacts
            if c.ohm == kinds.SWITCH_OHM and c.when == "driven" and wiring.part(c.part).type.kind not in ("mosfet",)
        ]
        self.kind = {p.name: p.type.kind for p in wiring.parts}
        self.rating = {
            p.name: float(p.ratings.get("current_a", 1e9))
            for p in wiring.parts
            if p.type.family in ("breaker", "fuse") and p.name not in broken.stuck
        }
        self.residual = {
            p.name: float(p.ratings.get("trips_a", 0.03))
            for p in wiring.parts
            if p.type.family == "rcd" and p.name not in broken.stuck
        }
        self.watts = {
            p.name: float(p.ratings.get("power_w", 1000.0)) for p in wiring.parts if p.type.family == "heater"
        }
        self._nodes()
        self._solved: dict[tuple, tuple] = {}
        self.marginal = False

    def _nodes(self) -> None:
        """Wires merge the terminals they join."""
        names = {f"{p.name}.{t.name}" for p in self.wiring.parts for t in p.type.terminals}
        names |= {n for x in (*self.loads, *self.contacts, *self.sources) for n in (x.a, x.b)}
        root = {n: n for n in names}

        def find(n: str) -> str:
            while root[n] != n:
                root[n] = root[root[n]]
                n = root[n]
            return n

        for w in self.wiring.connections:
            if w.number not in self.broken.cut_wires:
                root[find(w.a)] = find(w.b)
        for c in self.contacts:
            if c.when == "always":
                root[find(c.a)] = find(c.b)
        roots = {n: find(n) for n in names}
        order = {r: i for i, r in enumerate(sorted(set(roots.values())))}
        self.at = {n: order[r] for n, r in roots.items()}
        self.size = len(order)
        base = np.eye(self.size) * TIE_S

        def add(a: str, b: str, g: float) -> None:
            i, j = self.at[a], self.at[b]
            base[i, i] += g
            base[j, j] += g
            base[i, j] -= g
            base[j, i] -= g

        taps = {name for name, _, _ in self.broken.tapped}
        for x in self.loads:
            if x.part not in taps:
                add(x.a, x.b, 1 / x.ohm)
        for name, fraction, node in self.broken.tapped:
            x = next(x for x in self.loads if x.part == name)
            add(x.a, node, 1 / (x.ohm * fraction))
            add(node, x.b, 1 / (x.ohm * (1 - fraction)))
            rest = [y for y in self.loads if y.part == name and y is not x]
            for y in rest:
                add(y.a, y.b, 1 / y.ohm)
        for a, b, ohm in self.leaks:
            add(a, b, 1 / ohm)
        for a, b in self.broken.joined:
            add(a, b, JOIN_S)
        for p in self.wiring.parts:
            if p.type.kind in ("supply_1ph", "supply_split", "supply_3ph"):
                earthing = str(p.ratings.get("earthing", "tn"))
                middle, pe = f"{p.name}!middle", f"{p.name}.PE"
                if f"{p.name} neutral" not in self.broken.lost:
                    add(middle, f"{p.name}.N", 1 / kinds.CONTACT_OHM)
                grounded = {
                    "tn": ((middle, 1e3), (pe, 1e3)),
                    "tt": ((middle, 1e3), (pe, 1e-2)),
                    "it": ((middle, 1e-6), (pe, 1e3)),
                    "corner": ((f"{p.name}.L2", 1e3), (pe, 1e3)),
                    "high_leg": ((middle, 1e3), (pe, 1e3)),
                }[earthing]
                for node, g in grounded:
                    base[self.at[node], self.at[node]] += g
        self.base = base

    # -- one state ---------------------------------------------------------------------------------------------------

    def _conducts(self, c, on: frozenset, where: Where) -> bool:
        b, name = self.broken, c.part
        if (name, c.when) in b.shut or (name in self.welded and c.when == "driven"):
            return True
        powered = (name, "power") in on
        calls = (where.call or name in b.calls) and name not in b.silent
        tripped = (where.limit and name not in b.blind) or name in b.trips
        driven = (name, "input") in on
        if self.kind[name].startswith("relay_module"):
            driven = powered and (driven is not self.kind[name].endswith("low"))
        return {
            "hand": name not in where.moved, "pressed": name in where.moved, "coil": (name, "coil") in on,
            "rest": (name, "coil") not in on, "call": powered and calls, "uncall": not (powered and calls),
            "alarm": powered and where.alarm, "ok": powered and not tripped, "trip": not (powered and not tripped),
            "driven": driven, "undriven": not driven,
        }[c.when]  # fmt: skip

    def _gives(self, s, on: frozenset, where: Where) -> bool:
        if s.when == "mains":
            return True
        powered = (s.part, "power") in on
        calls = (where.call or s.part in self.broken.calls) and s.part not in self.broken.silent
        cools = {"cool": where.alarm, "uncool": not where.alarm}
        return powered and {"rail": True, "call": calls, "uncall": not calls, **cools}[s.when]

    def _solve(self, closed: tuple, giving: tuple):
        key = closed, giving
        if key not in self._solved:
            y = self.base.copy()
            for k in closed:
                c = self.contacts[k]
                i, j, g = self.at[c.a], self.at[c.b], 1 / c.ohm
                if i != j:
                    y[i, i] += g
                    y[j, j] += g
                    y[i, j] -= g
                    y[j, i] -= g
            ac, dc = np.zeros(self.size, complex), np.zeros(self.size)
            for k in giving:
                s = self.sources[k]
                i, j, g = self.at[s.a], self.at[s.b], 1 / s.ohm
                y[i, i] += g
                y[j, j] += g
                y[i, j] -= g
                y[j, i] -= g
                side = dc if s.dc else ac
                value = s.volts.real if s.dc else s.volts
                side[i] += value * g
                side[j] -= value * g
            found = np.linalg.solve(y, np.column_stack((ac.real, ac.imag, dc)))
            self._solved[key] = found[:, 0] + 1j * found[:, 1], found[:, 2]
        return self._solved[key]

    def _across(self, v, a: str, b: str) -> float:
        i, j = self.at[a], self.at[b]
        return float(np.hypot(abs(v[0][i] - v[0][j]), v[1][i] - v[1][j]))

    def _tripping(self, v, closed: tuple, times: float) -> str | None:
        worst, name = times, None
        sums: dict[str, complex] = {}
        for k in closed:
            c = self.contacts[k]
            amps = self._across(v, c.a, c.b) / c.ohm
            if c.part in self.rating and c.when == "hand":
                share = amps / self.rating[c.part]
                self._near(share, times)
                if share > worst:
                    worst, name = share, c.part
            if c.part in self.residual and c.when == "hand":
                sums[c.part] = sums.get(c.part, 0) + (v[0][self.at[c.a]] - v[0][self.at[c.b]]) / c.ohm
        if name:
            return name
        for part, total in sums.items():
            self._near(abs(total), self.residual[part])
            if abs(total) > self.residual[part]:
                return part
        return None

    def _shorted(self, v, giving: tuple) -> None:
        """A source that gives a good part of what it can: what happens then depends on the resistance of every wire."""
        for k in giving:
            s = self.sources[k]
            if s.when == "mains" and abs(s.volts) > 0 and self._across(v, s.a, s.b) < 0.8 * abs(s.volts):
                self.marginal = True

    def _near(self, value: float, limit: float) -> None:
        if abs(value - limit) < MARGIN * limit:
            self.marginal = True

    def settle(self, where: Where, on: frozenset) -> tuple[frozenset, set[str]]:
        """Where contacts come to rest from ``on``, and what is hot there (anywhere on the way round, if they never do).
        Protective devices that open stay open; whoever is quicker moves first, and if that matters it is marginal."""
        result = self._settled(where, on, quick=False)
        if self._settled(where, on, quick=True)[1] != result[1]:
            self.marginal = True
        return result

    def _settled(self, where: Where, on: frozenset, quick: bool) -> tuple[frozenset, set[str]]:
        gone: set[str] = set()
        start = on
        while True:
            seen, on, path = {}, start, []
            while on not in seen:
                seen[on] = len(path)
                closed = tuple(
                    k
                    for k, c in enumerate(self.contacts)
                    if c.when != "always" and c.part not in gone and self._conducts(c, on, where)
                )
                giving = tuple(k for k, s in enumerate(self.sources) if self._gives(s, on, where))
                v = self._solve(closed, giving)
                path.append((v, closed))
                opening = self._tripping(v, closed, 5.0)
                if opening:
                    break
                after = self._following(v, on)
                if quick and len(changed := after ^ on) > 1:
                    first = min(self._delay(x) for x in changed)
                    after = on ^ frozenset(x for x in changed if self._delay(x) == first)
                on = after
            opening = opening or (
                self._tripping(v, closed, TRIP) if on == after and len(path) - seen[on] == 1 else None
            )
            if not opening:
                self._shorted(v, giving)
                hot = set()
                for v, _ in path[seen[on] :]:
                    hot |= self._hot(v)
                return on, hot
            gone.add(opening)

    def _delay(self, actor: tuple[str, str]) -> float:
        name, role = actor
        return {"power": 500.0, "input": 10.0}.get(role, 25.0 if self.kind[name].startswith("contactor") else 10.0)

    def _following(self, v, on: frozenset) -> frozenset:
        found = set()
        for x in self.loads:
            if x.on_v >= 1e9:
                continue
            volts = (v[1][self.at[x.a]] - v[1][self.at[x.b]]) if x.direct else self._across(v, x.a, x.b)
            limit = x.off_v if (x.part, x.role) in on else x.on_v
            self._near(volts, limit)
            if volts >= limit:
                found.add((x.part, x.role))
        return frozenset(found)

    def _hot(self, v) -> set[str]:
        watts: dict[str, float] = {}
        tapped = {t[0] for t in self.broken.tapped}
        seen = set()
        for x in self.loads:
            cools = x.direct and v[1][self.at[x.a]] < v[1][self.at[x.b]]  # a module turned round takes heat out
            if x.role == "heat" and not cools and not (x.part in tapped and x.part not in seen):
                watts[x.part] = watts.get(x.part, 0.0) + self._across(v, x.a, x.b) ** 2 / x.ohm
            seen.add(x.part)
        for name, fraction, node in self.broken.tapped:
            x = next(x for x in self.loads if x.part == name)
            for a, b, share in ((x.a, node, fraction), (node, x.b, 1 - fraction)):
                cools = x.direct and v[1][self.at[a]] < v[1][self.at[b]]
                watts[name] = watts.get(name, 0.0) + (0.0 if cools else self._across(v, a, b) ** 2 / (x.ohm * share))
        hot = set()
        for name, w in watts.items():
            limit = HOT * self.watts[name]
            self._near(w * self.broken.share, limit)
            if w * self.broken.share > limit:
                hot.add(name)
        return hot

    # -- every state -------------------------------------------------------------------------------------------------

    def moved_by_hand(self, every: bool) -> list[str]:
        """Parts with both ends of a contact wired that somebody or something operates; ``every``: breakers and plugs too."""
        kinds_ = (
            *TURNED,
            *PRESSED,
            *GUARDS,
            *(("breaker", "breaker_2p", "breaker_3p", "fuse", "rcd", "rcd_4p") if every else ()),
        )
        both = {c.part for c in self.contacts if c.when in ("hand", "pressed") and {c.a, c.b} <= self.wired}
        return [p.name for p in self.wiring.parts if p.type.kind in kinds_ and p.name in both]

    def everywhere(self) -> Iterator[Where]:
        resting = any(
            c.when in ("rest", "uncall", "undriven", "trip") and {c.a, c.b} <= self.wired for c in self.contacts
        )
        hands = self.moved_by_hand(resting)
        limited = any(p.type.family == "limiter" for p in self.wiring.parts)
        alarmed = any(c.when == "alarm" and {c.a, c.b} <= self.wired for c in self.contacts) or any(
            s.when == "cool" and s.a in self.wired for s in self.sources
        )
        for call, limit, alarm in product(
            (False, True), (False, True) if limited else (False,), (False, True) if alarmed else (False,)
        ):
            for bits in product((False, True), repeat=len(hands)):
                yield Where(call, limit, alarm, frozenset(h for h, bit in zip(hands, bits, strict=True) if bit))

    def found(self, begun: dict[Where, set[frozenset]] | None = None) -> tuple[Found, dict[Where, set[frozenset]]]:
        """Every state reached from power-off by one event after another; ``begun``: states of the sound rig in which the
        failure may find it."""
        places = list(self.everywhere())
        known: dict[Where, dict[frozenset, set[str]]] = {w: {} for w in places}
        waiting = [(w, frozenset()) for w in places]
        waiting += [(w, on) for w, ons in (begun or {}).items() if w in known for on in ons]
        tried = set()
        while waiting:
            where, start = waiting.pop()
            if (where, start) in tried:
                continue
            tried.add((where, start))
            on, hot = self.settle(where, start)
            if on in known[where]:
                known[where][on] |= hot  # come here another way, something else may have tripped
                continue
            known[where][on] = hot
            waiting += [(after, on) for after in _events(where, places)]
        return Found({w: set().union(*k.values()) for w, k in known.items()}, self.marginal), {
            w: set(k) for w, k in known.items()
        }


def _events(where: Where, places: list[Where]) -> list[Where]:
    """Places one event away."""
    return [
        w
        for w in places
        if (w.call != where.call) + (w.limit != where.limit) + (w.alarm != where.alarm) + len(w.moved ^ where.moved)
        == 1
    ]


def staying_hot(judge: Judge, found: Found) -> set[str]:
    """Elements that stay hot although nobody calls and everything independent has acted, in some standing of the rest."""
    hands = set().union(*(where.moved for where in found.hot))
    last = [p.name for p in judge.wiring.parts if p.type.kind in LAST and p.name in hands]
    limited = any(p.type.family == "limiter" for p in judge.wiring.parts)
    left: set[str] = set()
    for where in found.hot:
        if where.call or where.limit:
            continue
        acted = [Where(False, True, where.alarm, where.moved)] if limited else []
        acted += [Where(False, False, where.alarm, where.moved | {name}) for name in last]
        sets = [found.hot.get(w, set()) for w in acted or [where]]
        left |= set.intersection(*sets)
    return left


def uncalled(found: Found) -> set[str]:
    """Elements hot while nobody calls and nothing has tripped."""
    return {n for w, hot in found.hot.items() if not w.call and not w.limit for n in hot}


def past_the_limiter(found: Found) -> set[str]:
    """Elements hot with the limiter tripped and the output on."""
    return {n for w, hot in found.hot.items() if w.call and w.limit for n in hot}
