"""Files held for review: in the drop folder, at import, and on the command line."""

from random import Random
from typing import Any

import pytest

from kalendor.desk.bringing_in import Change, bring_in_file, keep, look_at, read_again
from kalendor.desk.desk import Desk
from kalendor.desk.drop_folder import DropFolders
from kalendor.desk.dropped_files import folder_of, folder_state, keep_looked_at, look_at_dropped, put_aside
from kalendor.desk.outcomes import outcome
from kalendor.errors import HeldError
from kalendor.store.definitions import MissingError
from kalendor.store.intakes import no_progress

JUNE = "day,key,n\n" + "".join(f"2026-06-{1 + n % 28:02},k{n},{n}\n" for n in range(60))
HALF = "".join(JUNE.splitlines(keepends=True)[:31])


def records(desk: Desk) -> int:
    source = desk.sources.named("S")
    assert source is not None
    return desk.sources.records(source).count


def dropped(desk: Desk, text: str, name: str = "june-again.csv") -> Any:
    keep(desk, look_at(desk, "june.csv", JUNE.encode(), "S").token)
    folders = DropFolders(desk)
    folders.make()
    folder = folder_of(desk, "S")
    assert folder is not None
    (folder / name).write_text(text)
    (found,) = folders.look(at_once=True)
    return found


def test_a_dropped_file_that_counts_twice_waits_until_a_person_has_seen_it(desk: Desk) -> None:
    assert "30 of its 30 records stand already" in dropped(desk, HALF).reason
    assert records(desk) == 60
    state = folder_state(desk, "S")
    assert state is not None
    assert [one.file for one in state.held] == ["june-again.csv"]
    waiting = look_at_dropped(desk, "S", "june-again.csv")
    assert outcome(desk, waiting).held
    token = read_again(desk, waiting.token, Change(join="update", join_by=["key"])).token
    keep_looked_at(desk, token, again=False, progress=no_progress, seen=False)
    assert records(desk) == 60
    state = folder_state(desk, "S")
    assert state is not None
    assert state.held == ()
    assert (state.path / "done" / "june-again.csv").exists()


def test_a_held_file_is_kept_as_it_is_or_put_aside(desk: Desk) -> None:
    dropped(desk, HALF)
    waiting = look_at_dropped(desk, "S", "june-again.csv")
    with pytest.raises(HeldError):
        keep_looked_at(desk, waiting.token, again=False, progress=no_progress, seen=False)
    put_aside(desk, "S", "june-again.csv")
    state = folder_state(desk, "S")
    assert state is not None
    assert (state.held, records(desk)) == ((), 60)
    keep_looked_at(desk, waiting.token, again=False, progress=no_progress, seen=True)
    assert records(desk) == 90
    with pytest.raises(MissingError, match=r"gone\.csv"):
        look_at_dropped(desk, "S", "gone.csv")


def test_a_file_beside_is_never_reached_by_its_name(desk: Desk) -> None:
    dropped(desk, HALF)
    for name in ("../done/june.csv", "..", "/etc/passwd", ".taking"):
        with pytest.raises(MissingError):
            look_at_dropped(desk, "S", name)
        with pytest.raises(MissingError):
            put_aside(desk, "S", name)


def test_a_choice_for_one_file_stays_with_it_unless_it_is_to_be_so_always(desk: Desk) -> None:
    keep(desk, look_at(desk, "june.csv", JUNE.encode(), "S").token)
    once = read_again(desk, look_at(desk, "a.csv", HALF.encode(), "S").token, Change(join="replace_months"))
    keep(desk, once.token, seen=True)
    source = desk.sources.named("S")
    assert source is not None
    assert source.recipe.join == "add"
    more = JUNE.replace("2026-06", "2026-07").replace(",k", ",j").replace(",jey", ",key")
    always = read_again(
        desk, look_at(desk, "b.csv", more.encode(), "S").token, Change(join="replace_months", always=True)
    )
    keep(desk, always.token)
    source = desk.sources.named("S")
    assert source is not None
    assert (source.recipe.join, source.recipe.held_over) == ("replace_months", 0.2)


