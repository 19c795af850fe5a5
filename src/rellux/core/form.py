"""What a question asks for: a frozen dataclass is the form, its fields carry label, quantity and accepted range.

``number``, ``choice``, ``flag``, ``text`` and ``rows`` declare a field; ``fields_of`` and ``rows_of`` list them for a
screen, ``fill`` makes an instance out of plain values and refuses what is missing, of the wrong sort or out of range.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, fields, is_dataclass
from enum import StrEnum
from math import isfinite
from typing import Any, TypeVar

from .errors import Problem, refuse_all
from .messages import of_kind, span_of
from .units import Kind

Shape = TypeVar("Shape")
When = tuple[str, tuple[Any, ...]]


@dataclass(frozen=True)
class Option:
    """One of the answers a choice accepts."""

    value: str
    words: str


@dataclass(frozen=True)
class Field:
    """One field of a form. ``sort`` is number, choice, flag or text. ``when_*``: shown only for these values of another."""

    name: str
    label: str
    sort: str
    kind: Kind | None = None
    low: float | None = None
    high: float | None = None
    optional: bool = False
    options: tuple[Option, ...] = ()
    hint: str = ""
    when_field: str = ""
    when_values: tuple[str, ...] = ()


@dataclass(frozen=True)
class Rows:
    """A list in a form: between ``least`` and ``most`` rows of ``fields``."""

    name: str
    label: str
    fields: tuple[Field, ...]
    least: int
    most: int


def number(
    label: str,
    kind: Kind,
    low: float,
    high: float,
    default: float | None,
    *,
    optional: bool = False,
    hint: str = "",
    when: When | None = None,
) -> Any:
    """A number of ``kind`` between ``low`` and ``high`` in the core's unit; None only where ``optional``."""
    about = {"label": label, "sort": "number", "kind": kind, "low": low, "high": high, "optional": optional}
    return field(default=default, metadata={**about, "hint": hint, "when": when})


def choice(
    label: str, words: Mapping[Any, str], default: StrEnum | str, *, hint: str = "", when: When | None = None
) -> Any:
    """One of the keys of ``words``: an enumeration, or plain names."""
    return field(
        default=default, metadata={"label": label, "sort": "choice", "words": dict(words), "hint": hint, "when": when}
    )


def flag(label: str, default: bool, *, hint: str = "", when: When | None = None) -> Any:
    """Yes or no."""
    return field(default=default, metadata={"label": label, "sort": "flag", "hint": hint, "when": when})


def text(label: str, default: str = "", *, most: int = 60, hint: str = "") -> Any:
    """A few words of at most ``most`` characters."""
    return field(default=default, metadata={"label": label, "sort": "text", "high": most, "hint": hint})


def rows(label: str, shape: type, default: Iterable[Any], least: int, most: int) -> Any:
    """A tuple of ``shape``."""
    return field(
        default=tuple(default),
        metadata={"label": label, "sort": "rows", "shape": shape, "least": least, "most": most},
    )


def fields_of(shape: type) -> tuple[Field, ...]:
    """Every field but the lists, in order."""
    return tuple(_field(f.name, f.metadata) for f in fields(shape) if f.metadata["sort"] != "rows")


def rows_of(shape: type) -> Rows | None:
    """The list of a form, if it has one; a form has at most one."""
    for f in fields(shape):
        m = f.metadata
        if m["sort"] == "rows":
            return Rows(f.name, m["label"], fields_of(m["shape"]), m["least"], m["most"])
    return None


def fill(shape: type[Shape], values: Mapping[str, Any]) -> Shape:
    """``shape`` out of plain values; what is not given keeps its default.

    Raises ``Refused`` with one problem for every field that is unknown, of the wrong sort, missing or out of range.
    """
    problems: list[Problem] = []
    made = _fill(shape, values, "", problems)
    refuse_all(problems)
    assert made is not None
    return made


def cannot_be(made: Any, path: str = "") -> tuple[Problem, ...]:
    """What a value of a form holds that the form would not take; ``path`` before the names of its fields."""
    problems: list[Problem] = []
    _fill(type(made), plain(made), path, problems)
    return tuple(problems)


