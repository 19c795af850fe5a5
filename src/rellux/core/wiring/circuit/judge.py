"""One standing of a rig: what heats in it with nothing broken, and every failure judged against that, heater by heater."""

from collections.abc import Iterable
from dataclasses import replace
from itertools import product

from ...messages import percent, quantity, temperature
from ..names import split
from ..switching import OFF, ON, TRIPPED, Switching
from .failures import GUARDS, Failure
from .solution import SOUND, Fault, Heat
from .solve import NOBODY, CircuitSolver
from .standings import Reached, Standing
from .verdicts import FailureVerdict, Outcome, Reaches

WEAK, STRONG = 0.97, 1.05
"""Shares of its power below and above which a heater is said to give less or more (our choice: a meter shows as much)."""
HOT = 0.02
"""Share of its own power from which a heater counts as heating (our choice: an SSR's leakage is far below)."""
LAST_RESORTS = ("thermal_fuse", "cutout_manual")
"""Parts that take the heat away for good by their own temperature, as a limiter does."""
WALLS_WITHIN = 1.25
"""How much more heat must still lead nowhere dangerous: what walls lose is known to about a quarter (our choice)."""
HALF = 0.5
"""Share of the power every other half-wave gives."""


class Judge:
    """A circuit in one standing. ``opened``: protective devices that open in it, with the A; ``sound_off`` and
    ``sound_stopped``: heaters that heat uncalled, and in spite of everything independent having tripped, with nothing broken."""

    def __init__(self, circuit: CircuitSolver, reached: Reached, standing: Standing, reaches: Reaches | None) -> None:
        self.circuit, self.standing, self._reached, self._reaches = circuit, standing, reached, reaches
        wiring = circuit.wiring
        self.limited = bool(wiring.of_kind("limiter"))
        self._words = wiring.driven
        self._with_fault: dict[Fault, frozenset[str]] = {}
        self.off, self.on, self.tripped = (standing.of(s) for s in (OFF, ON, TRIPPED))
        self.least_w = {h.name: HOT * h.number("power_w", 1000.0) for h in wiring.of_kind("heater")}
        self.stops = self._stops()
        running = reached.running(standing)
        self._running = running
        sound = circuit.heat(self.on, start=running)
        self.opened = sound.tripped
        self.each = {name: watts for name, watts in sound.watts.items() if watts > self.least_w[name]}
        self.sound_off = self.staying(SOUND, [self.off])
        self.sound_stopped = self.staying(SOUND, self.stops)
        self.sound_tripped = self.staying(SOUND, [self.tripped]) if self.limited else frozenset(self.each)
        self._guards = self._guarded()
        self._judged: dict[tuple[Fault, bool, str], Outcome] = {}
        self._waits = set(self.each) - self.hot(circuit.heat(self.on).watts)

    def _stops(self) -> list[Switching]:
        """Positions in which something independent has taken the heat away, nobody calling for it; that of the output being
        off where there is nothing independent."""
        found = [replace(self.off, limit_tripped=True)] if self.limited else []
        for part in self.circuit.wiring.of_kind(*LAST_RESORTS):
            found.append(replace(self.off, operated=self.off.operated | {part.name}))
        return found or [self.off]

    def _guarded(self) -> list[tuple[str, Switching, frozenset[str]]]:
        """Every guard with the position in which it is operated, and the heaters it then stops."""
        found = []
        for part in self.circuit.wiring.of_kind(*GUARDS):
            if part.name in self.standing.operated:
                continue
            position = replace(self.on, operated=self.on.operated | {part.name})
            left = self.hot(self.circuit.heat(position, start=self._running).watts)
            if stopped := frozenset(self.each) - left:
                found.append((part.name, position, stopped))
        return found

    def hot(self, watts: dict[str, float], share: float = 1.0) -> set[str]:
        """Heaters that heat, at this share of the watts."""
        return {name for name, w in watts.items() if w * share > self.least_w[name]}

    def heats(self, switching: Switching, fault: Fault, already: Fault = SOUND) -> list[Heat]:
        """The heat in a position after a failure, for every way the rig may have come there: it failed while it was running,
        or before the supply was switched on and a start button pressed."""
        starts = self._reached.starts(self.standing, switching)
        found = [self.circuit.heat(switching, fault, start, already) for start in starts]
        begun = self.circuit.buttons and already == SOUND and fault != SOUND
        if begun and (there := self._started(fault)) not in starts:
            found.append(self.circuit.heat(switching, fault, there))
        if any(heat.tripped for heat in found):  # it may also fail there, or be there before, and nothing trips
            resting = {self.circuit.moving(self.circuit.settled(switching, start)) for start in starts}
            found += [self.circuit.heat(switching, fault, on, already) for on in {*resting, NOBODY} - set(starts)]
        return found

    def _started(self, fault: Fault) -> frozenset[str]:
        """What moves something once every start button was pressed with the failure there already."""
        if fault not in self._with_fault:
            self._with_fault[fault] = self.circuit.moving(self.circuit.running(self.on, fault))
        return self._with_fault[fault]

    def staying(
        self, fault: Fault, positions: Iterable[Switching], already: Fault = SOUND, share: float = 1.0
    ) -> frozenset[str]:
        """Heaters that heat in every one of these positions."""
        left: set[str] | None = None
        for position in positions:
            hot = {name for heat in self.heats(position, fault, already) for name in self.hot(heat.watts, share)}
            left = hot if left is None else left & hot
            if not left:
                break
        return frozenset(left or ())

    def judge(self, f: Failure) -> Outcome:
        """The verdict on one failure in this standing. Failures that are one and the same to the circuit are judged once."""
        alike = replace(f, fault=self.circuit.alike(f.fault))
        key = (alike.fault, f.half, f.subject if f.fault.stuck else "")
        if key not in self._judged:
            self._judged[key] = self._judge(alike)
        return replace(self._judged[key], title=f.title, subject=f.subject)

    def _judge(self, f: Failure) -> Outcome:
        share = HALF if f.half else 1.0
        uncovered = self.staying(f.fault, self.stops, share=share) - self.sound_stopped
        if self.standing.momentary:
            words = (
                self._uncovered_words(uncovered)
                if uncovered
                else f"Nothing changes that {self._words.effect} would show."
            )
            verdict = FailureVerdict.UNCOVERED if uncovered else FailureVerdict.NOTHING
            return Outcome(f.title, f.subject, verdict, words, 0.0, 0.0, 0.0, (), tuple(sorted(uncovered)))
        heated = self.circuit.heat(self.on, f.fault, self._running)
        off = max(h.total_w for h in self.heats(self.off, f.fault)) * share
        tripped = max(h.total_w for h in self.heats(self.tripped, f.fault)) * share if self.limited else off
        heats_off = self.staying(f.fault, [self.off], share=share) - self.sound_off
        heaters: frozenset[str] = frozenset()
        if uncovered and (below := self._stays_below(max(off, tripped))) is not None:
            verdict, words = (
                FailureVerdict.WARM,
                f"It {self._words.does} on, to about {temperature(below, '.0f')}, which everything in it stands.",
            )
        elif uncovered:
            verdict, words, heaters = FailureVerdict.UNCOVERED, self._uncovered_words(uncovered), uncovered
        elif heats_off:
            verdict, words, heaters = (
                FailureVerdict.COVERED,
                f"{self._names(heats_off)} on until {self._covers()}.",
                heats_off,
            )
        elif lost := self._defeated(f, share):
            verdict, words = FailureVerdict.LATENT, f"Nobody notices, and {lost}."
        elif heated.tripped:
            device, amps = next(iter(heated.tripped.items()))
            verdict, words = FailureVerdict.TRIPS, f"{device} opens at {quantity(amps, 'A', '.3g')}."
        else:
            verdict, words = self._shown(heated)
        return Outcome(f.title, f.subject, verdict, words, off, tripped, heated.total_w, (), tuple(sorted(heaters)))

    def _uncovered_words(self, heaters: frozenset[str]) -> str:
        if self.limited or self.circuit.wiring.of_kind(*LAST_RESORTS):
            cover = "Take apart what it shares with the limiter: sensor, supply, contactor."
        else:
            cover = "An independent limiter with its own sensor and contactor covers it."
        return f"{self._names(heaters)} on, and nothing takes the {self._words.effect} away. {cover}"

    def _covers(self) -> str:
        if self.limited:
            return "the limiter trips"
        return " or ".join(f"{p.name} opens" for p in self.circuit.wiring.of_kind(*LAST_RESORTS))

    def _shown(self, heated: Heat) -> tuple[FailureVerdict, str]:
        """What shows while it heats, or should."""
        if not self.each:
            hot = sorted(self.hot(heated.watts))
            same = (
                f"{self._names(hot)} all the same." if hot else f"Nothing changes that {self._words.effect} would show."
            )
            return (FailureVerdict.LATENT if hot else FailureVerdict.NOTHING), same
        shares = {name: heated.watts[name] / watts for name, watts in self.each.items()}
        uncalled = sorted(self.hot(heated.watts) - set(self.each))
        if uncalled or max(shares.values()) > STRONG:
            return FailureVerdict.STRONGER, self._said(shares, uncalled)
        if max(shares.values()) < HOT:
            return FailureVerdict.STOPS, f"It no longer {self._words.does}."
        if min(shares.values()) < WEAK:
            return FailureVerdict.WEAKER, self._said(shares, uncalled)
        return FailureVerdict.NOTHING, f"Nothing changes that {self._words.effect} would show."

    def _defeated(self, f: Failure, share: float) -> str:
        """What no longer keeps the heat away after this failure, in words, if there is something."""
        if self.limited:
            past = self.staying(f.fault, [self.tripped], share=share) & (set(self.each) - self.sound_tripped)
            if past:
                return f"the limiter no longer stops {_joined(past)}"
        for guard, position, stopped in self._guards:
            hot = {n for h in self.heats(position, f.fault) for n in self.hot(h.watts, share)}
            if (guard != f.subject and hot & stopped) or (guard == f.subject and hot & stopped):
                return f"{guard} no longer stops {_joined(hot & stopped)}"
        if self._waits & self.hot(self.circuit.heat(self.on, f.fault).watts):
            return f"after a power cut the {self._words.effect} comes back by itself"
        if f.fault.stuck:
            return f"{f.subject} protects nothing any more"
        return ""

    def with_second(self, first: Failure, outcome: Outcome, every: Iterable[tuple[Failure, Outcome]]) -> Outcome:
        """Which failure after this unnoticed one leaves nothing that stops the heat, or nothing that opens."""
        left = []
        for second, judged in every:
            if judged.verdict is FailureVerdict.COVERED:
                share = HALF if second.half else 1.0
                if self.staying(second.fault, self.stops, first.fault, share) - self.sound_stopped:
                    left.append(second.title)
            elif (
                judged.verdict is FailureVerdict.TRIPS
                and first.fault.stuck
                and not self._opens(second.fault, first.fault)
            ):
                left.append(second.title)
        if not left:
            return outcome
        others = f" (or {len(left) - 1} others)" if len(left) > 2 else f" (or {left[1]})" if len(left) == 2 else ""
        nothing = "nothing opens" if first.fault.stuck else "nothing is left"
        return replace(outcome, says=f"{outcome.says} Then {left[0]}{others}: {nothing}.", second=tuple(left))

    def _opens(self, fault: Fault, already: Fault = SOUND) -> bool:
        """Whether something opens when this fails while it heats."""
        return bool(self.circuit.heat(self.on, fault, self._running, already).tripped)

    def earth_lost(self, outcome: Outcome) -> Outcome:
        """A lost earth shows nothing, until a live conductor touches the case: does anything still open then?"""
        wiring = self.circuit.wiring
        cases = [p.at("PE") for p in wiring.of_kind("enclosure")]
        for heater, case in product(wiring.of_kind("heater"), cases):
            end = heater.ends[0]
            touching = ((end, case),)
            fault = Fault(opened=frozenset({outcome.subject}), joined=touching)
            if heater.name not in self.each or not self._opens(Fault(joined=touching)):
                continue
            if not self._opens(fault):
                second = f"{heater.name} touches the case at {split(end)[1]}"
                says = (
                    f"Nobody notices, and the case is no longer earthed. Then {second}: it is live, and nothing opens."
                )
                return replace(outcome, verdict=FailureVerdict.LATENT, says=says, second=(second,))
        return outcome

    def _stays_below(self, watts: float) -> float | None:
        """The temperature this heat leads to, where that is below everything's limit; None where it is not, or unknown."""
        if self._reaches is None or watts <= 0:
            return None
        celsius = self._reaches.at(watts)
        return celsius if self._reaches.at(WALLS_WITHIN * watts) < self._reaches.weakest_c else None

    def _names(self, heaters: Iterable[str]) -> str:
        """``E1 heats``, ``E1 and E2 heat``."""
        found = sorted(heaters)
        return f"{_joined(found)} {self._words.does if len(found) == 1 else self._words.do}"

    def _said(self, shares: dict[str, float], uncalled: list[str]) -> str:
        """Which heaters give more, less or nothing, and which are on that should not."""
        does = self._words.does
        words = [f"{name} {does} as well" for name in uncalled]
        words += [
            f"{name} gets {percent(share)} of its power: overloaded" for name, share in shares.items() if share > STRONG
        ]
        words += [f"{name} {does} with {percent(share)}" for name, share in shares.items() if HOT <= share < WEAK]
        words += [f"{name} no longer {does}" for name, share in shares.items() if share < HOT]
        return f"{', '.join(words)}."


def _joined(names: Iterable[str]) -> str:
    return " and ".join(sorted(names))
