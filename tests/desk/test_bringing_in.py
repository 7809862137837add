"""Imports: joining existing records, made columns, mended lines, drop folders, summaries, and work that is cancelled or
killed."""

import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest
from pydantic import TypeAdapter

from kalendor.definitions.kinds import definition
from kalendor.definitions.report import MadeColumn
from kalendor.desk import bringing_in
from kalendor.desk.bringing_in import Change, keep, leave, look_at, look_at_held, read_again, refused_file
from kalendor.desk.desk import Desk
from kalendor.desk.drop_folder import DropFolders
from kalendor.desk.jobs import Jobs
from kalendor.desk.made import tried
from kalendor.desk.outcomes import outcome
from kalendor.desk.proposals import proposals
from kalendor.desk.records import complete, note_on
from kalendor.desk.summaries import fresh_sheet, keep_summary, refreshed
from kalendor.desk.uploads import hold
from kalendor.errors import DefinitionError, IntakeError
from kalendor.output.numbers import texts

KILLS = int(os.environ.get("KALENDOR_KILLS", "3"))
MAY = "day,key,n\n2026-05-01,a,1\n2026-05-02,b,2\n"
JUNE = "day,key,n\n2026-06-01,c,3\n2026-06-02,d,4\n"
JUNE_AGAIN = "day,key,n\n2026-06-01,c,30\n2026-06-02,d,40\n2026-06-02,e,50\n"


def bring(desk: Desk, text: str, name: str = "f.csv", source: str = "S", **change: Any) -> Any:
    waiting = look_at(desk, name, text.encode(), source)
    return keep(desk, read_again(desk, waiting.token, Change(**change)).token, seen=True)


def column(desk: Desk, name: str, source: str = "S") -> list[str]:
    found = desk.sources.named(source)
    assert found is not None
    return texts(complete(desk, found).records.columns[name])


def columns(*made: Any) -> list[MadeColumn]:
    return TypeAdapter(list[MadeColumn]).validate_python(list(made))


@pytest.mark.parametrize(
    ("change", "want"),
    [
        ({"join": "add"}, ["1", "2", "3", "4", "30", "40", "50"]),
        ({"join": "replace_dates"}, ["1", "2", "30", "40", "50"]),
        ({"join": "replace_all"}, ["30", "40", "50"]),
        ({"join": "update", "join_by": ["key"]}, ["1", "2", "30", "40", "50"]),
    ],
)
def test_how_a_file_joins_what_is_there_and_its_undoing(desk: Desk, change: Any, want: list[str]) -> None:
    bring(desk, MAY)
    bring(desk, JUNE)
    _, intake = bring(desk, JUNE_AGAIN, **change)
    assert column(desk, "n") == want
    desk.intakes.undo(intake.id, desk.now())
    assert column(desk, "n") == ["1", "2", "3", "4"]
    desk.intakes.redo(intake.id)
    assert column(desk, "n") == want
    (folder,) = list(desk.workspace.cache.iterdir())
    for file in folder.iterdir():
        file.unlink()
    desk.sources._opened.clear()
    assert column(desk, "n") == want


def test_undoing_the_earlier_of_two_replacements_brings_nothing_back(desk: Desk) -> None:
    bring(desk, JUNE)
    _, first = bring(desk, JUNE_AGAIN, join="replace_dates")
    bring(desk, "day,key,n\n2026-06-01,c,300\n2026-06-02,d,400\n", join="replace_dates")
    desk.intakes.undo(first.id, desk.now())
    assert column(desk, "n") == ["300", "400"]


def test_the_preview_says_what_is_here_and_what_would_go(desk: Desk) -> None:
    bring(desk, JUNE)
    waiting = look_at(desk, "g.csv", b"day,key,n\n2026-06-01,c,3\n2026-06-02,d,9\n2026-06-02,d,9\n", "S")
    assert (outcome(desk, waiting).here, outcome(desk, waiting).replaced, outcome(desk, waiting).doubled) == (1, 0, 1)
    asked = read_again(desk, waiting.token, Change(join="replace_dates"))
    assert outcome(desk, asked).replaced == 2
    assert "needs key columns" in outcome(desk, read_again(desk, waiting.token, Change(join="update"))).problem


def test_the_recipe_is_applied_unasked_to_each_later_file(desk: Desk) -> None:
    waiting = look_at(desk, "f.csv", b"when,n\n03/04/2025,1\n", "S")
    told = {"when": waiting.reading.recipe.columns["when"].model_copy(update={"format": "%m/%d/%Y"})}
    keep(desk, read_again(desk, waiting.token, Change(columns=told)).token)
    bring(desk, "N,When\n2,05/06/2025\n")
    assert column(desk, "when") == ["2025-03-04", "2025-05-06"]


