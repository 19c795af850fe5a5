"""What a comparison's page says, from its row: worked out again from the pairs, so that every number can be followed."""

from collections.abc import Iterator

from django.utils.timezone import localtime

from rellux.core.calibration.belief import WORDS
from rellux.core.calibration.conformity import Conformity, Conforms
from rellux.core.calibration.offsets import OffsetRule
from rellux.core.calibration.references import KINDS
from rellux.core.calibration.schools import SAYS
from rellux.core.explain import Figure
from rellux.core.messages import difference, of_kind, percent, temperature
from rellux.core.sensing.sensors import describe
from rellux.server.calibration.domain import again, reference_from, worked_again
from rellux.server.calibration.models import Calibration
from rellux.server.calibration.reading import rule_from
from rellux.server.equipment.places import sensors_of

from .calibration_label import CalibrationLabel
from .calibration_sheet import CalibrationSheet

ROUNDED = {
    Conforms.YES: "Within what is allowed",
    Conforms.NO: "Not within what is allowed",
    Conforms.UNSURE: "Not decided",
}


def calibration_of(c: Calibration) -> CalibrationSheet:
    """The sheet of a recorded comparison."""
    rule, result = rule_from(c.rule, c.school), worked_again(c)
    piece = next((s.equipment for s in sensors_of(c.rig) if s.covers(c.at)), "")
    due = again(c.rig).due if c.pk == getattr(c.rig.calibrations.first(), "pk", None) else None
    kind = KINDS[reference_from(c.compared_with).kind] if c.compared_with else ""
    against = f"{c.reference}, {kind.lower()}" if kind and kind.lower() not in c.reference.lower() else c.reference
    facts = (
        ("On", f"{localtime(c.at):%-d %B %Y, %H:%M}"),
        ("By", c.who),
        ("Sensor", f"{describe(c.sensor)}{f', {piece}' if piece else ''}"),
        ("Compared with", f"{against}; standard uncertainty {difference(rule.reference_u_c, '.2g')}"),
        ("Added to its reading", difference(rule.added_c, "+.2g") if rule.added_c else "nothing"),
        (
            "Offset as found, as left",
            f"{difference(c.as_found_c, '+.2g')}, {difference(c.as_left_c, '+.2g')} ({SAYS[rule.school]})",
        ),
        *_beside(rule),
        ("Compare again", f"by {due:%-d %B %Y}" if due else "see the newest comparison"),
    )
    pairs = tuple(
        (str(i), temperature(p["display_c"], ".2f"), temperature(p["reference_c"], ".2f"))
        for i, p in enumerate(c.pairs, 1)
    )
    figures = [result.mean_display, result.mean_reference, result.error, result.uncertainty]
    found = tuple(_line(f) for f in (*figures, *([result.conforms.inside] if result.conforms else [])))
    doubts = tuple((WORDS[t.key], difference(t.u.value, ".2g"), percent(t.share)) for t in result.belief.terms)
    return CalibrationSheet(c.rig.name, facts, pairs, found, doubts, _decision(result.conforms))


def label_of(c: Calibration, address: str) -> CalibrationLabel:
    """The label of the newest comparison."""
    due = again(c.rig).due
    return CalibrationLabel(
        c.rig.name,
        (
            f"compared {localtime(c.at):%-d %b %Y}, {c.who.lower()}",
            f"with {c.reference}",
            f"off by {difference(c.error_c, '+.2g')} ± {difference(c.uncertainty_c, '.2g')}",
            f"offset left {difference(c.as_left_c, '+.2g')}",
            f"again by {due:%-d %b %Y}" if due else "",
        ),
        address,
    )


def _beside(rule: OffsetRule) -> Iterator[tuple[str, str]]:
    """What was in the controller beside the offset."""
    if rule.gain != 1.0:
        yield "Gain in the controller", f"{rule.gain:.4g}"
    if rule.points:
        points = ("{} at {}".format(difference(p.add_c, "+.2g"), temperature(p.at_c, ".0f")) for p in rule.points)
        yield "Points in the controller", "; ".join(points)


def _line(f: Figure) -> tuple[str, str, str]:
    return f.name, of_kind(f.value, f.kind, ".2f"), f"{f.formula}. {f.source}".strip(" .")


def _decision(found: Conformity | None) -> str:
    if found is None:
        return "Nothing says how far this display may be off: no decision."
    return f"{ROUNDED[found.conforms]}, as found: {found.says} {found.accept_to.reason} (JCGM 106, guarded acceptance, U at {{95.45 %}}.)"
