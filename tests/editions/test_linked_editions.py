"""Editions over linked sources: they keep the digests of their files, and report files that changed since."""

from pathlib import Path

import pytest

from kalendor.api.trail_view import records_view, trail_view
from kalendor.core.trail.cell import Cell
from kalendor.desk.columns import rename_column
from kalendor.desk.editions.beneath import changed_beneath
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.trails import edition_trail
from kalendor.desk.linked.looking import link, look
from kalendor.errors import IntakeError
from kalendor.store.soundness import faults
from tests.desk.test_linked import by_threads, put
from tests.editions.conftest import Office

DAYS = [f"x,2026-06-{day:02},{day}.50,1" for day in range(1, 31)]


def test_an_edition_keeps_its_files_and_says_when_they_are_others(office: Office, tmp_path: Path) -> None:
    desk = office.desk
    folder = tmp_path / "exports"
    for name, days in (("a.csv", DAYS[:10]), ("b.csv", DAYS[10:])):
        put(folder, name, days)
    desk.link_from, desk.spread_over = (tmp_path,), by_threads
    link(desk, "Linked", str(folder), "**/*.csv")
    office.report(source="Linked", window={"of": "on", "show": {"this": "month"}}, down=[{"category": "store"}], across=[{"period": "on", "grains": ["month"]}],
                  figures=[{"name": "Net", "take": "sum", "of": "net"}])  # fmt: skip
    edition = office.issue("2026-06").edition
    found = opened(desk, edition.id)
    assert found.document["files"] == 2
    assert found.document["linked"]["folder"] == str(folder)
    assert (desk.workspace.files / found.document["linked"]["list"]).read_text().count('.csv"') == 2
    assert changed_beneath(desk, found) == ""
    assert not faults(desk.workspace.folder)

    rename_column(desk, desk.sources.named("Linked"), "net", "Amount")  # type: ignore[arg-type]
    desk.plans.clear()
    with desk.workspace.snapshot():
        trail = edition_trail(desk, opened(desk, edition.id), Cell("Net", 0, 0))
        assert records_view(trail, "", 0, 5, None, False, "").columns == ["store", "on", "net", "qty"]

    put(folder, "b.csv", DAYS[10:20])
    said = f"1 of its 2 files in {folder} changed or went since; their records can no longer be shown one by one"
    assert changed_beneath(desk, found) == said
    look(desk, desk.sources.all()[0] if desk.sources.all()[0].name == "Linked" else desk.sources.all()[1])
    assert changed_beneath(desk, found) == said
    with desk.workspace.snapshot():
        trail = edition_trail(desk, opened(desk, edition.id), Cell("Net", 0, 0))
        assert trail_view(trail).parts[0].records == 30  # what was kept of the file tells it still
        assert records_view(trail, "", 0, 5, None, False, "").records[0].file == "a.csv"
        with pytest.raises(IntakeError, match=r"b\.csv was changed since Linked was looked at"):
            records_view(trail, "", 0, 25, None, False, "")
    again = office.issue("2026-06")
    assert (again.fresh, again.edition.number) == (True, 2)
    assert opened(desk, edition.id).sheet.figures[0].cells.item(0) != opened(desk, again.edition.id).sheet.figures[
        0
    ].cells.item(0)
    assert not faults(desk.workspace.folder)
