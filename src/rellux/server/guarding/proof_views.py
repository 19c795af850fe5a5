"""The proof that every guard acts: its sheet, and what was seen."""

from dataclasses import dataclass, field

from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.guarding.plan import Plan
from rellux.core.guarding.proof import Observed, ProofSheet, judge, proof_sheet
from rellux.core.messages import render
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig

from .domain import acting_of, situation_of
from .models import Proof
from .stored import plan_of
from .views import GuardingView, guarding_view, rig_with_parts

COLDEST_C, HOTTEST_C = -20.0, 60.0
"""Terminals of an instrument, °C."""


@dataclass(frozen=True)
class ProofInput:
    """What was seen, step by step, at these terminals; ``terminals_c`` and ``by_heat`` as the sheet was made for."""

    revision: int
    terminals_c: float
    observed: list[Observed] = field(default_factory=list)
    by_heat: bool = False


def provable(slug: str, terminals_c: float) -> tuple[Rig, Plan]:
    """A rig and its plan in force. Raises ``Refused`` where there is none, and for terminals that cannot be so."""
    rig = rig_with_parts(slug)
    plan = plan_of(rig)
    if plan is None:
        raise refuse("plan", "save the plan first: the proof is of what is in force", "a plan")
    if not COLDEST_C <= terminals_c <= HOTTEST_C:
        raise refuse("terminals_c", "terminals are not that cold or hot", f"{{{COLDEST_C:g}…{HOTTEST_C:g} °C}}")
    return rig, plan


def asked(request: Request) -> tuple[float, bool]:
    """The temperature of the terminals, and whether by real heat, in a query. Raises ``Refused`` where the first is missing."""
    try:
        terminals = float(request.query_params.get("terminals_c", ""))
    except ValueError:
        raise refuse("terminals_c", "how warm are the input's terminals now?", "a thermometer laid on them") from None
    return terminals, request.query_params.get("by_heat") == "true"


def _sheet(slug: str, terminals_c: float, by_heat: bool) -> ProofSheet:
    rig, plan = provable(slug, terminals_c)
    return proof_sheet(situation_of(rig, plan), terminals_c, by_heat, acting_of(rig))


class ProofDetail(APIView):
    @endpoint("proofSheet", ProofSheet, query={"terminals_c": float, "by_heat": bool})
    def get(self, request: Request, slug: str) -> Response:
        """The sheet for today's terminals."""
        return reply(_sheet(slug, *asked(request)))

    @endpoint("recordProof", GuardingView, ProofInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """Keep what was seen. Nothing is kept where a step was neither seen nor left out for a reason."""
        given = read(request, ProofInput)
        verdict = judge(_sheet(slug, given.terminals_c, given.by_heat), given.observed)
        with changing(slug, given.revision) as rig:
            Proof.objects.create(
                rig=rig,
                at=timezone.now(),
                who=request.user.title,
                plan=as_json(plan_of(rig)),
                terminals_c=given.terminals_c,
                by_heat=given.by_heat,
                observed=as_json(given.observed),
                passed=verdict.passed,
                says=render(verdict.says)[:300],
            )
            title = "Proved that every guard acts" if verdict.passed else "Proof not passed"
            note(rig, request.user, Station.GUARDING, title, why=verdict.says)
        return reply(guarding_view(rig), 201)
