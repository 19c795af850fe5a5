"""What is this probe?"""

from dataclasses import dataclass

from ...findings import Finding, Severity
from ...form import choice, number
from ...sensing.colours import COLOURS
from ...sensing.unknown import Candidate, Identified, Magnet, Seen, identify_probe
from ...units import Kind
from ..answer import Alternative, Answer, Question, Topic

NOT_SEEN = ""
LEGS = {NOT_SEEN: "not seen, or bare", **{c: c for c in COLOURS}}
MAGNETS = {
    Magnet.UNTRIED: "not tried",
    Magnet.NONE: "neither leg is drawn",
    Magnet.WEAK: "one leg weakly",
    Magnet.STRONG: "one leg strongly",
}
MANY = 3
"""More candidates than this are counted in the headline, not named (our choice)."""


@dataclass(frozen=True)
class UnknownInput:
    """What was seen of a probe without a name; everything but the room is optional."""

    room_c: float = number("Where it lies it is", Kind.TEMPERATURE, -10, 45, 20)
    wires: str = choice("Wires that come out", {"": "not counted", "2": "two", "3": "three", "4": "four"}, "")
    ohm: float | None = number(
        "Ohms between its wires",
        Kind.RESISTANCE,
        0,
        1e8,
        None,
        optional=True,
        hint="between the two that show most; open: 10000000",
    )
    warm_c: float | None = number("Tip warmed to", Kind.TEMPERATURE, -20, 150, None, optional=True)
    warm_ohm: float | None = number("then it shows", Kind.RESISTANCE, 0, 1e8, None, optional=True)
    magnet: Magnet = choice("A magnet on the bare legs", MAGNETS, Magnet.UNTRIED)
    boiling_mv: float | None = number(
        "Tip in boiling water, at its ends",
        Kind.MILLIVOLTS,
        -10,
        10,
        None,
        optional=True,
        hint="in the mountains water boils cooler: about 3 % less at 1000 m",
    )
    first: str = choice("One leg is", LEGS, NOT_SEEN)
    second: str = choice("the other", LEGS, NOT_SEEN)

    def seen(self) -> Seen:
        return Seen(
            self.room_c,
            int(self.wires) if self.wires else None,
            self.ohm,
            self.warm_c,
            self.warm_ohm,
            self.magnet,
            self.boiling_mv,
            (self.first, self.second) if self.first and self.second else None,
        )


def _unknown(g: UnknownInput) -> Answer:
    found = identify_probe(g.seen())
    left = found.possible
    return Answer(
        _headline(found),
        findings=_findings(found),
        alternatives=tuple(_alternative(c, len(left) == 1) for c in (left or found.candidates)),
    )


def _headline(found: Identified) -> str:
    left = found.possible
    polarity = f" {found.positive.capitalize()} is positive." if found.positive else ""
    if found.is_open:
        return "It is open: a broken thermocouple or element, or a joint that let go."
    if not left:
        return "Nothing known here fits all of that: measure again, one thing at a time."
    if len(left) == 1:
        return f"{left[0].name}: only that fits everything seen.{polarity}"
    if len(left) <= MANY:
        return f"{', '.join(c.name for c in left[:-1])} or {left[-1].name}.{polarity} {found.next_test}".strip()
    best, second = left[:2]
    likely = (
        f"Most likely a {best.name}, not certain."
        if len(best.pro) > len(second.pro)
        else f"{len(left)} kinds still fit."
    )
    return f"{likely}{polarity} {found.next_test}".strip()


def _alternative(c: Candidate, sure: bool) -> Alternative:
    says = "; ".join(c.contra or c.pro) or "nothing speaks against it yet"
    return Alternative(
        c.key, c.name, None if c.possible else Severity.FAULT, says=says, reasons=c.contra, chosen=sure and c.possible
    )


def _findings(found: Identified) -> tuple[Finding, ...]:
    keys = {c.key for c in found.possible}
    if len(keys) > 1 and keys <= {"R", "S"}:
        return (
            Finding(
                "unknown.platinum",
                Severity.ADVICE,
                title="R and S cannot be told apart on a bench",
                reason="Their voltages differ by a tenth at {1000 °C} and hardly at all at {100 °C}.",
                fix="The print on its head or cable, or compare at working temperature with a known probe.",
            ),
        )
    if keys & {"L", "U"} and len(keys) <= MANY:
        return (
            Finding(
                "unknown.older",
                Severity.FAULT,
                title="It may be of the old types L or U",
                reason="An input set for J or T reads them wrong by many degrees.",
                fix="Replace it, or calibrate it against a known probe before trusting it.",
                source="DIN 43710, from memory",
            ),
        )
    return ()


UNKNOWN = Question(
    "unknown",
    "What is this probe?",
    Topic.SENSOR,
    UnknownInput,
    _unknown,
    None,
    (
        "Two wires usually mean a thermocouple, three a Pt100: usual, not certain. A long thin thermocouple can measure like a Pt100.",
        "A minus sign in boiling water means the meter's plus is on the negative leg.",
        "Ohms of a thermocouple are measured cold: its own voltage shifts the reading. Measure both ways round and take the mean.",
    ),
    "Take the probe out of the rig, or isolate the heater: with the sensor off, a controller may heat at full power.",
    ("sensor",),
)