def plain(value: Any) -> Any:
    """Plain data of a form's values: rows as dictionaries, names of choices as text."""
    if isinstance(value, StrEnum):
        return value.value
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: plain(getattr(value, f.name)) for f in fields(value)}
    if isinstance(value, Mapping):
        return {k: plain(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [plain(v) for v in value]
    return value


def options(words: Mapping[Any, str]) -> tuple[Option, ...]:
    """Every value of a choice, with its words."""
    return tuple(Option(str(value), said) for value, said in words.items())


def _field(name: str, m: Mapping[str, Any]) -> Field:
    when_field, when_values = m.get("when") or ("", ())
    return Field(
        name,
        m["label"],
        m["sort"],
        m.get("kind"),
        m.get("low"),
        m.get("high"),
        m.get("optional", False),
        options(m.get("words", {})),
        m.get("hint", ""),
        when_field,
        tuple(_plain(v) for v in when_values),
    )


def _plain(value: Any) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)


def _fill(shape: type[Shape], values: Mapping[str, Any], path: str, problems: list[Problem]) -> Shape | None:
    known = {f.name: f for f in fields(shape)}  # type: ignore[arg-type]
    before = len(problems)
    problems += [
        Problem(path + name, "is not asked for here", ", ".join(known)) for name in values if name not in known
    ]
    shown = {**{name: f.default for name, f in known.items()}, **values}
    taken: dict[str, Any] = {}
    for name, f in known.items():
        if name in values and _is_asked(name, known, shown):
            taken[name] = _READ[f.metadata["sort"]](path + name, f.metadata, values[name], problems)
    return shape(**taken) if len(problems) == before else None


def _is_asked(name: str, known: Mapping[str, Any], shown: Mapping[str, Any]) -> bool:
    """Whether what it hangs on has one of its values, and is asked itself."""
    when = known[name].metadata.get("when")
    if when is None:
        return True
    other, wanted = when
    return _plain(shown.get(other)) in map(_plain, wanted) and _is_asked(other, known, shown)


def _number(name: str, m: Mapping[str, Any], value: Any, problems: list[Problem]) -> float | None:
    low, high = m["low"], m["high"]
    accepted = span_of(low, high, m["kind"], ".6g")
    if value is None:
        if not m["optional"]:
            problems.append(Problem(name, f"{m['label']}: a number is needed", accepted))
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not isfinite(value):
        problems.append(Problem(name, f"{m['label']}: this is not a number", accepted))
        return None
    if not low <= value <= high:
        reason = f"{m['label']}: {of_kind(value, m['kind'], '.6g')}" + " cannot be right; a slip of unit?"
        problems.append(Problem(name, reason, accepted))
    return float(value)


def _choice(name: str, m: Mapping[str, Any], value: Any, problems: list[Problem]) -> Any:
    found = next((k for k in m["words"] if str(k) == value), None)
    if found is None:
        problems.append(Problem(name, f"{m['label']}: {value!r} is not one of the answers", ", ".join(m["words"])))
    return found


def _flag(name: str, m: Mapping[str, Any], value: Any, problems: list[Problem]) -> Any:
    if not isinstance(value, bool):
        problems.append(Problem(name, f"{m['label']}: yes or no", "true or false"))
    return value


def _text(name: str, m: Mapping[str, Any], value: Any, problems: list[Problem]) -> Any:
    if not isinstance(value, str) or len(value) > m["high"]:
        problems.append(Problem(name, f"{m['label']}: a few words", f"up to {m['high']} characters"))
    return value


def _rows(name: str, m: Mapping[str, Any], value: Any, problems: list[Problem]) -> Any:
    least, most = m["least"], m["most"]
    if not isinstance(value, list | tuple) or not least <= len(value) <= most:
        problems.append(Problem(name, f"{m['label']}: {least} to {most} rows", f"{least}…{most} rows"))
        return ()
    made = []
    for i, row in enumerate(value):
        if not isinstance(row, Mapping):
            problems.append(Problem(f"{name}[{i}]", f"{m['label']}: not a row", "named values"))
            continue
        made.append(_fill(m["shape"], row, f"{name}[{i}].", problems))
    return tuple(made)


_READ = {"number": _number, "choice": _choice, "flag": _flag, "text": _text, "rows": _rows}
