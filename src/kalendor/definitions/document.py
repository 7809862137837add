"""What every definition document has in common, and how one is read from JSON."""

import hashlib
import json
from collections.abc import Mapping
from functools import cached_property
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from kalendor.errors import DefinitionError

Name = Annotated[str, Field(min_length=1, max_length=200)]


T = TypeVar("T", bound="Part")


class Part(BaseModel):
    """A part of a document: frozen, and closed to keys that it does not know."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Document(Part):
    """A whole document; `kalendor` is the version of the format."""

    kalendor: Literal[1] = 1

    @cached_property
    def digest(self) -> str:
        """The SHA-256 of what the document says, worked out once."""
        return hashlib.sha256(self.model_dump_json(by_alias=True).encode()).hexdigest()

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy; what was worked out of the original is not taken along."""
        copied = super().model_copy(update=update, deep=deep)
        copied.__dict__.pop("digest", None)
        return copied


def key_path(parts: tuple[int | str, ...]) -> str:
    """The path to a key, as `figures[1].of`; model names that Pydantic adds for unions are left out.

    >>> key_path(("figures", 1, "take", "of"))
    'figures[1].take.of'
    """
    path = ""
    for part in parts:
        if isinstance(part, int):
            path += f"[{part}]"
        elif not part.startswith("~"):
            path += f".{part}" if path else part
    return path


def explain(first: Any, skip: int = 0) -> DefinitionError:
    """A validation error's first fault as one line for the analyst; `skip` leading parts of its path are left out."""
    where = key_path(first["loc"][skip:])
    if first["type"] == "extra_forbidden":
        return DefinitionError(f"{where} is not a key that is known here; remove it or check its spelling")
    if first["type"] == "missing":
        return DefinitionError(f"{where} is missing")
    message = first["msg"].removeprefix("Value error, ")
    return DefinitionError(f"{where + ': ' if where else ''}{message}")


def read_json(text: str | bytes, what: str) -> Any:
    """The JSON value in `text`.

    Raises DefinitionError with line and column where it is not JSON.
    """
    try:
        return json.loads(text)
    except json.JSONDecodeError as error:
        raise DefinitionError(
            f"{what}: not valid JSON at line {error.lineno}, column {error.colno}: {error.msg}"
        ) from None
    except UnicodeDecodeError:
        raise DefinitionError(f"{what}: not text; a definition is JSON in UTF-8") from None


def parse(model: type[T], value: Any, what: str) -> T:
    """`value` as a `model`.

    Raises DefinitionError that names the first key at fault.
    """
    try:
        return model.model_validate(value)
    except ValidationError as error:
        raise DefinitionError(f"{what}: {explain(error.errors()[0])}") from None
