"""Descriptions between the database and the core."""

from typing import Any

from django.db import transaction

from rellux.core.errors import refuse
from rellux.core.menus.description import Description
from rellux.core.menus.problems import check_description
from rellux.core.menus.shipped import SHIPPED
from rellux.core.setup.text_block import TextBlock, check_block, sets_of
from rellux.server.api.shapes import as_json, of_plain
from rellux.server.rigs.models import Rig

from .models import ControllerFile, RigController

MOST_FILES = 200


def description_from(plain: Any) -> Description:
    """A description as it is kept. Raises ``Refused`` for one that cannot be."""
    found = of_plain(Description, plain, "description")
    check_description(found)
    return found


def paged(controller: RigController | None) -> frozenset[str] | None:
    """Parameters that a rig's controller has pages for, or places in its text; ``None`` where it is not described."""
    if controller is None or not (controller.description or controller.block):
        return None
    if not controller.description:
        return sets_of(block_from(controller.block))
    return frozenset(
        n for g in controller.description.get("groups", []) for p in g.get("pages", []) for n in p.get("sets", [])
    )


def description_by_key(key: str) -> Description:
    """One of the library. Raises ``Refused`` for one that is gone."""
    if key in SHIPPED:
        return SHIPPED[key]
    stored = ControllerFile.objects.filter(key=key).first()
    if stored is None:
        raise refuse("key", "this controller is not in the library", "another one")
    return description_from(stored.data)


def block_from(plain: Any) -> TextBlock:
    """A block of constants as it is kept. Raises ``Refused`` for one that cannot be."""
    found = of_plain(TextBlock, plain, "block")
    check_block(found)
    return found


def keep(key: str, description: Description) -> None:
    """Into the library, in place of the workshop's own of that key. Raises ``Refused`` for one that came along, and where there are too
    many."""
    check_description(description)
    if key in SHIPPED:
        raise refuse("key", "this one came along: keep yours under another name", "a name of its own")
    with transaction.atomic():
        ControllerFile.objects.update_or_create(
            key=key, defaults={"title": description.title.strip(), "data": as_json(description)}
        )
        if ControllerFile.objects.count() > MOST_FILES:
            raise refuse("key", f"there are {MOST_FILES} already", "one fewer")


def controller_of(rig: Rig) -> RigController | None:
    """The controller that is in a rig."""
    return rig.controllers.first()
