"""Whether a list still belongs to the parts chosen, to the purpose, and to what was measured on it before it was changed."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from ..errors import Refused
from ..findings import Finding, Proposal, Severity
from ..purpose.purpose import Purpose
from .choice import Choice
from .circuit.failures import PROBES
from .circuit.positions import has_cooling_contact
from .generate import CONTROL_MODULE, CONTROL_SUPPLY
from .library import PART_TYPES
from .model import ConnectionList, Part
from .usual_circuits import Usual, usual

CONTROL_FEEDS = (CONTROL_SUPPLY, CONTROL_MODULE)


def same_joints(one: ConnectionList, other: ConnectionList) -> bool:
    """Whether the same parts are joined at the same terminals; sizes, colours and numbers of wires do not count."""
    return _joints(one) == _joints(other)


def _joints(wiring: ConnectionList) -> tuple[set[frozenset[str]], set[tuple[str, str, str]]]:
    return {frozenset((w.a, w.b)) for w in wiring.connections}, {(p.name, *_kind(p)) for p in wiring.parts}


def _kind(part: Part) -> tuple[str, str]:
    return part.type.kind, str(part.ratings.get("sensor", "")) if part.type.kind in PROBES else ""


def voided(before: Sequence[str]) -> list[Finding]:
    """What was found out at the rig before its wiring was changed (``the calibration``, …), and may no longer hold."""
    if not before:
        return []
    return [
        Finding(
            "wiring.voids",
            Severity.ADVICE,
            title=f"The wiring was changed since {' and '.join(before)}",
            reason="Another sensor lead shifts the reading, another switch or element the answer of the rig: what was measured before"
            " was measured on another circuit.",
            fix="Check one point of each again, or accept with the reason why it still holds.",
            subjects=tuple(before),
        )
    ]


_NO_COOLING = Finding(
    "wiring.no-cooling",
    Severity.FAULT,
    title="Nothing of the controller is set to cool",
    reason="The rig has a cooler beside its heater, and nothing in the list calls it: whether both can be on together cannot be told.",
    fix="Set the alarm contact it hangs on to cooling, or name the board’s pin, among the controller’s ratings; or lay the wiring out "
    "again.",
    subjects=("cooler",),
    proposal=Proposal("wiring.generate", True, label="Lay it out again"),
)


def stale(wiring: ConnectionList, purpose: Purpose, choice: Choice, circuit: Usual) -> list[Finding]:
    """The parts chosen since are not the parts wired."""
    try:
        expected: ConnectionList | None = usual(purpose, choice, circuit)
    except Refused:
        expected = None
    if (
        purpose.cooler is not None
        and wiring.of_kind("controller_relay", "controller_ssr")
        and not has_cooling_contact(wiring)
    ):
        return [_NO_COOLING]
    left_over = (not purpose.acts and any(p.heats for p in wiring.parts)) or (
        expected is not None and _control_feeds(wiring) != _control_feeds(expected)
    )
    if expected and not left_over and not Counter(map(_kind, expected.parts)) - Counter(map(_kind, wiring.parts)):
        return []
    return [
        Finding(
            "wiring.stale",
            Severity.FAULT,
            title="The wiring is laid out for other parts",
            reason=f"Parts were changed since: {_words(wiring, expected)}.",
            fix="Lay the wiring out again; your own changes to wires are then lost.",
            proposal=Proposal("wiring.generate", True, label="Lay it out again"),
        )
    ]


def _control_feeds(wiring: ConnectionList) -> set[str]:
    """What feeds the controls alone, as it is laid out here."""
    return {p.name for p in wiring.parts if p.name in CONTROL_FEEDS}


def _words(wiring: ConnectionList, expected: ConnectionList | None) -> str:
    if expected is None:
        return "the chosen parts cannot work together"
    fitted, wanted = set(map(_kind, wiring.parts)), set(map(_kind, expected.parts))

    def titles(kinds: set[tuple[str, str]]) -> str:
        return ", ".join(f"{PART_TYPES[k].title.lower()} {s}".strip() for k, s in sorted(kinds)) or "nothing"

    return f"wired {titles(fitted - wanted)}, chosen {titles(wanted - fitted)}"


def for_purpose(parts: Sequence[Part], purpose: Purpose) -> tuple[Part, ...]:
    """The parts with heaters and supplies of this purpose, so that the rules judge the new load. Several heaters share the
    power as they did before, each made for its own voltage still. Of several supplies the first feeds the heater."""
    heaters = [p for p in parts if p.heats]
    heating = next((p for p in parts if p.type.family == "supply"), None)
    before = sum(p.number("power_w", 1000.0) for p in heaters)

    def followed(part: Part) -> Part:
        if part is heating:
            return replace(part, ratings={**part.ratings, "voltage_v": purpose.supply_voltage_v})
        if part.name in CONTROL_FEEDS and purpose.controls:
            rating = "voltage_v" if part.type.family == "supply" else "output_v"
            return replace(part, ratings={**part.ratings, rating: purpose.controls.controls_v})
        if not part.heats or not purpose.acts:
            return part  # one that only watches has none: the list is stale, and says so
        power = purpose.heater_power_w * part.number("power_w", 1000.0) / before
        volts = {"voltage_v": purpose.heater_voltage_v} if len(heaters) == 1 else {}
        return replace(part, ratings={**part.ratings, "power_w": power, **volts})

    return tuple(map(followed, parts))
