"""Reading a rig as every screen will: whatever cannot be shown is found before it is kept."""

from rellux.core.errors import refuse
from rellux.server.api.shapes import as_json, serializer
from rellux.server.calibration.views import CalibrationView, calibration_view
from rellux.server.guarding.views import guarding_view
from rellux.server.profiles.views import profiles_view
from rellux.server.proving import domain as proving_domain
from rellux.server.proving.views import proving_view
from rellux.server.questions.domain import kept_answers
from rellux.server.runs.views import run_view
from rellux.server.setup.views import setup_view
from rellux.server.tuning.driven_views import DrivenNow, newest_test
from rellux.server.tuning.views import IdentifiedView, identified_view, tuning_view
from rellux.server.wiring import domain
from rellux.server.wiring.views import wiring_view

from . import overview
from .domain import purpose_of
from .models import Rig


def read_once(rig: Rig) -> None:
    """Make every view of the rig. Raises whatever a view would, and ``Refused`` for values not of its shape."""
    as_json(
        [overview.strip(overview.seen().get(pk=rig.pk)), overview.rig_view(rig), wiring_view(rig), tuning_view(rig)]
    )
    if rig.sensor:  # before that there is nothing to set up
        as_json([setup_view(rig), guarding_view(rig), proving_view(rig, purpose_of(rig).ambient_c)])
    if rig.sensor and purpose_of(rig).heats:
        as_json(profiles_view(rig))
    as_json([*kept_answers(rig).values(), *(run_view(r) for r in rig.runs.all())])
    _of_shape(CalibrationView, calibration_view(rig), "calibrations")
    for i, row in enumerate(rig.identifications.order_by("pk")):
        _of_shape(IdentifiedView, identified_view(row), f"identifications[{i}]")
    if (test := newest_test(rig, with_figures=True)) is not None:
        _of_shape(DrivenNow, test, "relay_tests")


def _of_shape(shape: type, view: object, where: str) -> None:
    reader = serializer(shape)(data=as_json(view))
    if not reader.is_valid():
        name, said = next(iter(reader.errors.items()))
        raise refuse(f"{where}.{name}", str(said)[:200], "an unchanged export")


def forget() -> None:
    """Drop what was worked out for a rig that is not kept: the next one may get its key."""
    overview.forget()
    domain.forget()
    proving_domain.forget()
