"""Linked sources read by processes of this machine and by workers of a cluster: the same sheets, even if a worker
dies."""

import os
import signal
from functools import partial
from pathlib import Path
from typing import Any

import pytest

from kalendor.desk.desk import Desk
from kalendor.desk.linked import looking, sheets, spread, work
from kalendor.desk.linked.looking import link
from kalendor.desk.spreading import by_cores, cluster
from kalendor.errors import IntakeError
from kalendor.intake.partitions import Partition
from tests.desk.test_linked import BESIDE, REPORT, brought, by_threads, put, said
from tests.desk.test_partitioned import lines


def desk_over(folder: Path, name: str, spread_over: Any) -> Desk:
    desk = Desk(folder / name)
    desk.link_from, desk.spread_over = (folder,), spread_over
    brought(desk, "names", folder / "names.csv")
    link(desk, "Sales", str(folder / "data"), "**/*")
    return desk


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, forked: None) -> Path:
    monkeypatch.setattr(spread, "HERE_BYTES", 0)
    monkeypatch.setattr(sheets, "partial_in", dies_at_first)
    (tmp_path / "names.csv").write_text("code,name,day,planned\nNorth,Up,2025-02-03,12.50\nW,Left,2025-03-04,99.00\n")
    for at in range(4):
        put(tmp_path / "data", f"{at}.csv", lines(20, at))
    return tmp_path


def dies_at_first(asked: work.Work, part: Partition) -> Any:
    """The partial of a partition; the process that reads the third file first is killed."""
    seen = part.path.parent.parent / "killed"
    if part.path.name == "2.csv" and not seen.exists():
        seen.touch()
        os.kill(os.getpid(), signal.SIGKILL)
    return work.partial_in(asked, part)


def test_processes_read_what_threads_read_though_one_is_killed(folder: Path) -> None:
    (folder / "killed").touch()
    here = desk_over(folder, "here", by_threads)
    wanted = [said(here, body, "Sales") for body in (REPORT, BESIDE)]
    (folder / "killed").unlink()
    desk = desk_over(folder, "there", by_cores)
    assert [said(desk, body, "Sales") for body in (REPORT, BESIDE)] == wanted
    assert (folder / "killed").exists()


@pytest.mark.long
def test_the_workers_of_a_scheduler_read_the_same(folder: Path) -> None:
    from distributed import LocalCluster

    (folder / "killed").touch()
    wanted = said(desk_over(folder, "here", by_threads), REPORT, "Sales")
    (folder / "killed").unlink()
    with LocalCluster(n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None) as made:
        desk = desk_over(folder, "there", partial(cluster, made.scheduler_address))
        assert said(desk, REPORT, "Sales") == wanted
    assert (folder / "killed").exists()


def always_dies(manner: work.Manner, part: Partition) -> Any:
    """The specimen of a partition; the process that reads the second file is killed."""
    if part.path.name == "1.csv":
        os.kill(os.getpid(), signal.SIGKILL)
    return work.specimen_in(manner, part)


def test_a_file_that_ends_whoever_reads_it_ends_no_server(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Files that were never read are read in separate processes, however small."""
    monkeypatch.setattr(spread, "HERE_BYTES", 1 << 30)
    monkeypatch.setattr(looking, "specimen_in", always_dies)
    with pytest.raises(IntakeError, match=r"1\.csv: its worker failed 3 times"):
        desk_over(folder, "here", by_cores)
