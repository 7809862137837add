"""Converts an edition's ingredients to their stored form, and back."""

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any, cast

from pydantic import TypeAdapter

from kalendor.core.values.columns import Kind
from kalendor.definitions.kinds import Grouping, definition
from kalendor.definitions.report import MadeColumn, Report
from kalendor.desk.ingredients import HeldGrouping, HeldSource, Ingredients
from kalendor.store.definitions import dumped
from kalendor.store.record_rows import SourceColumn

_MADE: TypeAdapter[list[MadeColumn]] = TypeAdapter(list[MadeColumn])
_JSON: TypeAdapter[Any] = TypeAdapter(Any)


def told(found: Ingredients) -> dict[str, Any]:
    """The ingredients as stored with an edition."""
    return {
        "report": _document(found.report),
        "groupings": [{"id": g.id, "revision": g.revision, "document": _document(g.body)} for g in found.groupings],
        "sources": [
            {
                "id": s.id,
                "name": s.name,
                "columns": [c.plain() for c in s.columns],
                "made": _MADE.dump_python(list(s.made), mode="json", by_alias=True, exclude_none=True),
                "intakes": list(s.intakes),
                "refused": s.refused,
                "mended": s.mended,
                **({"empty": s.empty} if s.empty else {}),
                **({"by_hand": s.by_hand} if s.by_hand else {}),
            }
            for s in found.sources
        ],
    }


def _document(body: Report | Grouping) -> dict[str, Any]:
    return cast(dict[str, Any], _JSON.validate_json(dumped(body)))


def from_told(document: Mapping[str, Any]) -> Ingredients:
    """The ingredients from their stored form."""
    report = definition(document["report"], "edition", ("report",))
    assert isinstance(report, Report)
    return Ingredients(
        report,
        tuple(
            HeldGrouping(g["id"], g["revision"], cast(Grouping, definition(g["document"], "edition")))
            for g in document["groupings"]
        ),
        tuple(_source_of(one) for one in document["sources"]),
        report.as_of or date.min,
    )


def _source_of(one: Mapping[str, Any]) -> HeldSource:
    columns: Sequence[Sequence[Any]] = one["columns"]
    return HeldSource(
        one["id"],
        one["name"],
        tuple(SourceColumn(c[0], c[1], Kind(c[2]), *c[3:]) for c in columns),
        tuple(_MADE.validate_python(one["made"])),
        tuple(one["intakes"]),
        one["refused"],
        one["mended"],
        one.get("empty", 0),
        one.get("by_hand", 0),
    )