def test_an_added_column_is_offered_and_once_left_out_stays_out(desk: Desk) -> None:
    bring(desk, MAY)
    more = "day,key,n,clerk\n2026-06-01,c,3,ann\n"
    waiting = look_at(desk, "g.csv", more.encode(), "S")
    assert outcome(desk, waiting).added == ("clerk",)
    keep(desk, read_again(desk, waiting.token, Change(take_added=False)).token)
    again = look_at(desk, "h.csv", more.replace("ann", "bob").encode(), "S")
    assert outcome(desk, again).added == ()
    assert column(desk, "n") == ["1", "2", "3"]


def test_an_added_column_that_is_taken_in_is_blank_before(desk: Desk) -> None:
    bring(desk, MAY)
    _, intake = bring(desk, "day,key,n,clerk\n2026-06-01,c,3,ann\n")
    assert column(desk, "clerk") == ["", "", "ann"]
    desk.intakes.undo(intake.id, desk.now())
    assert column(desk, "clerk") == ["", ""]


def test_refused_lines_are_taken_away_mended_and_stay_in_the_tie_out(desk: Desk) -> None:
    rows = "".join(f"2026-05-01,{i}\n" for i in range(30))
    source, intake = bring(desk, f"day,n\n{rows}2026-05-02,x\n2026-05-03\n")
    assert refused_file(desk, intake.id).decode() == "day,n\n2026-05-02,x\n2026-05-03\n"
    mended = look_at(desk, "mended.csv", b"day,n\n2026-05-02,7\n2026-05-03,8\n", "S", mends=intake.id)
    keep(desk, mended.token)
    assert desk.intakes.refused_count(source) == (2, 2, 0)
    assert column(desk, "n")[-2:] == ["7", "8"]
    report = definition(
        {"kalendor": 1, "kind": "report", "title": "t", "source": "S", "figures": [{"name": "c", "take": "count"}]}, "t"
    )
    tie = fresh_sheet(desk, report)[1].tie_out  # type: ignore[arg-type]
    assert (tie.read, tie.refused, tie.mended) == (32, 2, 2)


def test_made_columns_and_look_ups_never_change_what_came(desk: Desk) -> None:
    source, _ = bring(desk, "code,gross,off\nA,10.00,1.00\nB,5.00,\nZ,2.00,\n")
    bring(desk, "id,name\nA,Alpha\nB,Beta\nB,Beta again\n", "codes.csv", "Codes")
    look_up = {"name": "label", "lookup": {"source": "Codes", "match": {"code": "id"}, "take": "name"}}
    made = columns({"name": "net", "formula": "gross - off"}, look_up)
    desk.sources.save_made(source, made)
    assert column(desk, "net") == ["9.00", "", ""]
    assert column(desk, "label") == ["Alpha", "Beta", ""]
    now = desk.sources.one(source.id)
    records = complete(desk, now).records
    assert note_on(desk, records, made[0]).blank_amounts == 2
    note = note_on(desk, records, made[1])
    assert (note.unmatched, note.repeated) == (1, 1)
    assert list(desk.sources.records(now).columns) == ["code", "gross", "off"]
    with pytest.raises(DefinitionError, match="made column 'x': in 'nope \\+ 1': there is no 'nope'"):
        tried(desk, now, [], columns({"name": "x", "formula": "nope + 1"})[0])


def test_look_ups_that_go_in_a_circle_are_refused(desk: Desk) -> None:
    a, _ = bring(desk, "k,v\n1,2\n", source="A")
    b, _ = bring(desk, "k,w\n1,2\n", source="B")
    desk.sources.save_made(a, columns({"name": "w", "lookup": {"source": "B", "match": {"k": "k"}, "take": "w"}}))
    desk.sources.save_made(b, columns({"name": "v", "lookup": {"source": "A", "match": {"k": "k"}, "take": "v"}}))
    with pytest.raises(DefinitionError, match="in a circle: A → B → A"):
        complete(desk, desk.sources.one(a.id))


def test_a_summary_follows_its_report(desk: Desk) -> None:
    bring(desk, MAY)
    report = {"kalendor": 1, "kind": "report", "title": "By key", "source": "S", "down": [{"category": "key"}],
              "figures": [{"name": "sum", "take": "sum", "of": "n"}], "totals": {"grand_down": "none"}}  # fmt: skip
    stored = desk.definitions.add(definition(report, "t"), desk.now())
    summary = keep_summary(desk, stored.id, "Summary")
    assert column(desk, "sum", "Summary") == ["1", "2"]
    bring(desk, JUNE)
    assert refreshed(desk, summary).revision > summary.revision
    assert column(desk, "sum", "Summary") == ["1", "2", "3", "4"]
    with pytest.raises(IntakeError, match="a report's summary"):
        look_at(desk, "f.csv", MAY.encode(), "Summary")


