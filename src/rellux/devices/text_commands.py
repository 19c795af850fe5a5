"""Commands that a board takes as lines of text: templates such as ``SP {value}``, how they are confirmed, and how it is switched off.

What a board holds is heard in what it prints by itself, or asked for by a line of its own (``GET KP``) and read from its answer
(``KP={value}``). A command that neither confirms cannot be used: nobody would know whether it arrived. Temperatures are in the unit
in which it prints them.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from rellux.core.errors import Problem, Refused, refuse, refuse_all
from rellux.core.logs.lines import VALUES, LineFormat
from rellux.core.setup.auto_tune import AUTO_TUNE, WORDS, unended
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.units import from_unit, in_unit

from .register_map import RegisterMap, SafeOff
from .registers import Register, Value, kind_of

LONGEST, MOST_COMMANDS, MOST_DECIMALS = 80, 30, 6
PLACE = "{value}"
PLAIN = re.compile(r"[ -~]*")
_NUMBER = r"([-+]?\d+(?:\.\d+)?)"
COMMANDED = (*BY_NAME, "output", AUTO_TUNE)
"""What a command can set: a parameter, the output itself, or whether the board tunes itself."""
TELLS_OFF = ("output", "switch")
"""What a board prints of its heat; either must say 0 for it to be off."""
LINK_LOSS = "it goes on as its own program says"


@dataclass(frozen=True)
class TextCommand:
    """One value that can be set. ``send`` holds ``{value}`` where it goes, with so many decimals; ``words`` are what the board calls the
    choices. ``ask`` and ``answer`` where it does not print the value by itself. ``low``/``high``: what may be sent, in °C.
    ``unit`` is that in which the board prints: C, F or K."""

    name: str
    send: str
    ask: str = ""
    answer: str = ""
    decimals: int = 1
    words: dict[str, str] = field(default_factory=dict)
    low: float | None = None
    high: float | None = None

    def line(self, value: Value, unit: str) -> str:
        """What is sent. Raises ``Refused`` for a value it cannot say."""
        if isinstance(value, str):
            if value not in self.words:
                raise refuse(self.name, f"{value!r} has no word of the board", ", ".join(self.words))
            return self.send.replace(PLACE, self.words[value])
        if (self.low is not None and value < self.low) or (self.high is not None and value > self.high):
            ends = "…".join("" if v is None else f"{v:g}" for v in (self.low, self.high))
            raise refuse(self.name, f"{value:g} is beyond what may be sent", ends)
        return self.send.replace(PLACE, self.shown(value, unit))

    def shown(self, value: float, unit: str) -> str:
        """A number as the board says it."""
        return f"{in_unit(value, kind_of(self.name), unit):.{self.decimals}f}"

    def step(self, unit: str) -> float:
        """The least change it can say, in the value's own unit."""
        least = 10.0**-self.decimals
        return least if self.words else self._plain(least, unit) - self._plain(0.0, unit)

    def held_in(self, line: str, unit: str) -> Value | None:
        """The value in the answer to ``ask``; ``None`` for any other line."""
        return self._value(_found(self.answer, line, self.words), unit) if self.answer else None

    def taken_from(self, line: str, unit: str) -> Value | None:
        """The value in a line that was sent; for a board that is simulated."""
        return self._value(_found(self.send, line, self.words), unit)

    def _value(self, said: Value | None, unit: str) -> Value | None:
        return self._plain(said, unit) if isinstance(said, float) else said

    def _plain(self, said: float, unit: str) -> float:
        return from_unit(said, kind_of(self.name), unit)


@dataclass(frozen=True)
class TextStep:
    """A value to be set."""

    name: str
    value: Value


@dataclass(frozen=True)
class TextCommands:
    """All a board takes. ``safe_off``: what is set to end the heating, in its order."""

    rows: tuple[TextCommand, ...] = ()
    safe_off: tuple[TextStep, ...] = ()

    @property
    def by_name(self) -> dict[str, TextCommand]:
        return {row.name: row for row in self.rows}


def text_map(how: LineFormat | None, commands: TextCommands | None) -> RegisterMap:
    """What is heard of a board and what it takes, in the words of the others: it has no registers. Raises ``Refused`` for commands that
    cannot be."""
    rows = commands.rows if commands else ()
    if commands and how and rows:
        check(how, commands)
    taken = {row.name: row for row in rows}
    names = [*VALUES.values(), *(n for n in taken if n not in VALUES.values())]
    unit = how.unit if how else "C"
    registers = tuple(_register(name, i, taken.get(name), unit) for i, name in enumerate(names))
    safe_off = None
    if commands and how and rows:
        safe_off = SafeOff(
            tuple((s.name, s.value) for s in commands.safe_off), tuple((n, 0.0) for n in TELLS_OFF if n in how.roles)
        )
    return RegisterMap("text", "Lines of text", registers, safe_off, link_loss=LINK_LOSS)


