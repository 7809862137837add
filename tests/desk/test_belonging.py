"""The source that a file belongs to, and waiting files that are moved to another source."""

from random import Random

import pytest

from kalendor.desk.belonging import look_at_any, source_of
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.desk import Desk
from kalendor.desk.outcomes import outcome
from kalendor.desk.uploads import hold
from kalendor.errors import IntakeError
from tests.year.exports import DRIFTS, Export, Tickets, drifted, sales_of
from tests.year.played import FIRST

COUNTERS = "counted at;pier;passengers\n" + "".join(f"2026-0{1 + n % 6}-0{1 + n % 9};P{n % 3};{n}\n" for n in range(40))
ROUTES = "code,pier\nA,North\nB,South\n"
DAYS = "day,code,n\n" + "".join(f"{1 + n:02}/03/2026,k{n},{n}\n" for n in range(28))


def sources(desk: Desk) -> None:
    rng, tickets = Random(1), Tickets()
    for n in range(3):
        month = FIRST.replace(month=1 + n)
        data = Export().written(sales_of(rng, month, 60, tickets))
        keep(desk, look_at(desk, f"tickets-2025-0{1 + n}.csv", data, "Sales").token)
    keep(desk, look_at(desk, "pier-counters-2026.csv", COUNTERS.encode(), "Counters").token)
    keep(desk, look_at(desk, "routes.csv", ROUTES.encode(), "Routes").token)


def belongs(desk: Desk, name: str, data: bytes) -> str:
    return look_at_any(desk, name, hold(desk, [data])).source


@pytest.mark.parametrize("seed", range(5))
def test_exports_that_change_belong_to_their_source(desk: Desk, seed: int) -> None:
    sources(desk)
    rng, tickets, export = Random(seed), Tickets(), Export()
    for n in range(6):
        kind, export = drifted(rng, export, [])
        assert kind in DRIFTS
        data = export.written(sales_of(rng, FIRST.replace(month=5 + n), 50, tickets))
        name = f"tickets-2025-{5 + n:02}.csv"
        assert belongs(desk, name, data) == "Sales", (kind, export)
        if len(export.columns) == 7 and not export.names and not export.added:
            assert belongs(desk, "download (3).csv", data) == "Sales", (kind, export)


def test_a_file_of_no_source_makes_its_own(desk: Desk) -> None:
    sources(desk)
    assert belongs(desk, "weather-2026.csv", b"day,rain\n2026-01-01,3\n2026-01-02,4\n") == "Weather"
    assert belongs(desk, "routes.csv", b"code,pier\nC,West\n") == "Routes"
    assert belongs(desk, "codes.csv", b"code,pier,a,b,c,d\nC,West,1,2,3,4\n") == "Codes"


def test_where_two_sources_fit_alike_the_name_decides_or_nobody(desk: Desk) -> None:
    for name in ("North", "South"):
        keep(
            desk, look_at(desk, f"{name.lower()}-2026-01.csv", f"day,n\n2026-01-0{len(name)},1\n".encode(), name).token
        )
    assert belongs(desk, "south-2026-02.csv", b"day,n\n2026-02-01,2\n") == "South"
    assert belongs(desk, "export.csv", b"day,n\n2026-02-02,2\n") == "Export"


def test_a_file_taken_for_another_source_is_read_as_that_source_is(desk: Desk) -> None:
    keep(desk, look_at(desk, "days.csv", DAYS.encode(), "Days").token)
    source = desk.sources.named("Days")
    assert source is not None
    assert source.recipe.columns["day"].format == "%d/%m/%Y"
    waiting = look_at(desk, "apart.csv", b"day,code,n\n03/04/2026,x1,1\n04/04/2026,x2,2\n", None)
    taken = read_again(desk, waiting.token, Change(source="Days"))
    assert str(taken.reading.records.columns["day"].item(0)) == "2026-04-03"
    assert taken.reading.recipe.columns["day"].format == "%d/%m/%Y"
    other = read_again(desk, taken.token, Change(source="Anything else"))
    assert (other.source, other.changes) == ("Anything else", None)
    renamed = look_at(
        desk, "renamed.csv", DAYS.replace("day,", "date,").replace("/03/", "/05/").replace(",k", ",z").encode(), None
    )
    taken = read_again(desk, renamed.token, Change(source="Days"))
    assert taken.changes is not None
    assert [(c.name, c.heading) for c in taken.changes.columns] == [("day", "date")]
    assert not outcome(desk, taken).problem


def test_a_file_that_has_nothing_of_a_source_waits_as_it_was(desk: Desk) -> None:
    sources(desk)
    waiting = look_at(desk, "rain.csv", b"day,rain\n2026-01-01,3\n", None)
    with pytest.raises(IntakeError, match="none of its columns"):
        read_again(desk, waiting.token, Change(source="Routes"))
    assert desk.waiting[waiting.token] is waiting
    assert source_of(desk, waiting) is None
