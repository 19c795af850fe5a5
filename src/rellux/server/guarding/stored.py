"""Plans as the database keeps them. It stands alone, so that the recorder, which watches by them, loads nothing else for it."""

import logging
from typing import Any

from django.utils import timezone

from rellux.core.errors import Refused
from rellux.core.guarding.plan import Plan, check_plan
from rellux.server.api.shapes import as_json, of_plain
from rellux.server.rigs.models import Rig

from .models import GuardPlan

log = logging.getLogger("rellux.guarding")


def plan_of(rig: Rig) -> Plan | None:
    """The plan in force, or None before there is one."""
    newest = rig.guard_plans.first()
    return plan_from(newest.plan) if newest else None


def newest_plans() -> dict[int, int]:
    """Which plan guards a rig, of every rig that has one."""
    return dict(GuardPlan.objects.order_by("at", "pk").values_list("rig_id", "pk"))


def read_plan(number: int | None) -> Plan:
    """A plan, for whatever goes on without somebody to tell: one that cannot be read is empty, and it is logged."""
    if number is None:
        return Plan()
    try:
        return plan_from(GuardPlan.objects.get(pk=number).plan)
    except (Refused, GuardPlan.DoesNotExist) as error:
        log.error("guarding plan %s cannot be read, its alarms are not judged: %s", number, error)
        return Plan()


def plan_from(plain: Any) -> Plan:
    """A plan from plain data. Raises ``Refused`` for what is none, or cannot be."""
    plan = of_plain(Plan, plain, "plan")
    check_plan(plan)
    return plan


def save_plan(rig: Rig, plan: Plan, why: str) -> GuardPlan:
    """A new plan in force. Raises ``Refused`` for one that cannot be."""
    check_plan(plan)
    return GuardPlan.objects.create(rig=rig, at=timezone.now(), plan=as_json(plan), why=why[:400])