def _register(name: str, at: int, row: TextCommand | None, unit: str) -> Register:
    if row is None:
        return Register(name, at, 10.0)
    return Register(name, at, 1.0 / row.step(unit), writable=True, choices=tuple(row.words), low=row.low, high=row.high)


def check(how: LineFormat, commands: TextCommands) -> None:
    """Raises ``Refused`` naming every command that cannot be sent, would not be confirmed, or leaves the heat on."""
    problems = []
    if len(commands.rows) > MOST_COMMANDS:
        problems.append(Problem("commands", f"{len(commands.rows)} commands", f"up to {MOST_COMMANDS}"))
    printed = {VALUES[role] for role in how.roles}
    names = [row.name for row in commands.rows]
    for i, row in enumerate(commands.rows):
        problems += _row_problems(row, f"commands.rows[{i}].", printed, row.name in names[:i])
    problems += _safe_off_problems(how, commands)
    refuse_all(problems)


def _row_problems(row: TextCommand, at: str, printed: set[str], twice: bool) -> list[Problem]:
    found = []
    if row.name not in COMMANDED or twice:
        reason = "is there twice" if twice else "is nothing that can be set"
        found.append(Problem(f"{at}name", f"{row.name!r} {reason}", ", ".join(COMMANDED)))
    for part in ("send", "ask", "answer", *(f"words.{w}" for w in row.words)):
        text = row.words[part[6:]] if part.startswith("words.") else str(getattr(row, part))
        if len(text) > LONGEST or not PLAIN.fullmatch(text):
            found.append(Problem(f"{at}{part}", "plain characters on one line", f"up to {LONGEST}"))
    for part, needed in (("send", True), ("answer", bool(row.ask))):
        if needed and str(getattr(row, part)).count(PLACE) != 1:
            found.append(Problem(f"{at}{part}", f"say once where the value is, as {PLACE}", f"such as SP {PLACE}"))
    if row.answer and not row.ask:
        found.append(Problem(f"{at}ask", "what is sent to be answered so?", "a line, such as GET SP"))
    if not row.ask and row.name not in printed:
        reason = "the board does not print it: nothing would confirm that it arrived"
        found.append(Problem(f"{at}ask", reason, "a line to ask with, and its answer"))
    if not 0 <= row.decimals <= MOST_DECIMALS:
        found.append(Problem(f"{at}decimals", f"{row.decimals} decimals", f"0…{MOST_DECIMALS}"))
    choices = WORDS if row.name == AUTO_TUNE else BY_NAME[row.name].choices if row.name in BY_NAME else ()
    if choices and not row.words:
        found.append(Problem(f"{at}words", "what does the board call the choices?", ", ".join(map(str, choices))))
    if len(set(row.words.values())) < len(row.words):
        found.append(Problem(f"{at}words", "two choices by one word", "a word for each"))
    if row.low is not None and row.high is not None and row.low >= row.high:
        found.append(Problem(f"{at}high", "not above the low limit", f"more than {row.low:g}"))
    return found


def _safe_off_problems(how: LineFormat, commands: TextCommands) -> list[Problem]:
    if not commands.safe_off:
        return [Problem("commands.safe_off", "a board that is told to heat needs a way to end it", "at least one")]
    found = []
    for step in commands.safe_off:
        row = commands.by_name.get(step.name)
        if row is None:
            found.append(Problem("commands.safe_off", f"no command sets {step.name}", ", ".join(commands.by_name)))
            continue
        try:
            row.line(step.value, how.unit)
        except Refused as refused:
            found += [replace(p, field="commands.safe_off") for p in refused.problems]
        except (TypeError, ValueError):
            found.append(
                Problem("commands.safe_off", f"{step.value!r} is no value of {step.name}", "a value it can say")
            )
    if AUTO_TUNE in commands.by_name and (reason := unended([(s.name, s.value) for s in commands.safe_off])):
        found.append(Problem("commands.safe_off", reason, f"{AUTO_TUNE} off"))
    if not any(role in how.roles for role in TELLS_OFF):
        reason = "the board prints neither its output nor its switch: nothing would confirm that it is off"
        found.append(Problem("commands.safe_off", reason, "a printed output or switch"))
    return found


def _found(template: str, line: str, words: dict[str, str]) -> Value | None:
    before, _, after = template.partition(PLACE)
    inside = "|".join(sorted(map(re.escape, words.values()), key=len, reverse=True)) if words else _NUMBER[1:-1]
    found = re.fullmatch(f"{re.escape(before.lstrip())}({inside}){re.escape(after.rstrip())}", line.strip())
    if found is None:
        return None
    if words:
        return next(choice for choice, word in words.items() if word == found[1])
    return float(found[1])


def commands_from(plain: Mapping[str, Any] | None) -> TextCommands | None:
    """From what a link keeps; ``None`` for a board that only prints."""
    if not plain or not plain.get("rows"):
        return None
    rows: Sequence[dict[str, Any]] = plain["rows"]
    steps: Sequence[dict[str, Any]] = plain["safe_off"]
    return TextCommands(tuple(TextCommand(**row) for row in rows), tuple(TextStep(**step) for step in steps))
