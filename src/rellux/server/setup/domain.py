"""Parameter sheets between the database and the core."""

from datetime import datetime

from django.utils import timezone

from rellux.core.calibration.schools import OffsetSchool
from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.equipment.stays import compared_in_place, inherited
from rellux.core.findings import Finding, worst_first
from rellux.core.menus.contents import seen_to_by_unit
from rellux.core.messages import shortened
from rellux.core.plant.rig_models import idle_rise_c
from rellux.core.process.models import SOPDT
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.correction_checks import controller_exchanged
from rellux.core.setup.dictionary import BY_NAME, SCHOOLS
from rellux.core.setup.dictionary.inner import LOOPS
from rellux.core.setup.parameters import CORRECTS, TUNING_PARAMETERS, check_values, is_corrected, parameters_for
from rellux.core.setup.parameters import Sheet as Values
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import Linked, Proposed, RigFacts
from rellux.core.setup.schools import school_of
from rellux.core.setup.unit_change import check_unit_change
from rellux.core.tuning.cascade import heated_chamber
from rellux.server.accounts.models import User
from rellux.server.answers.once import remembered
from rellux.server.equipment.places import place_of
from rellux.server.guarding.stored import plan_of
from rellux.server.links.maps import map_of
from rellux.server.links.models import Link
from rellux.server.menus.stored import description_from, paged
from rellux.server.profiles.models import ProfileVersion
from rellux.server.profiles.stored import profile_from
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.tuning.domain import model_of, process_of

from .models import Sheet


def current_values(rig: Rig) -> Values:
    """The newest sheet's values, or nothing."""
    newest = rig.sheets.first()
    return dict(newest.values) if newest else {}


def rig_facts(rig: Rig) -> RigFacts:
    """What the core needs to propose and check a sheet; the rig must have parts."""
    identified = rig.identifications.first()
    model = model_of(identified)
    accepted = rig.identifications.filter(accepted_at__isnull=False).order_by("-accepted_at").first()
    calibration = rig.calibrations.first()
    values = current_values(rig)
    link = getattr(rig, "link", None)
    probe = place_of(rig, EquipmentRole.SENSOR)
    found_at, of_type = (calibration.at, calibration.sensor) if calibration else (None, None)
    same_sensor = compared_in_place(rig.sensor, of_type, found_at, probe.since if probe else None)
    exchanged = inherited(probe.since if probe else None, found_at, _since(rig, "offset_c"))
    purpose = purpose_of(rig)
    controller = rig.controllers.first()
    described = controller.description if controller else {}
    school, hysteresis, windup = (str(described.get(n, "")) for n in SCHOOLS)
    return RigFacts(
        purpose,
        rig.sensor,
        rig.actuator,
        process=process_of(identified) if identified else None,
        model=model if isinstance(model, SOPDT) else None,
        process_verdict=identified.verdict if identified else "",
        tuning={k: values[k] for k in TUNING_PARAMETERS if k in values} if accepted and values else None,
        calibrated_offset_c=_calibrated(calibration.as_left_c, values) if same_sensor and calibration else None,
        calibrated_sensor=calibration.sensor if calibration else "",
        exchanged=probe.equipment.name if probe and exchanged else "",
        calibrated_school=OffsetSchool(calibration.school) if calibration else OffsetSchool.ADDED_TO_READING,
        controller_school=map_of(link).offset_school if link else OffsetSchool(school) if school else None,
        controller_hysteresis=hysteresis,
        controller_windup=windup,
        sheet_school=school_of(values),
        full_rise_c=idle_rise_c(kind_of(rig), purpose, 1.0) if purpose.fire else None,
        plan=plan_of(rig),
        linked=_linked(link),
        programme_top_c=_programme_top(rig),
        paged=paged(controller),
        chamber=heated_chamber(
            kind_of(rig), purpose, process_of(identified) if identified else None, purpose.ambient_c
        ),
        set_as_one=bool(values) and LOOPS not in values,
        corrected={n: values[n] for n in CORRECTS if n in values} if same_sensor and is_corrected(values) else None,
    )


