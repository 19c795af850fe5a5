"""Sheets to print."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.findings import worst_first
from rellux.core.purpose.purpose import SUPPLY_WORDS
from rellux.core.questions import QUESTIONS
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read
from rellux.server.questions.domain import answer_of, kept_answers
from rellux.server.questions.views import Values
from rellux.server.rigs.chain import chain_of, parts_findings
from rellux.server.rigs.domain import choice_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.wiring.domain import connection_list

from .parts_sheet import PartsSheet, panel_pdf, parts_pdf


def _pdf(data: bytes, name: str) -> HttpResponse:
    response = HttpResponse(data, content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="{name}.pdf"'
    return response


class PartsSheetPdf(APIView):
    @endpoint("partsSheet", None)
    def get(self, request: Request, slug: str) -> HttpResponse:
        rig = get_object_or_404(Rig, slug=slug)
        choice, p = choice_of(rig), purpose_of(rig)
        if choice is None:
            raise refuse("parts", "choose the parts first", "sensor, output and switch")
        answers, found = kept_answers(rig), chain_of(rig, choice)
        sheet = PartsSheet(
            rig.name,
            f"Works at {p.working_c:g} °C, never above {p.highest_c:g} °C ({p.highest_reason}). "
            f"{p.supply_voltage_v:g} V {SUPPLY_WORDS[p.supply]}, heater {p.heater_power_w:g} W at {p.heater_voltage_v:g} V.",
            found,
            tuple((QUESTIONS[key].title, answer) for key, answer in answers.items()),
            connection_list(rig).parts,
            tuple(worst_first(parts_findings(rig))),
        )
        return _pdf(parts_pdf(sheet), f"{slug}-parts")


class PanelPdf(APIView):
    @endpoint("panelTemplate", None, Values)
    def post(self, request: Request) -> Response | HttpResponse:
        drawing = answer_of("panel", read(request, Values).values).drawing
        assert drawing is not None
        return _pdf(panel_pdf(drawing, "Panel"), "panel")
