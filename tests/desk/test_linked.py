"""Linked sources: their sheets and trails equal those of the same files imported, whatever files come and go."""

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.api.trail_view import records_view, trail_view
from kalendor.core.sheet.plain import plain
from kalendor.core.trail.cell import Cell
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import FormulaColumn, LookupColumn, Report
from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import now
from kalendor.desk.linked import looking, sheets, spread
from kalendor.desk.linked.looking import link, look, since
from kalendor.desk.linked.sheets import UnreadError, on_screen
from kalendor.desk.sheets import sheet_now
from kalendor.desk.spreading import Progress, Spreading
from kalendor.desk.trails import trail_in
from kalendor.errors import KalendorError, WriteRefusedError
from kalendor.intake import specimen
from tests.desk.test_partitioned import REPORT, lines, parquet_of, text_of, threads

LISTED: dict[str, Any] = {
    **REPORT, "columns": [], "down": [{"category": "store"}], "records": {"columns": ["net"], "order": ["on"]},
    "figures": [{"name": "n", "take": "count"}, {"name": "net", "take": "sum", "of": "net"}],
}  # fmt: skip
AGED: dict[str, Any] = {
    **REPORT, "columns": [], "down": [{"age": "on", "cut": [30, 90]}], "across": [], "only": ["on IS NOT NULL"],
    "figures": [{"name": "n", "take": "count"}, {"name": "net", "take": "sum", "of": "net"}, {"name": "big", "take": "count", "where": "net > 50"}],
}  # fmt: skip
BESIDE: dict[str, Any] = {
    **REPORT, "columns": [], "beside": [{"source": "names", "match": {"store": "code", "on": "day", "net": "planned"}}],
    "down": [{"category": "store"}],
    "figures": [{"name": "net", "take": "sum", "of": "net"}, {"name": "planned", "take": "sum", "of": "net", "source": "names"}],
}  # fmt: skip


OF_MADE: dict[str, Any] = {
    **REPORT, "columns": [], "down": [{"category": "called"}], "only": [],
    "figures": [{"name": "half", "take": "sum", "of": "half"}, {"name": "n", "take": "count", "where": "half > 10"}],
}  # fmt: skip
MADE = [
    FormulaColumn(name="double", formula="net * 2"),
    FormulaColumn(name="half", formula="double / 4"),
    FormulaColumn(name="unused", formula="qty + 1"),
    LookupColumn.model_validate(
        {"name": "called", "lookup": {"source": "names", "match": {"store": "code"}, "take": "name"}}
    ),
]


def report(body: dict[str, Any], source: str) -> Report:
    found = definition({**body, "source": source}, "test")
    assert isinstance(found, Report)
    return found


def brought(desk: Desk, name: str, path: Path) -> None:
    keep(desk, look_at(desk, path.name, path.read_bytes(), name).token)


def put(folder: Path, name: str, records: list[str], group: int = 20) -> None:
    path = folder / name
    path.parent.mkdir(parents=True, exist_ok=True)
    before = path.stat().st_mtime_ns if path.exists() else 0
    parquet_of(records, path, group) if name.endswith(".parquet") else path.write_text(text_of(records))
    os.utime(path, ns=(before + 10**9, before + 10**9))


@contextmanager
def by_threads(progress: Progress) -> Iterator[Spreading]:
    with threads() as found:
        found.progress = progress
        yield found