def _calibrated(as_left_c: float, values: Values) -> float:
    """The offset as it was calibrated: beside a gain or points, the one that belongs to them."""
    return float(values["offset_c"]) if is_corrected(values) and "offset_c" in values else as_left_c


PROTOCOLS = {Link.Way.TCP: "tcp", Link.Way.RTU_TCP: "rtu", Link.Way.SERIAL: "rtu"}
"""What a controller that is reached so speaks; the other ways know no addresses."""


def _programme_top(rig: Rig) -> float | None:
    """The hottest set-point that the newest versions of the rig's profiles ask for."""
    seen, tops = set[str](), list[float]()
    for number, key, at, removed in rig.profile_versions.values_list("pk", "key", "at", "removed_at"):
        if key not in seen and removed is None:
            tops.append(_top_of(number, at))
        seen.add(key)
    return max(tops, default=None)


@remembered(500)
def _top_of(number: int, at: datetime) -> float:
    """Of a version of a profile, which is never changed; ``at`` tells two of one number apart."""
    return profile_from(ProfileVersion.objects.get(pk=number, at=at).profile).highest_c


def _linked(link: Link | None) -> Linked | None:
    protocol = PROTOCOLS.get(Link.Way(link.way)) if link else None
    if link is None or protocol is None:
        return None
    writes = any(r.writable for r in map_of(link).registers)
    return Linked(protocol, link.unit_id, link.baud, link.parity, link.stop_bits, writes)


def _since(rig: Rig, name: str) -> datetime | None:
    """Since when a parameter has had the value it has in the newest sheet."""
    since, value = None, None
    for at, values in rig.sheets.values_list("at", "values"):
        if since is not None and values.get(name) != value:
            break
        since, value = at, values.get(name)
    return since


def proposals(rig: Rig) -> tuple[Proposed, ...]:
    return propose(rig_facts(rig))


def working_values(rig: Rig) -> Values:
    """The sheet to compute with: what the controller holds, and the proposal for everything unknown."""
    return {**{p.name: p.value for p in proposals(rig)}, **current_values(rig)}


def setup_findings(rig: Rig) -> list[Finding]:
    values = current_values(rig)
    if not values or not rig.sensor:
        return []
    (newest, *older), controller = rig.sheets.all()[:2], rig.controllers.first()
    found = check_sheet(working_values(rig), rig_facts(rig))
    if older and newest.kind == Sheet.Kind.AS_LEFT and not newest.walked:
        found = worst_first([*unit_findings(rig, older[0].values, values), *found])
    if newest and controller and controller.fresh:
        title = str(controller.description.get("title", ""))
        return [*controller_exchanged(title, newest.at, controller.at), *found]
    return found


def unit_findings(rig: Rig, before: Values, after: Values) -> list[Finding]:
    """What a changed unit leaves wrong in this rig's controller, as it is described, or in one that keeps all digits."""
    if before.get("display_unit") == after.get("display_unit"):
        return []
    controller = rig.controllers.first()
    described = description_from(controller.description) if controller and controller.description else None
    return check_unit_change(before, after, seen_to_by_unit(described) if described else frozenset())


def tried_findings(rig: Rig, values: Values) -> list[Finding]:
    """What would be found about a sheet that is only tried."""
    sheet = {**working_values(rig), **values}
    found = check_sheet(sheet, rig_facts(rig))
    return worst_first([*unit_findings(rig, current_values(rig), sheet), *found])


def save_sheet(rig: Rig, values: Values, kind: Sheet.Kind, why: str, by: User | None, walked: bool = False) -> Sheet:
    """A new sheet of a rig, ``by`` whom; ``walked``: every page was set by a walk. What the rig no longer has is left behind. Raises
    ``Refused`` for values the dictionary does not allow."""
    has = {p.name for p in parameters_for(purpose_of(rig))}
    values = {name: value for name, value in values.items() if name in has or name not in BY_NAME}
    check_values(values)
    return Sheet.objects.create(
        rig=rig,
        at=timezone.now(),
        kind=kind,
        values=values,
        why=shortened(why, 400),
        walked=walked,
        who=by.title if by else "",
    )
