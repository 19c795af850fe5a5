"""Sheets to print."""

from dataclasses import dataclass, field

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.findings import worst_first
from rellux.core.handover.safe_use import PartOfUse
from rellux.core.messages import quantity, temperature
from rellux.core.purpose.purpose import SUPPLY_WORDS, Purpose
from rellux.core.questions.registry import QUESTIONS
from rellux.core.wiring.circuit.positions import Position
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.schedule import schedule
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.calibration.models import Calibration
from rellux.server.guarding.proof_views import asked, provable
from rellux.server.proving.views import room_from, wired_rig
from rellux.server.questions.domain import answer_of, kept_answers
from rellux.server.questions.views import Values
from rellux.server.rigs.chain import chain_of, parts_findings
from rellux.server.rigs.domain import choice_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.wiring.domain import connection_list, every_finding, faults_of, positions_of, wiring_findings

from .calibration import calibration_of, label_of
from .calibration_label import label_pdf
from .calibration_sheet import calibration_pdf
from .diagram import Drawn
from .guarding import guarding_of
from .guarding_sheet import guarding_pdf
from .handover import handover_of, lacking_of, use_of
from .handover_sheet import handover_pdf
from .lettering import printed_in
from .parts_sheet import PartsSheet, panel_pdf, parts_pdf
from .proving import proving_of
from .proving_sheet import proving_pdf
from .wiring_sheet import MOST_DRAWINGS, MOST_SHAPES, PAPER, DrawingHead, WiringSheet, wiring_pdf


