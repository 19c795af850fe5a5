"""What the application claims of a list, held against the oracle."""

from dataclasses import dataclass, fields

from rellux.core.wiring.circuit.faults import FailureVerdict, analyse
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import Circuit

from .failures import catalogue
from .judge import Broken, Judge, past_the_limiter, staying_hot, uncalled

CALM = ("No single failure", "Nothing in this circuit heats", "With the output on nothing here heats")


@dataclass(frozen=True)
class Compared:
    """``wrong``: sentences about every disagreement; ``judged`` and ``marginal``: how many failures were compared, or lay too
    near a threshold."""

    wrong: tuple[str, ...]
    judged: int
    marginal: int


def uncontrolled(wiring, supply_v: float) -> frozenset[str]:
    """Semiconductors on the wrong kind of current, or the wrong way round: nothing turns them off."""
    judge, found = Judge(wiring, supply_v), set()
    for where in judge.everywhere():
        if where.limit or where.alarm or where.moved:
            continue
        on, _ = judge.settle(where, frozenset())
        closed = tuple(k for k, c in enumerate(judge.contacts) if c.when != "always" and judge._conducts(c, on, where))
        v = judge._solve(closed, tuple(k for k, s in enumerate(judge.sources) if judge._gives(s, on, where)))
        for c in judge.contacts:
            part = wiring.part(c.part)
            if c.when != "driven" or part.type.family != "ssr":
                continue
            i, j = judge.at[c.a], judge.at[c.b]
            ac, dc = abs(v[0][i] - v[0][j]), v[1][i] - v[1][j]
            direct = part.type.kind == "mosfet" or part.ratings.get("load_type", "ac") == "dc"
            if (direct and (dc < -1.0 or ac > 3.0)) or (not direct and abs(dc) > max(3.0, 2**0.5 * ac)):
                found.add(c.part)
    return frozenset(found)


def compare(wiring, supply_v: float) -> Compared:
    """Run both and say where they differ."""
    analysis = analyse(CircuitSolver(wiring, supply_v))
    by_title = {o.title: o for o in analysis.outcomes}
    welded = uncontrolled(wiring, supply_v)
    sound_judge = Judge(wiring, supply_v, welded=welded)
    sound, begun = sound_judge.found()
    wrong: list[str] = []
    marginal = int(sound.marginal)
    said_uncalled = {o.subject for o in analysis.outcomes if o.verdict is FailureVerdict.UNCALLED}
    said_past = {o.subject for o in analysis.outcomes if o.verdict is FailureVerdict.UNLIMITED}
    limited = any(p.type.family == "limiter" for p in wiring.parts)
    if not sound.marginal:
        for what, said, true in (
            ("heats uncalled", said_uncalled, uncalled(sound)),
            ("heats past the limiter", said_past, past_the_limiter(sound) if limited else set()),
        ):
            wrong += [f"unsaid: {name} {what} with nothing broken" for name in true - said]
            wrong += [f"false: {name} {what} with nothing broken" for name in said - true]
    excused = said_uncalled | said_past
    always = staying_hot(sound_judge, sound)
    worst = bool(always)
    own = catalogue(wiring) if sound_judge.watts else {}
    for title in own.keys() ^ {t for t in by_title if not t.startswith("With nothing broken")}:
        wrong.append(f"{'not in the catalogue' if title in own else 'not in the trade list'}: {title}")
    for title, broken in own.items():
        judge = Judge(wiring, supply_v, broken, welded)
        found, _ = judge.found(begun)
        if found.marginal or sound.marginal:
            marginal += 1
            continue
        true = staying_hot(judge, found)
        worst = worst or bool(true)
        outcome = by_title.get(title)
        said = set(outcome.heaters) if outcome and outcome.verdict is FailureVerdict.UNCOVERED else set()
        wrong += [
            f"unsaid: {name} stays on after {title!r} ({outcome and outcome.verdict})" for name in true - said - excused
        ]
        wrong += [f"false: {name} stays on after {title!r}" for name in said - true]
    if worst and analysis.summary.startswith(CALM):
        wrong.append(f"too calm: {analysis.summary}")
    return Compared(tuple(wrong), len(own), marginal)


def both(one: Broken, other: Broken) -> Broken:
    """Two failures at once."""
    values = {f.name: getattr(one, f.name) for f in fields(Broken)}
    for name, value in values.items():
        more = getattr(other, name)
        values[name] = (
            min(value, more) if name == "share" else value | more if isinstance(value, frozenset) else (*value, *more)
        )
    return Broken(**values)


def seconds(wiring, supply_v: float) -> Compared:
    """Every second failure after each that is said to be unnoticed: what then leaves the heat on must be named. After a lost earth what is
    named hurts by touch instead, and is not judged here."""
    earths = {f"wire {w.number}" for w in wiring.connections if w.circuit is Circuit.EARTH}
    outcomes = {o.title: o for o in analyse(CircuitSolver(wiring, supply_v)).outcomes}
    welded = uncontrolled(wiring, supply_v)
    _, begun = Judge(wiring, supply_v, welded=welded).found()
    own = catalogue(wiring)

    def hot(broken: Broken) -> set[str] | None:
        judge = Judge(wiring, supply_v, broken, welded)
        found, _ = judge.found(begun)
        return None if found.marginal else staying_hot(judge, found)

    alone = {title: hot(broken) for title, broken in own.items()}
    wrong, judged, marginal = [], 0, 0
    for first, outcome in outcomes.items():
        if (
            outcome.verdict is not FailureVerdict.LATENT
            or first not in own
            or alone[first]
            or outcome.subject in earths
        ):
            continue
        for second, broken in own.items():
            if second == first or alone[second] or alone[second] is None or outcome.subject == outcomes[second].subject:
                continue
            true = hot(both(own[first], broken))
            judged += 1
            if true is None:
                marginal += 1
            elif bool(true) is not (second in outcome.second) and outcomes[second].verdict is not FailureVerdict.TRIPS:
                wrong.append(
                    f"{'unsaid' if true else 'false'}: {first!r}, then {second!r} ({outcomes[second].verdict})"
                )
    return Compared(tuple(wrong), judged, marginal)
