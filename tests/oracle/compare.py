"""What the application claims of a list, held against the oracle."""

from dataclasses import dataclass

from rellux.core.wiring.circuit.faults import Verdict, analyse
from rellux.core.wiring.circuit.solve import Circuit

from .failures import catalogue
from .judge import Judge, past_the_limiter, staying_hot, uncalled

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
    analysis = analyse(Circuit(wiring, supply_v))
    by_title = {o.title: o for o in analysis.outcomes}
    welded = uncontrolled(wiring, supply_v)
    sound_judge = Judge(wiring, supply_v, welded=welded)
    sound, begun = sound_judge.found()
    wrong: list[str] = []
    marginal = int(sound.marginal)
    said_uncalled = {o.subject for o in analysis.outcomes if o.verdict is Verdict.UNCALLED}
    said_past = {o.subject for o in analysis.outcomes if o.verdict is Verdict.UNLIMITED}
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
        said = set(outcome.heaters) if outcome and outcome.verdict is Verdict.UNCOVERED else set()
        wrong += [f"unsaid: {name} stays on after {title!r} ({outcome and outcome.verdict})" for name in true - said - excused]
        wrong += [f"false: {name} stays on after {title!r}" for name in said - true]
    if worst and analysis.summary.startswith(CALM):
        wrong.append(f"too calm: {analysis.summary}")
    return Compared(tuple(wrong), len(own), marginal)