def _pdf(data: bytes, name: str) -> HttpResponse:
    response = HttpResponse(data, content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="{name}.pdf"'
    return response


def _never(p: Purpose) -> str:
    """What must not happen to it, on the side that is dangerous."""
    if p.cools and p.lowest_c is not None:
        return f"never below {temperature(p.lowest_c)} ({p.lowest_reason})"
    return f"never above {temperature(p.highest_c)} ({p.highest_reason})"


def _heater(purpose: Purpose) -> str:
    if not purpose.acts:
        return ""
    what = purpose.load
    return f", {what} {quantity(purpose.heater_power_w, 'W')} at {quantity(purpose.heater_voltage_v, 'V')}"


class PartsSheetPdf(APIView):
    @endpoint("partsSheet", None, query={"unit": str})
    def get(self, request: Request, slug: str) -> HttpResponse:
        rig = get_object_or_404(Rig, slug=slug)
        choice, p = choice_of(rig), purpose_of(rig)
        if choice is None:
            raise refuse("parts", "choose the parts first", "sensor, output and switch")
        answers, found = kept_answers(rig), chain_of(rig, choice)
        sheet = PartsSheet(
            rig.name,
            f"Works at {temperature(p.working_c)}, {_never(p)}. "
            f"{quantity(p.supply_voltage_v, 'V')} {SUPPLY_WORDS[p.supply]}{_heater(p)}.",
            found,
            tuple((QUESTIONS[key].title, answer) for key, answer in answers.items()),
            connection_list(rig).parts,
            tuple(worst_first(parts_findings(rig))),
        )
        with printed_in(request.query_params.get("unit", "C")):
            return _pdf(parts_pdf(sheet), f"{slug}-parts")


class GuardingSheetPdf(APIView):
    @endpoint("guardingSheet", None, query={"terminals_c": float, "by_heat": bool, "unit": str})
    def get(self, request: Request, slug: str) -> HttpResponse:
        """The ladder, every guard, and the proof to be ticked at the bench, for today's terminals."""
        terminals_c, by_heat = asked(request)
        rig, plan = provable(slug, terminals_c)
        sheet = guarding_of(rig, plan, terminals_c, by_heat)
        with printed_in(request.query_params.get("unit", "C")):
            return _pdf(guarding_pdf(sheet), f"{slug}-guarding")


class ProvingSheetPdf(APIView):
    @endpoint("provingSheet", None, query={"room_c": float, "blank": bool, "unit": str})
    def get(self, request: Request, slug: str) -> HttpResponse:
        """Every stage with its steps, filled with what was seen, or blank for the bench."""
        rig = wired_rig(slug)
        sheet = proving_of(
            rig, room_from(request.query_params.get("room_c"), rig), request.query_params.get("blank") == "true"
        )
        with printed_in(request.query_params.get("unit", "C")):
            return _pdf(proving_pdf(sheet), f"{slug}-proving")


class PanelPdf(APIView):
    @endpoint("panelTemplate", None, Values)
    def post(self, request: Request) -> Response | HttpResponse:
        drawing = answer_of("panel", read(request, Values).values).drawing
        assert drawing is not None
        return _pdf(panel_pdf(drawing, "Panel"), "panel")


@dataclass(frozen=True)
class WiringSheetInput:
    """The drawings as the browser has laid them out, each in its own units, the paper to print them on, and the unit of
    temperatures (C or F)."""

    paper: str
    unit: str = "C"
    drawings: list[Drawn] = field(default_factory=list)


def head_of(rig: Rig, wiring: ConnectionList) -> DrawingHead:
    return DrawingHead(rig.name, f"{timezone.localdate():%Y-%m-%d}, revision {rig.revision}", wiring.connections)


def _checked(given: WiringSheetInput) -> WiringSheetInput:
    """Raises ``Refused`` for a paper that is none here, and for too much to draw."""
    if given.paper not in PAPER:
        raise refuse("paper", f"{given.paper!r} is no paper here", ", ".join(PAPER))
    if len(given.drawings) > MOST_DRAWINGS or sum(d.shapes for d in given.drawings) > MOST_SHAPES:
        accepted = f"up to {MOST_DRAWINGS} drawings of {MOST_SHAPES} shapes together"
        raise refuse("drawings", "this is too much to draw", accepted)
    return given


class WiringSheetPdf(APIView):
    changes_rig = False

    @endpoint("wiringSheet", None, WiringSheetInput)
    def post(self, request: Request, slug: str) -> HttpResponse:
        rig = get_object_or_404(Rig, slug=slug)
        g = _checked(read(request, WiringSheetInput))
        wiring = connection_list(rig)
        if not wiring.connections:
            raise refuse("wiring", "nothing is wired yet", "lay the wiring out first")
        cuts, totals = schedule(wiring)
        titles = {(f.rule, f.subjects): f.title for f in every_finding(rig)}
        sheet = WiringSheet(
            head_of(rig, wiring),
            tuple(g.drawings),
            faults_of(rig).summary,
            tuple(worst_first(wiring_findings(rig))),
            tuple((titles.get((a.rule, tuple(a.subjects)), a.rule), a.reason, a.who) for a in rig.accepted.all()),
            tuple((p.name, _on(p)) for p in positions_of(rig)),
            cuts,
            totals,
        )
        with printed_in(g.unit):
            return _pdf(wiring_pdf(sheet, g.paper), f"{slug}-wiring")


@dataclass(frozen=True)
class HandoverView:
    """What is missing or dangerous, told first, and the page of safe use."""

    lacking: list[str]
    use: list[PartOfUse]


class CalibrationPdf(APIView):
    @endpoint("calibrationSheet", None, query={"unit": str})
    def get(self, request: Request, slug: str, number: int) -> HttpResponse:
        """One comparison on a page: an in-house check, named as one."""
        row = get_object_or_404(Calibration.objects.select_related("rig"), rig__slug=slug, pk=number)
        with printed_in(request.query_params.get("unit", "C")):
            return _pdf(calibration_pdf(calibration_of(row)), f"{slug}-comparison-{timezone.localdate(row.at)}")


class CalibrationLabelPdf(APIView):
    @endpoint("calibrationLabel", None, query={"unit": str})
    def get(self, request: Request, slug: str) -> HttpResponse:
        """A label with a code that opens this rig's calibration at the address it was printed from."""
        rig = get_object_or_404(Rig, slug=slug)
        newest = rig.calibrations.first()
        if newest is None:
            raise refuse("calibration", "nothing was compared yet", "a comparison")
        address = request.build_absolute_uri(f"/rigs/{slug}/calibration")
        with printed_in(request.query_params.get("unit", "C")):
            return _pdf(label_pdf(label_of(newest, address)), f"{slug}-label")


class HandoverDetail(APIView):
    @endpoint("handover", HandoverView)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        if choice_of(rig) is None:
            raise refuse("parts", "choose the parts first", "sensor, output and switch")
        return reply(HandoverView(list(lacking_of(rig)), list(use_of(rig))))


class HandoverPdf(APIView):
    changes_rig = False

    @endpoint("handoverPack", None, WiringSheetInput)
    def post(self, request: Request, slug: str) -> HttpResponse:
        """Everything that goes with a rig somebody else will use; the drawings as the browser has laid them out."""
        rig = get_object_or_404(Rig, slug=slug)
        g = _checked(read(request, WiringSheetInput))
        if choice_of(rig) is None:
            raise refuse("parts", "choose the parts first", "sensor, output and switch")
        with printed_in(g.unit):
            pack = handover_of(rig, head_of(rig, connection_list(rig)), tuple(g.drawings))
            return _pdf(handover_pdf(pack), f"{slug}-handover")


def _on(position: Position) -> str:
    """What is on in a position, loads with their power."""
    loads = position.solution.loads
    words = [
        f"{n} {loads[n].watts:.0f} W" if n in loads and loads[n].watts >= 5 else n for n in sorted(position.energised)
    ]
    words += [f"{n} cools" for n in sorted(position.solution.turned)]
    opened = [f"{name} opens" for name in position.solution.tripped]
    return ", ".join([*words, *opened]) or "nothing"
