"""Random definitions from the published JSON Schema: computed, or refused with a message."""

import json
import os
import re
from contextlib import suppress
from datetime import date
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.errors import KalendorError
from kalendor.sentence.writing import brief
from tests.core.build import records

EXAMPLES = int(os.environ.get("KALENDOR_DOCUMENTS", "40"))
SCHEMAS = {
    path.stem: json.loads(path.read_text()) for path in (Path(__file__).parents[2] / "docs" / "schema").glob("*.json")
}
DATA = records(a=["x", "y", None], n=[1, None, 3], on=[date(2026, 1, 31), date(2024, 2, 29), None])
NAMES = st.sampled_from(["a", "n", "on", "f", "g", "T", "C", "x", "n > 0", "f / 2", "n"])
KEPT = ("kalendor", "kind", "title", "source", "figures")
DATES = st.sampled_from(["2026-01-31", "2024-02-29", "1999-12-31", "2026-02-30"])
OFTEN = {"figures", "down", "take", "of", "grains", "roots", "under", "levels", "cuts"}
QUIET = [HealthCheck.too_slow, HealthCheck.filter_too_much, HealthCheck.data_too_large]


def drawn(draw: st.DrawFn, schema: dict[str, Any], whole: dict[str, Any], depth: int = 0) -> Any:
    """A value that a JSON Schema allows, with names of the data in place of most texts, so that more of it is
    executed."""
    if "$ref" in schema:
        return drawn(draw, whole["$defs"][schema["$ref"].rpartition("/")[2]], whole, depth)
    if "const" in schema:
        return schema["const"]
    if "enum" in schema:
        return draw(st.sampled_from(schema["enum"]))
    for ways in ("anyOf", "oneOf"):
        if ways in schema:
            return drawn(draw, draw(st.sampled_from(schema[ways])), whole, depth)
    match schema.get("type"):
        case "object":
            return _object(draw, schema, whole, depth)
        case "array":
            most = min(schema.get("maxItems", 3), max(schema.get("minItems", 0), 3 if depth < 5 else 0))
            size = draw(st.integers(min(schema.get("minItems", 0), most), most))
            return [drawn(draw, schema.get("items", {}), whole, depth + 1) for _ in range(size)]
        case "integer":
            low = schema.get("minimum", -5)
            return draw(
                st.integers(low, min(schema.get("maximum", 10**20), low + draw(st.sampled_from([3, 60, 10**20]))))
            )
        case "number":
            low, high = schema.get("minimum", -9), schema.get("maximum", 400)
            return draw(st.one_of(st.integers(int(low), int(high)), st.floats(float(low), float(high))))
        case "boolean":
            return draw(st.booleans())
        case "null":
            return None
        case _:
            return draw(DATES if schema.get("format") == "date" else NAMES)


def _object(draw: st.DrawFn, schema: dict[str, Any], whole: dict[str, Any], depth: int) -> Any:
    made = {}
    for name, part in schema.get("properties", {}).items():
        wanted = name in schema.get("required", []) or name in OFTEN or (depth < 6 and draw(st.integers(0, 11)) == 0)
        if wanted:
            made[name] = drawn(draw, part, whole, depth + 1)
    more = schema.get("additionalProperties")
    if isinstance(more, dict):
        for _ in range(draw(st.integers(0, 2))):
            made[draw(NAMES)] = drawn(draw, more, whole, depth + 1)
    return made


def thinned(draw: st.DrawFn, document: dict[str, Any], error: str) -> dict[str, Any] | None:
    """The document without the part that an error names, or without any part; None if nothing can be removed."""
    named = re.search(r"drawn: (\w+)(?:\[(\d+)\])?", error)
    parts = [
        (k, i) for k, v in document.items() if k not in KEPT for i in (range(len(v)) if isinstance(v, list) else (-1,))
    ]
    parts += [("figures", i) for i in range(1, len(document["figures"]))]
    if not parts:
        return None
    key, at = draw(st.sampled_from(parts))
    if named and (named[1], int(named[2] or -1)) in parts:
        key, at = named[1], int(named[2] or -1)
    if at < 0:
        return {k: v for k, v in document.items() if k != key}
    return {**document, key: [one for i, one in enumerate(document[key]) if i != at]}


@pytest.mark.parametrize("kind", ["report", "tree", "calendar", "buckets", "recipe"])
@settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=QUIET)
@given(st.data())
def test_a_document_of_the_schema_is_worked_out_or_refused_in_words(kind: str, data: st.DataObject) -> None:
    document = drawn(data.draw, SCHEMAS[kind], SCHEMAS[kind]) | {"kalendor": 1, "kind": kind}
    if kind == "report":
        document |= {"source": "s", "figures": [{"name": "f", "take": "count"}, *document["figures"]]}
    while kind == "report" and document is not None:
        try:
            report = definition(document, "drawn")
            assert isinstance(report, Report)
            assert brief(report)
            work_out(report, Material(DATA, groupings([]), {}, 0), date(2026, 8, 4))
            return
        except KalendorError as error:
            document = thinned(data.draw, document, str(error))
    with suppress(KalendorError):
        found = definition(document, "drawn")
        if found.kind in ("tree", "calendar", "buckets"):
            report = {
                "kalendor": 1,
                "kind": "report",
                "title": "t",
                "source": "s",
                "figures": [{"name": "f", "take": "count"}],
            }
            own = {
                "tree": {"category": "a", "tree": found.name}, "calendar": {"period": "on", "calendar": found.name, "grains": ["month"]},
                "buckets": {"bucket": "n", "set": found.name},
            }[found.kind]  # fmt: skip
            asked = definition({**report, "down": [own]}, "drawn")
            work_out(asked, Material(DATA, groupings([found]), {}, 0), date(2026, 8, 4))
