"""The dictionary of the orders, and reports in comparable form."""

import json
from functools import cache
from pathlib import Path
from typing import Any

from kalendor.core.groupings.ground import Groupings, groupings
from kalendor.core.values.columns import Records
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.intake.reading import read_file
from kalendor.sentence.conditions import normal
from kalendor.sentence.dictionary import dictionary
from kalendor.sentence.names import Names
from kalendor.sentence.reading import Read, read
from kalendor.sentence.writer import document
from tests.core.build import TODAY

CASES = Path(__file__).parent / "cases"


@cache
def orders() -> tuple[Records, Groupings, Names]:
    """The orders, their groupings, and the dictionary of both."""
    found = groupings(
        [definition(json.loads(path.read_text()), path.name) for path in sorted(CASES.glob("with-*.json"))]
    )
    records = read_file(CASES / "orders.csv").records
    return records, found, dictionary(records, found, "orders")


def heard(text: str, **more: Any) -> Read:
    """The reading of a text over the orders."""
    return read(text, orders()[2], TODAY, **more)


def asks(text: str) -> dict[str, Any]:
    """The report that a text asks for, without title and source; asserts that all of it is understood."""
    found = heard(text)
    assert found.whole, (text, found.unknown, found.why)
    assert found.report is not None
    return compared(found.report)


def compared(report: Report) -> dict[str, Any]:
    """A report in comparable form: SQL parsed, title and source removed."""
    made = document(report)
    conditions = [
        *made["figures"],
        *made.get("keep", ()),
        *(s["keep"] for s in made.get("silenced", ()) if "keep" in s),
    ]
    for one in conditions:
        if "where" in one:
            one["where"] = normal(one["where"])
    for one in (s for s in made.get("silenced", ()) if "only" in s):
        one["only"] = normal(one["only"])
    made["only"] = [normal(condition) for condition in made.get("only", ())]
    return {key: value for key, value in made.items() if key not in ("title", "source")}
