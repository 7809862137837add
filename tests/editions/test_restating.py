"""Editions whose numbers moved: issued again or accepted, with a permanent note; and verification of their chain from
outside."""

import os
import re
import subprocess
import sys
from pathlib import Path
from random import Random

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.editions.board import board
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.restating import leave_as_they_are, restate
from kalendor.desk.editions.standing import standing
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError
from kalendor.store.editions import Edition
from tests.browser.conftest import serving
from tests.desk.test_bringing_in import bring
from tests.editions.conftest import HEAD, REPORT, Office
from tests.editions.test_board import checks

MONTHS = ("2026-05", "2026-06", "2026-07")


def late(office: Office, month: str, amount: str) -> None:
    bring(office.desk, f"{HEAD}{month}-15,kx,{amount}\n", f"late-{month}-{amount}.csv", "Sales", join="add")


def needs(office: Office, edition: Edition) -> bool | None:
    return standing(office.desk, [edition])[edition.id].needs


@pytest.mark.parametrize("seed", range(6))
def test_what_needs_somebody_is_what_moved_since_it_was_issued_or_last_left(office: Office, seed: int) -> None:
    """State machine: late records, corrections without effect, and editions issued again or accepted, beside a simple
    model: for each month the number of its latest edition, the one last accepted, and the current one."""
    rng = Random(seed)
    latest = {month: office.issue(month).edition for month in MONTHS}
    now = dict.fromkeys(MONTHS, 0)
    said, left = dict(now), dict[str, int | None].fromkeys(MONTHS)
    for step in range(14):
        month = rng.choice(MONTHS)
        match rng.choice(["late", "back", "left", "again", "note"]):
            case "late":
                by = rng.choice([1, 2])
                late(office, month, f"{by}.{step:02}")
                now[month] += by * 100 + step
            case "back":
                intakes = [
                    i for i in office.desk.intakes.of(office.desk.sources.one(1)) if f"late-{month}" in i.file_name
                ]
                if intakes and not intakes[0].undone_at:
                    office.desk.intakes.undo(intakes[0].id, office.now)
                    now[month] -= round(float(intakes[0].file_name.removesuffix(".csv").rsplit("-", 1)[1]) * 100)
            case "left":
                (dealt,) = leave_as_they_are(office.desk, [latest[month].id], f"small, {step}")
                assert bool(dealt.reason) == (now[month] == said[month])
                left[month] = left[month] if dealt.reason else now[month]
            case "again":
                (dealt,) = restate(office.desk, [latest[month].id], f"late sales, {step}")
                assert (dealt.restated is None) == (now[month] == said[month]), dealt.reason
                if dealt.restated is not None:
                    latest[month], said[month], left[month] = dealt.restated, now[month], None
                    assert opened(office.desk, dealt.restated.id).document["why"] == f"late sales, {step}"
            case "note":
                office.report(notes=[{"text": f"a note {step}"}])
                assert not office.issue(month).fresh or now[month] != said[month]
                latest[month] = office.issue(month).edition
                left[month] = left[month] if now[month] == said[month] else None
                said[month] = now[month]
        for each in MONTHS:
            wanted = now[each] != said[each] and now[each] != left[each]
            assert needs(office, latest[each]) is wanted, (step, each, now, said, left)


def test_the_board_counts_what_was_not_left_and_the_checks_name_the_line(office: Office) -> None:
    editions = [office.issue(month).edition for month in MONTHS[:2]]
    for month in MONTHS[:2]:
        late(office, month, "1.00")
    assert ("two issued editions have moved since", False) in board(office.desk, work=9).said()
    leave_as_they_are(office.desk, [editions[1].id], "one late ticket")
    assert ("one issued edition has moved since", False) in board(office.desk).said()
    assert checks(office)["moved"] == ("ok", "Jun 2026 has moved and was left as it is: one late ticket")
    late(office, "2026-06", "0.50")
    assert checks(office)["moved"][0] == "look"


@pytest.mark.parametrize("why", ["", "  ", "x" * 301])
def test_a_line_is_asked_for(office: Office, why: str) -> None:
    edition = office.issue("2026-06").edition
    for how in (restate, leave_as_they_are):
        with pytest.raises(DefinitionError, match="say why"):
            how(office.desk, [edition.id], why)
        with pytest.raises(MissingError):
            how(office.desk, [edition.id, 99], "why")


def test_what_cannot_be_restated_says_why_and_the_others_are(office: Office) -> None:
    may, june = office.issue("2026-05").edition, office.issue("2026-06").edition
    late(office, "2026-06", "1.00")
    done = restate(office.desk, [june.id, may.id], "late")
    assert [(one.edition.id, one.restated is not None, one.reason) for one in done] == [
        (may.id, False, "it has not moved"), (june.id, True, ""),
    ]  # fmt: skip
    office.report(cadence={**REPORT["cadence"], "every": "quarter"})
    (left,) = restate(office.desk, [may.id], "late")
    assert "no longer has the period May 2026" in left.reason


def test_over_http(office: Office) -> None:
    api = TestClient(create_app(office.desk))
    june = office.issue("2026-06").edition
    late(office, "2026-06", "1.00")
    body = {"editions": [june.id], "why": "agreed with finance"}
    assert api.post("/api/board/left", json=body).json()[0]["reason"] == ""
    assert api.get(f"/api/editions/{june.id}").json()["as_is"] == "agreed with finance"
    (done,) = api.post("/api/board/restate", json=body).json()
    assert api.get(f"/api/editions/{done['edition']}").json()["line"] == "agreed with finance"
    assert api.post("/api/board/restate", json={**body, "why": " "}).status_code == 422


def test_the_chain_is_verified_by_the_lines_of_the_docs(office: Office, tmp_path: Path) -> None:
    for month in MONTHS:
        office.issue(month)
    late(office, "2026-06", "1.00")
    last = office.issue("2026-06").edition
    page = (Path(__file__).parents[2] / "docs" / "editions.md").read_text()
    (lines,) = re.findall(r"```python\n(.*?)```", page, re.DOTALL)
    folder = office.desk.workspace.folder

    def verified() -> subprocess.CompletedProcess[str]:
        address = next(server)
        return subprocess.run(
            [sys.executable, "-c", lines],
            env={**os.environ, "KALENDOR": address},
            capture_output=True,
            text=True,
            check=False,
        )

    server = serving(folder)
    done = verified()
    next(server, None)
    assert done.stdout.strip().endswith(last.sha256), done.stderr
    with office.desk.workspace.change() as db:
        db.execute("DROP TRIGGER edition_never_goes")
        db.execute("DELETE FROM edition_source WHERE edition_id = 2")
        db.execute("DELETE FROM edition WHERE id = 2")
    server = serving(folder)
    done = verified()
    next(server, None)
    assert "the chain breaks before 2" in done.stderr