def test_files_in_a_drop_folder_are_brought_in_once_they_are_whole(desk: Desk) -> None:
    bring(desk, MAY)
    folders = DropFolders(desk)
    folders.make()
    folder = folders.root / "S"
    (folder / "june.csv").write_text(JUNE)
    (folder / "wrong.csv").write_text("day,key\n2026-06-01,c\n")
    (folder / "half.csv.part").write_text("day")
    assert folders.look() == []
    assert [(d.file, bool(d.reason)) for d in folders.look()] == [("june.csv", False), ("wrong.csv", True)]
    assert column(desk, "n") == ["1", "2", "3", "4"]
    assert (folder / "done" / "june.csv").exists()
    assert "'n' is missing" in (folder / "held" / "wrong.csv.reason.txt").read_text()
    assert (folder / "half.csv.part").exists()


def test_work_that_is_stopped_leaves_nothing(desk: Desk) -> None:
    bring(desk, MAY)
    rows = "".join(f"2026-06-01,k{i},{i}\n" for i in range(60_000))
    waiting = look_at(desk, "big.csv", f"day,key,n\n{rows}".encode(), "S")

    def work(job: Any) -> int:
        job.stop.set()
        return keep(desk, waiting.token, progress=job.progress)[0].id

    job = Jobs().start(60_000, work, desk.workspace.close)
    assert job.finished.wait(30)
    assert (job.state, job.message) == ("stopped", "stopped; nothing was kept")
    assert column(desk, "n") == ["1", "2"]


def test_reading_that_is_stopped_leaves_nothing(desk: Desk) -> None:
    held = hold(desk, [MAY.encode()])

    def work(job: Any) -> str:
        job.stop.set()
        return look_at_held(desk, "may.csv", held, "S", so_far=job.read_so_far).token

    job = Jobs().start(0, work, desk.workspace.close)
    assert job.finished.wait(30)
    assert (job.state, job.total) == ("stopped", 2)
    assert list(desk.workspace.files.iterdir()) == []


def test_a_file_that_is_left_is_held_while_the_same_content_waits_elsewhere(desk: Desk) -> None:
    first, second = (look_at(desk, name, MAY.encode(), "S") for name in ("a.csv", "b.csv"))
    leave(desk, first.token)
    assert keep(desk, second.token)[1].records == 2
    assert (desk.workspace.files / second.sha256).read_bytes() == MAY.encode()


CHILD = """
import sys
from pathlib import Path
from kalendor.desk import bringing_in
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.desk import Desk
desk = Desk(Path(sys.argv[1]))
rows = "".join(f"2026-05-{1 + i % 28:02d},k{i},{i}\\n" for i in range(40_000))
waiting = look_at(desk, "big.csv", f"day,key,n\\n{rows}".encode(), "S")
print("ready", flush=True)
keep(desk, read_again(desk, waiting.token, Change(join="replace_dates")).token)
print("kept", flush=True)
"""


def test_a_process_killed_at_any_moment_leaves_the_source_before_or_after(tmp_path: Path) -> None:
    chance = random.Random(3)
    for round_ in range(KILLS):
        folder = tmp_path / str(round_)
        bring(Desk(folder), MAY)
        child = subprocess.Popen([sys.executable, "-c", CHILD, str(folder)], stdout=subprocess.PIPE, text=True)
        assert child.stdout is not None
        assert child.stdout.readline() == "ready\n"
        time.sleep(chance.uniform(0, 0.45))
        os.kill(child.pid, signal.SIGKILL)
        child.wait()
        desk = Desk(folder)
        count = len(column(desk, "n"))
        assert count in (2, 40_000)
        assert desk.workspace.db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        standing = desk.intakes.of(desk.sources.all()[0])
        assert len(standing) == (1 if count == 2 else 2)
        bring(desk, JUNE)


def test_of_too_many_files_that_wait_the_oldest_are_let_go(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bringing_in, "MOST_WAITING", 2)
    first, *others = [look_at(desk, f"{n}.csv", f"k,n\na,{n}\n".encode(), "Counts") for n in range(3)]
    with pytest.raises(IntakeError, match="no longer waiting"):
        keep(desk, first.token)
    assert not (desk.workspace.files / first.sha256).exists()
    for other in others:
        keep(desk, other.token)
    assert desk.sources.records(desk.sources.all()[0]).count == 2


def test_a_file_that_is_being_kept_is_not_let_go(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bringing_in, "MOST_WAITING", 1)
    found = look_at(desk, "may.csv", MAY.encode(), "Counts")

    def others_come(_: int) -> None:
        look_at(desk, "june.csv", JUNE.encode(), "Other")

    keep(desk, found.token, progress=others_come)
    assert (desk.workspace.files / found.sha256).exists()
    assert [waiting.file_name for waiting in desk.waiting.values()] == ["june.csv"]


def test_two_columns_of_categories_are_proposed_one_under_the_other(desk: Desk) -> None:
    lines = "".join(f"2026-0{1 + n % 6}-01,{'xyz'[n % 3]},{'pq'[n % 2]},{n}.50\n" for n in range(24))
    bring(desk, f"day,area,route,gross\n{lines}")
    source = desk.sources.named("S")
    assert source is not None
    downs = [one.report.down for one in proposals(desk, source)]
    assert max(len(down) for down in downs) == 2
