"""Charts of comparable periods: a partial period beside the same part of the one before."""

from datetime import date
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kalendor.output.charting import MOST_SERIES, NOWHERE, Chart, chart
from kalendor.output.picture import picture
from tests.core.build import records, report, sheet

NET = {"name": "Net", "take": "sum", "of": "net"}
BASE = {"name": "Base", "compare": "Net", "with": "year_earlier", "as": "base"}
AREAS = [{"category": "area"}]
YEARS, MONTHS = ([{"period": "on", "grains": [grain]}] for grain in ("year", "month"))
DAYS = st.dates(date(2025, 1, 1), date(2026, 7, 31))
ROWS = st.lists(st.tuples(DAYS, st.sampled_from(["a", "b", "c"]), st.integers(1, 90_000)), min_size=2, max_size=40)


def compared(as_: str) -> dict[str, Any]:
    return {"name": "Change", "compare": "Net", "with": "year_earlier", "as": as_}


def drawn(rows: list[tuple[date, str, int]], figures: list[dict[str, Any]], **keys: Any) -> Chart | None:
    data = records(on=[r[0] for r in rows], area=[r[1] for r in rows], net=[r[2] for r in rows])
    keys = {"as_of": "2026-07-31", "figures": figures, **keys}
    return chart(sheet(data, **keys), report(**keys))


@settings(max_examples=settings.default.max_examples // 2)
@given(ROWS, st.sampled_from(["difference", "percent"]), st.sampled_from([YEARS, MONTHS]))
def test_a_base_is_the_same_however_it_is_compared(
    rows: list[tuple[date, str, int]], as_: str, across: list[dict[str, Any]]
) -> None:
    """The base derived from a change equals the one that the sheet shows on request."""
    rows = [*rows, *((date(y, m, 3), area, 7) for y in (2025, 2026) for m in range(1, 8) for area in "ab")]
    one, other = (drawn(rows, [NET, figure], down=AREAS, across=across) for figure in (BASE, compared(as_)))
    assume(one is not None and other is not None)  # nothing else is drawn where a line is gone
    assert one is not None
    assert other is not None
    assert (other.lines, other.series, other.at) == (one.lines, one.series, one.at)
    np.testing.assert_allclose(np.nan_to_num(other.values), np.nan_to_num(one.values), rtol=1e-9)
    known = one.values > 0  # a difference says 0 where there is no base
    for mine, theirs, here in zip(other.texts, one.texts, known, strict=True):
        assert [t for t, there in zip(mine, here, strict=True) if there] == [
            t for t, there in zip(theirs, here, strict=True) if there
        ]


HALVES = [(date(2025, m, 5), "ab"[m % 2], 100 * m) for m in range(1, 13)] + [
    (date(2026, m, 5), "ab"[m % 2], 110 * m) for m in range(1, 8)
]


def test_a_part_year_stands_beside_the_same_part() -> None:
    found = drawn(HALVES, [NET, compared("percent")], down=AREAS, across=YEARS)
    assert found is not None
    assert found.series == ("a year earlier, to 31 Jul", "2026, to 31 Jul")
    assert found.values.tolist() == [[1200, 1320], [1600, 1760]]
    assert found.texts == (("1,200", "1,320"), ("1,600", "1,760"))
    assert [at == NOWHERE for at in found.at] == [True, False] * 2
    assert (
        found.alternative
        == "Net by 2 lines, a year earlier, to 31 Jul and 2026, to 31 Jul beside each other: a 1,320, b 1,760."
    )
    assert picture(found)


@pytest.mark.parametrize("way", ["down", "across"])
def test_months_stand_beside_those_of_the_year_before(way: str) -> None:
    window = {"of": "on", "show": {"to_date": "year"}}
    found = drawn(HALVES, [NET, compared("difference")], **{way: MONTHS}, window=window)
    assert found is not None
    assert found.series == ("a year earlier", "Net")
    assert found.values.tolist() == [[100 * m, 110 * m] for m in range(1, 8)]


def test_whole_years_are_drawn_each_and_what_cannot_be_told_apart_is_not_guessed() -> None:
    whole = drawn(
        [(date(y, 12, 31), a, y) for y in (2024, 2025, 2026) for a in "ab"],
        [NET, compared("percent")],
        down=AREAS,
        across=YEARS,
        as_of="2026-12-31",
    )
    assert whole is not None
    assert whole.series == ("2024", "2025", "2026")
    later = drawn([*HALVES, (date(2026, 9, 1), "a", 1)], [NET, compared("percent")], down=AREAS, across=YEARS)
    assert later is not None
    assert later.series == ("2025", "2026 · to 31 Jul"), "records after the day of comparison stand in the number"
    gone = drawn(
        [r for r in HALVES if r[1] == "a" or r[0].year == 2025], [NET, compared("percent")], down=AREAS, across=YEARS
    )
    assert gone is not None
    assert len(gone.series) == 2 <= MOST_SERIES
    assert gone.series[0] == "2025", "a percentage does not tell what is gone"
