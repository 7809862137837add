"""The base of all definition documents, and how one is parsed from JSON."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from kalendor.errors import DefinitionError

Name = Annotated[str, Field(min_length=1, max_length=200)]
Formula = Annotated[str, Field(min_length=1, max_length=10_000)]  # an expression or a condition


class OfColumns:
    """Marks a name that is a column's, or a formula over the columns of records: it is updated when a column is
    renamed."""


OF_COLUMNS = OfColumns()
ColumnName = Annotated[Name, OF_COLUMNS]
RecordFormula = Annotated[Formula, OF_COLUMNS]


T = TypeVar("T", bound="Part")


class Part(BaseModel):
    """A part of a document: immutable; unknown keys are rejected."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Document(Part):
    """A whole document; `kalendor` is the version of the format."""

    kalendor: Literal[1] = 1

    @cached_property
    def digest(self) -> str:
        """The SHA-256 of the document's content, cached."""
        return hashlib.sha256(self.model_dump_json(by_alias=True).encode()).hexdigest()

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy; cached values of the original are not copied."""
        copied = super().model_copy(update=update, deep=deep)
        copied.__dict__.pop("digest", None)
        return copied


def key_path(parts: tuple[int | str, ...]) -> str:
    """The path to a key in the document's own terms, as `figures[1].of`; Pydantic's additions for unions are left out.

    >>> key_path(("figures", 1, "~take", "of")), key_path(("down", 0, "grains", 0, "literal['year']"))
    ('figures[1].of', 'down[0].grains[0]')
    """
    path = ""
    for part in parts:
        if isinstance(part, int):
            path += f"[{part}]"
        elif not _is_union_branch(part):
            path += f".{part}" if path else part
    return path


def _is_union_branch(part: str) -> bool:
    """Whether a part of a path names a branch of a union, not a key of the document."""
    return part.startswith("~") or "[" in part or part in _BRANCHES or (part[:1].isupper() and part.isidentifier())


_BRANCHES = frozenset({"date", "float", "int", "str", "bool", "none", "constrained-str", "list"})
KINDS_OF_VALUES = {"take": "a take", "grains": "a grain", "grain": "a grain", "this": "a grain", "to_date": "a grain"}
_WORDS = {
    "string_type": "is not text",
    "int_type": "is not a whole number",
    "int_parsing": "is not a whole number",
    "int_from_float": "is not a whole number",
    "float_type": "is not a number",
    "float_parsing": "is not a number",
    "finite_number": "is not a number that can be used",
    "bool_type": "is neither true nor false",
    "bool_parsing": "is neither true nor false",
    "list_type": "is not a list",
    "dict_type": "is not an object with keys",
    "model_type": "is not an object with keys",
    "model_attributes_type": "is not an object with keys",
    "string_unicode": "holds half of a character",
}
_DATES = frozenset({"date_type", "date_parsing", "date_from_datetime_parsing", "date_from_datetime_inexact"})
SHOWN_VALUE = 80


def explain(errors: Sequence[Any], skip: int = 0) -> DefinitionError:
    """The first error of a validation as one line for the analyst; `skip` leading parts of its path are left out.

    If a value fits none of several forms, the possible forms are listed.
    """
    errors = _of_one_form(errors)
    first = errors[0]
    where = key_path(first["loc"][skip:])
    alike = [e for e in errors if key_path(e["loc"][skip:]) == where]
    if first["type"] == "extra_forbidden":
        return DefinitionError(f"{where} is not a key that is known here; remove it or check its spelling")
    if first["type"] == "missing":
        return DefinitionError(f"{where} is missing")
    return DefinitionError(f"{where + ': ' if where else ''}{_said(alike, where)}")


def _of_one_form(errors: Sequence[Any]) -> Sequence[Any]:
    """If the first value is an object with several possible forms, the errors of the most similar form, unknown keys
    first."""
    first = errors[0]
    *base, form = first["loc"] or [""]
    if not isinstance(first.get("input"), dict) or not _is_union_branch(str(form)):
        return errors
    forms: dict[Any, list[Any]] = {}
    for error in errors:
        if [*error["loc"][: len(base)]] == base and len(error["loc"]) > len(base):
            forms.setdefault(error["loc"][len(base)], []).append(error)

    def distance(faults: Sequence[Any]) -> tuple[bool, int]:
        of_another = any(len(e["loc"]) == len(base) + 1 and e["type"] != "value_error" for e in faults)
        return of_another, sum(e["type"] in ("missing", "extra_forbidden") for e in faults)

    nearest = min(forms.values(), key=distance)
    return errors if distance(nearest)[0] else sorted(nearest, key=lambda e: e["type"] != "extra_forbidden")


def _said(alike: Sequence[Any], where: str) -> str:
    """The error of one value, which it quotes."""
    value, types = _shown(alike[0].get("input")), {e["type"] for e in alike}
    allowed = next((e["ctx"]["expected"] for e in alike if e["type"] == "literal_error"), None)
    if allowed is not None:
        names = allowed.replace("'", "").replace(" or ", ", ")
        kind = KINDS_OF_VALUES.get(where.partition("[")[0] if "." not in where else _last_key(where))
        return f"{value} {f'is not {kind}' if kind else 'does not fit here'}; there are {names}"
    if types & _DATES:
        return f"{value} is not a date; write it as 2026-07-31"
    first = alike[0]
    if first["type"] in _WORDS:
        return f"{value} {_WORDS[first['type']]}"
    message = str(first["msg"]).removeprefix("Value error, ")
    if first["type"] in ("value_error", "figure", "axis_entry") or first["type"].endswith("_too_short"):
        return message
    return f"{value}: {message[:1].lower()}{message[1:]}"


def _last_key(where: str) -> str:
    return where.rpartition(".")[2].partition("[")[0]


def _shown(value: Any) -> str:
    text = repr(value) if isinstance(value, str) else json.dumps(value, default=str, ensure_ascii=False)
    return text if len(text) <= SHOWN_VALUE else f"{text[:SHOWN_VALUE]}…"


def read_json(text: str | bytes, what: str) -> Any:
    """The JSON value in `text`.

    Raises DefinitionError with line and column if it is not JSON.
    """
    try:
        return json.loads(text)
    except RecursionError:
        raise DefinitionError(f"{what}: nested too deeply to be a definition") from None
    except json.JSONDecodeError as error:
        raise DefinitionError(
            f"{what}: not valid JSON at line {error.lineno}, column {error.colno}: {error.msg}"
        ) from None
    except UnicodeDecodeError:
        raise DefinitionError(f"{what}: not text; a definition is JSON in UTF-8") from None
    except ValueError:
        raise DefinitionError(f"{what}: a number in it has more digits than any that is used") from None


def parse(model: type[T], value: Any, what: str) -> T:
    """`value` as a `model`.

    Raises DefinitionError that names the first key at fault.
    """
    try:
        return model.model_validate(value)
    except ValidationError as error:
        raise DefinitionError(f"{what}: {explain(error.errors())}") from None