@contextmanager
def small_parts(least: int = 400) -> Iterator[None]:
    """Context in which files are split into partitions of few bytes, and specimens have few records."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(looking, "PART_BYTES", least)
        patch.setattr(spread, "HERE_BYTES", 1500)
        patch.setattr(specimen, "FIRST", 3)
        yield


def said(desk: Desk, body: dict[str, Any], source: str) -> Any:
    """A complete sheet and the trails of some of its numbers, or the message of its refusal."""
    found = report(body, source)
    try:
        _, sheet = sheet_now(desk, found)
    except KalendorError as error:
        return str(error)
    trails = []
    with desk.workspace.snapshot():
        ingredients = now(desk, found)
        for figure in sheet.figures[:3]:
            for at in {0, sheet.lines.count - 1}:
                trail = trail_in(desk, ingredients, sheet, Cell(figure.name, at, 0))
                view = trail_view(trail).model_dump(exclude={"bars"})
                parts = [part["name"] for part in view["parts"]]
                every = [records_view(trail, part, 0, 7, None, False, "").model_dump() for part in parts]
                every += [records_view(trail, part, 2, 5, "net", True, "1").model_dump() for part in parts[:1]]
                trails.append((view, every))
    return plain(sheet), asdict(sheet.tie_out), trails


def same(found: Any, wanted: Any) -> None:
    """Assert that two results of `said` are equal, showing the first difference."""
    if isinstance(found, dict) and isinstance(wanted, dict) and found.keys() == wanted.keys():
        for name in found:
            same(found[name], wanted[name])
    elif isinstance(found, list | tuple) and isinstance(wanted, list | tuple) and len(found) == len(wanted):
        for one, other in zip(found, wanted, strict=True):
            same(one, other)
    else:
        assert found == wanted


@settings(max_examples=int(os.environ.get("KALENDOR_EXAMPLES", "20")) // 10)
@given(st.data())
def test_a_linked_folder_gives_the_sheets_and_trails_of_its_files_brought_in(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    root = tmp_path_factory.mktemp("linked")
    (root / "names.csv").write_text("code,name,day,planned\nNorth,Up,2025-02-03,12.50\nW,Left,2025-03-04,99.00\n")
    ending = data.draw(st.sampled_from(["csv", "parquet"]))
    files = {f"{k}.{ending}": lines(data.draw(st.integers(2, 40)), k) for k in range(data.draw(st.integers(1, 4)))}
    for name, records in files.items():
        put(root / "data", name, records, data.draw(st.integers(5, 30)))
    bodies = data.draw(st.lists(st.sampled_from([REPORT, LISTED, AGED, BESIDE]), min_size=1, max_size=2))
    with small_parts(data.draw(st.sampled_from([400, 1 << 20]))):
        linked = Desk(root / "linked")
        linked.link_from, linked.spread_over = (root,), by_threads
        brought(linked, "names", root / "names.csv")
        source = link(linked, "Sales", str(root / "data"), "**/*")
        made = data.draw(st.sampled_from([[], MADE]))
        linked.sources.save_made(source, made)
        for step in range(data.draw(st.integers(1, 3))):
            if step:
                what = data.draw(st.sampled_from(["came", "changed", "gone", "none"]))
                name = f"9{step}.{ending}" if what == "came" else data.draw(st.sampled_from(sorted(files)))
                if what == "gone" and len(files) > 1:
                    (root / "data" / name).unlink()
                    del files[name]
                elif what in ("came", "changed"):
                    files[name] = lines(data.draw(st.integers(2, 40)), 10 + step)
                    put(root / "data", name, files[name])
                look(linked, linked.sources.one(source.id))
            kept = Desk(root / f"kept{step}")
            brought(kept, "names", root / "names.csv")
            for name in sorted(files):
                brought(kept, "Sales", root / "data" / name)
            kept.sources.save_made(kept.sources.named("Sales"), made)  # type: ignore[arg-type]
            for body in [*bodies, *([OF_MADE] if made else [])]:
                same(said(linked, body, "Sales"), said(kept, body, "Sales"))
            facts = linked.linked.of(source.id)
            assert facts is not None
            records = kept.sources.records(kept.sources.all()[0 if kept.sources.all()[0].name == "Sales" else 1])
            assert facts.facts.records == records.count
            kept.workspace.close()
            if data.draw(st.booleans()):
                shutil.rmtree(root / "linked" / "cache" / "linked", ignore_errors=True)
                linked.memory.clear(), linked.plans.clear(), linked.sheets.clear()
        linked.workspace.close()


def test_a_process_that_only_reads_hands_back_what_has_to_be_read_first(tmp_path: Path) -> None:
    put(tmp_path / "data", "0.csv", lines(20, 1))
    desk = Desk(tmp_path / "workspace")
    desk.link_from, desk.spread_over = (tmp_path,), by_threads
    link(desk, "Sales", str(tmp_path / "data"), "**/*")
    body = report({**LISTED, "records": None}, "Sales")
    reading = Desk(tmp_path / "workspace", reads_only=True)
    with pytest.raises(WriteRefusedError):
        sheet_now(reading, body)
    with on_screen(), pytest.MonkeyPatch.context() as patch:
        patch.setattr(sheets, "SOON_BYTES", 0)
        with pytest.raises(UnreadError) as unread:
            sheet_now(desk, body)
    unread.value.read(lambda done, total: None)
    with on_screen():
        assert plain(sheet_now(reading, body)[1]) == plain(sheet_now(desk, body)[1])


def test_numbers_are_explained_though_what_was_kept_is_gone(tmp_path: Path) -> None:
    for at in range(3):
        put(tmp_path / "data", f"{at}.csv", lines(20, at))
    desk = Desk(tmp_path / "workspace")
    desk.link_from, desk.spread_over = (tmp_path,), by_threads
    link(desk, "Sales", str(tmp_path / "data"), "**/*")
    wanted = said(desk, {**LISTED, "records": None}, "Sales")
    assert len(wanted[2]) == 4
    for kept in desk.parts.folder.glob("??/*"):
        kept.unlink()
    assert said(desk, {**LISTED, "records": None}, "Sales") == wanted


def test_files_of_one_content_are_read_once_and_a_touched_one_not_again(tmp_path: Path) -> None:
    for name in ("a.csv", "b.csv"):
        put(tmp_path / "data", name, lines(20, 1))
    desk = Desk(tmp_path / "workspace")
    desk.link_from, desk.spread_over = (tmp_path,), by_threads
    source = link(desk, "Sales", str(tmp_path / "data"), "**/*")
    assert [f.records for f in desk.linked.files(source.id)] == [20, 20]
    (tmp_path / "data" / "_SUCCESS").write_text("")
    put(tmp_path / "data", "b.csv", lines(20, 1))
    assert since(desk, source).said == "1 file changed"
    assert not look(desk, source)
    assert not since(desk, source)
    assert len(desk.intakes.of(source)) == 1, "a look that finds the same content is none"
