"""Labels consist of a name and separate properties (a part, the number in a rest), which are never parsed from text."""

from datetime import date
from typing import Any

import pytest

from kalendor.core.sheet.moves import paths
from kalendor.core.sheet.plain import from_plain, plain
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import found_cell
from kalendor.errors import DefinitionError
from tests.core.build import SUM, records, sheet

FUELS = records(a=["Fuel (diesel)", "Fuel (3)", "Hull (part)", "Zinc"], v=[8, 4, 2, 1])
TOP: list[dict[str, Any]] = [{"category": "a", "top": 2, "by": "s"}]
WEEKS = [{"period": "on", "grains": ["month", "week"]}]


def weeks() -> Sheet:
    return sheet(records(on=[date(2026, 4, 29), date(2026, 5, 1)], v=[1, 2]), down=WEEKS, figures=[SUM])


def test_a_label_that_looks_as_if_words_stood_beside_it_is_a_name() -> None:
    found = sheet(FUELS, down=[{"category": "a"}], figures=[SUM])
    for label in ("Fuel (diesel)", "Fuel (3)", "Hull (part)", "Zinc"):
        line = found_cell(found, "s", [label], []).line
        assert (found.lines.names[line], found.lines.labels[line]) == (label, label)
    for other in ("Fuel", "Hull"):
        with pytest.raises(DefinitionError, match="there is no line"):
            found_cell(found, "s", [other], [])


def test_what_stands_beside_a_name_is_a_number_or_a_flag() -> None:
    rest = sheet(FUELS, down=TOP, figures=[SUM])
    (at,) = rest.lines.rest
    assert (rest.lines.names[at], rest.lines.rest[at], rest.lines.labels[at]) == ("Other", 2, "Other (2)")
    assert found_cell(rest, "s", ["Other"], []).line == found_cell(rest, "s", ["Other (2)"], []).line == at
    cut = weeks()
    assert len(cut.lines.parts) == 2
    assert all(str(cut.lines.labels[at]) == f"{cut.lines.names[at]} (part)" for at in cut.lines.parts)


@pytest.mark.parametrize(
    "made", [lambda: sheet(FUELS, down=TOP, figures=[SUM]), weeks, lambda: sheet(FUELS, figures=[SUM])]
)
def test_they_are_kept_with_a_sheet_and_known_of_one_kept_before(made: Any) -> None:
    found = made()
    told = plain(found)
    kept = {name: part for name, part in told.items() if name != "labelled"}
    for again in (from_plain(told), from_plain(kept)):
        for side, was in ((again.lines, found.lines), (again.columns, found.columns)):
            assert side.names.tolist() == was.names.tolist()
            assert (side.rest, side.parts) == (was.rest, was.parts)
            assert side.labels.tolist() == was.labels.tolist()
            assert paths(side) == paths(was)
        assert plain(again) == told
