"""Requests and responses as dataclasses: the schema is derived from them, input is checked against them."""

import dataclasses
import math
from datetime import date
from enum import Enum
from functools import cache
from typing import Any, ClassVar, TypeVar

import numpy as np
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework_dataclasses.field_utils import TypeInfo
from rest_framework_dataclasses.serializers import DataclassSerializer

from rellux.core.errors import refuse
from rellux.core.wiring.names import TerminalName

Shape = TypeVar("Shape")


class Text(serializers.CharField):
    """Text may be empty; whether it must say something is the core's to decide."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(**{"allow_blank": True, **kwargs})


class ShapeSerializer(DataclassSerializer):
    """A dataclass serializer that also takes ``Any`` and unions (as plain JSON), and names of terminals."""

    serializer_field_mapping: ClassVar = {**DataclassSerializer.serializer_field_mapping, str: Text, TerminalName: Text}

    @property
    def serializer_dataclass_field(self) -> type["ShapeSerializer"]:  # type: ignore[override]
        return ShapeSerializer

    def build_standard_field(self, field_name: str, type_info: TypeInfo) -> tuple[type, dict[str, Any]]:
        if type_info.base_type is Any:
            return serializers.JSONField, {}
        return super().build_standard_field(field_name, type_info)

    def build_union_field(
        self, field_name: str, type_info: TypeInfo, extra_kwargs: dict[str, Any]
    ) -> tuple[type, dict[str, Any]]:
        return serializers.JSONField, {}


@cache
def serializer(shape: type) -> type[ShapeSerializer]:
    """The serializer class of a dataclass; used for the schema and for reading requests."""
    meta = type("Meta", (), {"dataclass": shape})
    return type(f"{shape.__name__}Serializer", (ShapeSerializer,), {"Meta": meta})


def read(request: Request, shape: type[Shape]) -> Shape:
    """The request's body as ``shape``. Raises a validation error naming every field that does not fit."""
    reader = serializer(shape)(data=request.data)
    reader.is_valid(raise_exception=True)
    return reader.save()


def of_plain(shape: type[Shape], plain: Any, what: str) -> Shape:
    """Plain data as ``shape``. Raises ``Refused`` naming the first field that does not fit."""
    reader = serializer(shape)(data=plain)
    if not reader.is_valid():
        name, said = next(iter(reader.errors.items()))
        raise refuse(f"{what}.{name}", str(said)[:200], "what was saved before")
    return reader.save()


def reply(value: Any, status: int = 200) -> Response:
    """A response from a dataclass, or a list or dictionary of them."""
    return Response(as_json(value), status)


def as_json(value: Any) -> Any:
    """Plain data of a value: dataclasses by field, enums by value, arrays as lists, infinities and NaN as null."""
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if value is None or (isinstance(value, str | int | bool) and not isinstance(value, Enum)):
        return value
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, date):  # a moment is one too
        return value.isoformat()
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {f.name: as_json(getattr(value, f.name)) for f in dataclasses.fields(value)}
    if isinstance(value, dict):
        return {str(as_json(k)): as_json(v) for k, v in value.items()}
    if isinstance(value, np.ndarray):
        return [v if math.isfinite(v) else None for v in value.tolist()]
    if isinstance(value, list | tuple | set | frozenset):
        return [as_json(v) for v in value]
    if isinstance(value, np.generic):
        return as_json(value.item())
    return value
