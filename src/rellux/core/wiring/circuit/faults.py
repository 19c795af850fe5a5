"""Single faults: every credible failure of every part, solved in every way the rig may stand, and the one question asked of
each, heater by heater: is there still an independent way to take the heat away?"""

from dataclasses import dataclass, replace

from ...messages import quantity
from ..model import Circuit, ConnectionList
from ..names import TerminalName
from .failures import failures
from .idle import IdleGuard, idle_guards
from .judge import Judge
from .solve import CircuitSolver
from .standings import Reached, standings
from .verdicts import ORDER, FailureVerdict, Outcome, Reaches, worse

__all__ = ["Analysis", "FailureVerdict", "Outcome", "Reaches", "analyse"]

AS_WIRED = "With nothing broken"
WOULD_COVER = "An independent limiter with its own sensor and contactor would cover them."
PLUG_TURNED = "the plug the other way round"


@dataclass(frozen=True)
class Analysis:
    """Every outcome, worst first, and the summary a technician can read out; ``careful``: what was not tried, in words."""

    outcomes: tuple[Outcome, ...]
    summary: str
    careful: str = ""


def analyse(circuit: CircuitSolver, reaches: Reaches | None = None) -> Analysis:
    """Solve every failure in every standing of the rig, then a second one on every latent failure; with a plug that fits both
    ways round, either way. The worst of all counts."""
    wiring = circuit.wiring
    if not wiring.of_kind("heater"):
        return Analysis((), f"Nothing in this circuit {wiring.driven.does}.")
    looked = [_Looked(circuit, reaches)]
    turned = _plug_turned(wiring)
    if turned is not None:
        looked.append(_Looked(CircuitSolver(turned, circuit.supply_v), reaches))
    found = {o.title: o for o in looked[0].outcomes}
    for other in looked[1:]:
        for outcome in other.outcomes:
            known = found.get(outcome.title)
            found[outcome.title] = worse(known, outcome, PLUG_TURNED) if known else _turned(outcome)
    ordered = tuple(sorted(found.values(), key=lambda o: ORDER.index(o.verdict)))
    idle = {g.guard: g for each in looked for g in each.idle}
    careful = looked[0].careful
    heats = any(each.heats for each in looked)
    cold = (
        ""
        if heats
        else next(
            (each.opens for each in looked if each.opens), f"With the output on nothing here {wiring.driven.does}."
        )
    )
    words = [_summary(ordered, tuple(idle.values()), cold, wiring), careful]
    return Analysis(ordered, " ".join(w for w in words if w), careful)


def _turned(outcome: Outcome) -> Outcome:
    return replace(outcome, says=f"With {PLUG_TURNED}: {outcome.says}")


def _has_cover(wiring: ConnectionList) -> bool:
    return bool(wiring.of_kind("limiter", "thermal_fuse", "cutout_manual"))


def _plug_turned(wiring: ConnectionList) -> ConnectionList | None:
    """The list with every reversible plug the other way round; None where there is none."""
    swap: dict[TerminalName, TerminalName] = {}
    for plug in wiring.of_kind("plug"):
        if plug.ratings.get("reversible") == "yes":
            one, other = plug.at("1"), plug.at("3")
            swap |= {one: other, other: one}
    if not swap:
        return None
    return ConnectionList(
        wiring.parts, tuple(replace(w, a=swap.get(w.a, w.a), b=swap.get(w.b, w.b)) for w in wiring.connections)
    )


class _Looked:
    """One circuit looked at in every standing: the outcomes with nothing broken and of every failure, and its idle guards."""

    def __init__(self, circuit: CircuitSolver, reaches: Reaches | None) -> None:
        every = standings(circuit.wiring)
        reached = Reached(circuit, every)
        judges = [Judge(circuit, reached, standing, reaches) for standing in every.all]
        self.idle = idle_guards(circuit, reached, every)
        self.heats = any(j.each for j in judges)
        opened = next(iter(judges[0].opened.items()), None)
        self.opens = f"With the output on {opened[0]} opens at {quantity(opened[1], 'A', '.3g')}." if opened else ""
        self.outcomes = [*_as_wired(judges), *_failing(circuit, judges)]
        said = [every.left_out, "" if reached.complete else "not every state its latches remember was followed"]
        self.careful = " ".join(f"Not all was tried: {words}." for words in said if words)


