"""Partials of records cut and merged in any way: the sheet is that of all records at once, byte for byte."""

import itertools
from collections.abc import Callable
from dataclasses import asdict
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.partials.condensing import condensed, merged
from kalendor.core.placing.material import Material
from kalendor.core.plan import planned
from kalendor.core.report import sheet_of
from kalendor.core.sheet.plain import plain
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.kinds import definition
from kalendor.errors import DefinitionError
from tests.core.build import TODAY
from tests.core.test_any_report import DATA, MATERIAL, reports


def cut(material: Material, report: Any, as_of: date, cuts: list[int]) -> list[Material]:
    """A partial of each stretch of the records between the cuts."""
    bounds = [0, *sorted(cuts), material.records.count]
    return [
        condensed(
            report,
            Material(
                material.records.take(np.arange(a, b)), material.groupings, material.looked_up,
                material.refused if not a and not k else 0,
            ),
            as_of,
            a,
            whole=k == 0,
        )
        for k, (a, b) in enumerate(itertools.pairwise(bounds))
    ]  # fmt: skip


def merged_by(report: Any, partials: list[Material], as_of: date, picks: list[int]) -> Material:
    """The partials merged two or three at a time, which ones as `picks` says."""
    left = list(partials)
    for pick in picks:
        if len(left) < 2:
            break
        taken = [left.pop(pick % len(left)) for _ in range(min(2 + pick % 2, len(left)))]
        left.append(merged(report, taken, as_of))
    return merged(report, left, as_of)


def outcome(made: Callable[[], Sheet]) -> Any:
    """All of a sheet, or the words in which it is refused."""
    try:
        sheet = made()
    except DefinitionError as error:
        return str(error)
    return plain(sheet), asdict(sheet.tie_out)


@given(
    reports(), st.lists(st.integers(0, DATA.count), max_size=6), st.lists(st.integers(0, 50), min_size=6, max_size=6)
)
def test_any_report_from_partials_is_that_of_all_records(
    report: dict[str, Any], cuts: list[int], picks: list[int]
) -> None:
    document: Any = definition(report, "test")

    def in_parts() -> Any:
        partials = cut(MATERIAL, document, document.as_of, cuts)
        return sheet_of(planned(document, merged_by(document, partials, document.as_of, picks), TODAY))

    assert outcome(in_parts) == outcome(lambda: sheet_of(planned(document, MATERIAL, TODAY)))