def test_what_waits_says_what_each_way_would_do(desk: Desk) -> None:
    keep(desk, look_at(desk, "june.csv", JUNE.encode(), "S").token)
    found = outcome(desk, look_at(desk, "half.csv", HALF.encode(), "S"))
    ways = {way.join: (way.leave, bool(way.held), way.about) for way in found.ways}
    assert ways["add"] == (0, True, "")
    assert ways["replace_months"] == (60, True, "June 2026")
    assert ways["update"] == (30, False, "")
    assert next(way.join_by for way in found.ways if way.join == "update") == ("key",)


def test_the_command_refuses_what_is_held_until_it_is_told(desk: Desk, tmp_path: Any) -> None:
    keep(desk, look_at(desk, "june.csv", JUNE.encode(), "S").token)
    (tmp_path / "half.csv").write_text(HALF)
    with pytest.raises(HeldError, match=r"half.csv: held, nothing was brought in: 30 of its 30"):
        bring_in_file(desk, tmp_path / "half.csv", "S")
    assert not desk.waiting
    bring_in_file(desk, tmp_path / "half.csv", "S", seen=True)
    assert records(desk) == 90


def test_a_key_can_be_chosen_where_none_tells_all_records_apart(desk: Desk) -> None:
    keep(desk, look_at(desk, "a.csv", b"day,shop,n\n2026-05-01,a,1\n2026-05-01,a,1\n2026-05-01,b,2\n", "S").token)
    token = look_at(desk, "b.csv", b"day,shop,n\n2026-05-01,a,9\n2026-05-01,a,8\n", "S").token
    found = outcome(desk, read_again(desk, token, Change(join="update")))
    assert "needs key columns" in found.problem
    assert next(way.join_by for way in found.ways if way.join == "update") == ()
    chosen = outcome(desk, read_again(desk, token, Change(join="update", join_by=["shop"])))
    assert (chosen.problem, chosen.replaced, chosen.repeated) == ("", 2, ("a",))


def test_months_are_those_of_the_date_that_the_join_goes_by(desk: Desk) -> None:
    keep(desk, look_at(desk, "a.csv", b"due,paid,n\n2026-01-01,2026-05-01,1\n2026-02-01,2026-05-02,2\n", "S").token)
    token = look_at(desk, "b.csv", b"due,paid,n\n2026-03-01,2026-05-01,7\n", "S").token
    found = outcome(desk, read_again(desk, token, Change(join="replace_months", join_by=["paid"])))
    assert [(line.month, line.now, line.leave, line.come) for line in found.months] == [("May 2026", 2, 2, 1)]


def test_a_name_that_is_held_and_refused_is_dealt_with_one_by_one(desk: Desk) -> None:
    dropped(desk, HALF)
    folder = folder_of(desk, "S")
    assert folder is not None
    (folder / "june-again.csv").write_text("no,such,columns\n1,2,3\n")
    DropFolders(desk).look(at_once=True)
    state = folder_state(desk, "S")
    assert state is not None
    assert ([one.file for one in state.held], [one.file for one in state.troubles]) == (["june-again.csv"], ["june-again (2).csv"])  # fmt: skip


@pytest.mark.parametrize("seed", range(5))
def test_what_replacing_by_key_would_do_is_what_it_does(desk: Desk, seed: int) -> None:
    rng = Random(seed)

    def lines(count: int) -> list[str]:
        keys = [rng.choice([f"k{n}" for n in range(9)] + [""]) for _ in range(count)]
        return [f"2026-06-{1 + rng.randrange(3):02},{key},{rng.randrange(2)}" for key in keys]

    before, came = lines(20), lines(12)
    for text in (before, came):
        text[0] = "2026-06-01,k0,0"
    keep(desk, look_at(desk, "a.csv", "\n".join(["day,key,n", *before]).encode(), "S").token)
    waiting = look_at(desk, "b.csv", "\n".join(["day,key,n", *came]).encode(), "S")
    found = outcome(desk, read_again(desk, waiting.token, Change(join="update", join_by=["key"])))
    known = {line.split(",")[1] for line in before} - {""}
    want = {"new": [x for x in came if x.split(",")[1] not in known]}
    want["same"] = [x for x in came if x in before and x not in want["new"]]
    want["changed"] = [x for x in came if x not in before and x not in want["new"]]
    assert {line.what: line.come for line in found.keys} == {what: len(some) for what, some in want.items()}
    assert sum(line.leave for line in found.keys) == found.replaced
    assert next(line.leave for line in found.keys if line.what == "same") == sum(x in want["same"] for x in before)