def _as_wired(judges: list[Judge]) -> list[Outcome]:
    """What heats uncalled, or past the limiter, with nothing broken: a row a heater, in the first standing where it does."""
    found: dict[tuple[str, FailureVerdict], Outcome] = {}
    for judge in judges:
        words = judge.circuit.wiring.driven
        when = f" with {judge.standing.words}" if judge.standing.words else ""
        watts = {
            verdict: judge.circuit.heat(p).total_w
            for verdict, p in ((FailureVerdict.UNCALLED, judge.off), (FailureVerdict.UNLIMITED, judge.tripped))
        }
        for name in sorted(judge.sound_off):
            found.setdefault(
                (name, FailureVerdict.UNCALLED),
                Outcome(
                    f"{AS_WIRED}: {name} {words.does} uncalled",
                    name,
                    FailureVerdict.UNCALLED,
                    f"{name} {words.does} although nobody calls for {words.effect}{when}.",
                    watts[FailureVerdict.UNCALLED],
                    watts[FailureVerdict.UNLIMITED],
                    0.0,
                    (),
                    (name,),
                ),
            )
        past = judge.sound_tripped if judge.limited else frozenset()
        for name in sorted(past):
            found.setdefault(
                (name, FailureVerdict.UNLIMITED),
                Outcome(
                    f"{AS_WIRED}: the limiter does not stop {name}",
                    name,
                    FailureVerdict.UNLIMITED,
                    f"With the limiter tripped {name} still {words.does}{when}.",
                    watts[FailureVerdict.UNCALLED],
                    watts[FailureVerdict.UNLIMITED],
                    0.0,
                    (),
                    (name,),
                ),
            )
    return list(found.values())


def _failing(circuit: CircuitSolver, judges: list[Judge]) -> list[Outcome]:
    """Every failure judged in the worst of the standings."""
    every = failures(circuit.wiring)
    earths = {w.name for w in circuit.wiring.connections if w.circuit is Circuit.EARTH}
    found: list[Outcome] = []
    for judge in judges:
        outcomes = [judge.judge(f) for f in every]
        judged = list(zip(every, outcomes, strict=True))
        outcomes = [judge.with_second(f, o, judged) if o.verdict is FailureVerdict.LATENT else o for f, o in judged]
        outcomes = [judge.earth_lost(o) if o.subject in earths else o for o in outcomes]
        found = [worse(o, x, judge.standing.words) for o, x in zip(found or outcomes, outcomes, strict=True)]
    return found


def _summary(outcomes: tuple[Outcome, ...], idle: tuple[IdleGuard, ...], cold: str, wiring: ConnectionList) -> str:
    """Never better than the worst row: what heats with nothing broken first, then what a single failure does. ``cold``: why
    nothing heats, where nothing does."""
    by = {v: [o for o in outcomes if o.verdict is v] for v in FailureVerdict}
    count = len(outcomes) - len(by[FailureVerdict.UNCALLED]) - len(by[FailureVerdict.UNLIMITED])
    said = [f"{AS_WIRED}: {o.says}" for o in (*by[FailureVerdict.UNCALLED], *by[FailureVerdict.UNLIMITED])]
    said += [_idle_words(g) for g in idle]
    uncovered, latent = by[FailureVerdict.UNCOVERED], by[FailureVerdict.LATENT]
    if uncovered:
        cover = "Repair what lets them past." if _has_cover(wiring) else WOULD_COVER
        said.append(
            f"{len(uncovered)} of {count} single failures leave the {wiring.driven.effect} on with nothing that stops it. {cover}"
        )
    elif cold:
        said.append(cold)
    elif not said:
        stopped, warm = len(by[FailureVerdict.COVERED]), len(by[FailureVerdict.WARM])
        beyond = " beyond what everything stands" if warm else ""
        words = f"{stopped} are stopped by what is independent" + (f", {warm} never get too hot" if warm else "")
        said.append(f"No single failure of {count} leaves the {wiring.driven.effect} on{beyond}: {words}.")
    if by[FailureVerdict.STRONGER]:
        said.append(
            _counted(
                by[FailureVerdict.STRONGER],
                f"overloads an element or {wiring.driven.does} one uncalled",
                f"overload an element or {wiring.driven.do} one uncalled",
            )
        )
    if latent:
        said.append(
            f"{len(latent)} would go unnoticed: trip the limiter on purpose and check the earth at set intervals."
        )
    return " ".join(said)


def _counted(outcomes: list[Outcome], one: str, more: str) -> str:
    """``3 overload an element``, ``1 overloads an element``."""
    return f"{len(outcomes)} {one if len(outcomes) == 1 else more}."


def _idle_words(guard: IdleGuard) -> str:
    when = f" with {guard.words}" if guard.words else ""
    heaters = " and ".join(guard.heaters)
    if guard.through:
        return f"{guard.guard} stops {heaters} only through {guard.through}, which the controller works too{when}."
    return f"{guard.guard} does not stop {heaters}{when}."
