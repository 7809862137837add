"""Reports computed partition by partition: the same bytes as in one pass, for any partitions, workers and failures."""

import gzip
import io
import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.sheet.plain import plain
from kalendor.definitions.kinds import definition
from kalendor.desk import partitioned
from kalendor.desk.files import Asked, Files, from_files
from kalendor.desk.partitioned import from_partitions, partial_of
from kalendor.desk.spreading import Spreading, _interrupted_afterwards, cluster, processes
from kalendor.errors import DefinitionError, IntakeError
from kalendor.intake.partitions import Partition

TODAY = date(2026, 8, 4)
MEMORY = 1 << 30
REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "R", "source": "sales",
    "columns": [{"name": "twice", "formula": "net * 2"}, {"name": "named", "lookup": {"source": "names", "match": {"store": "code"}, "take": "name"}}],
    "down": [{"category": "named"}, {"category": "store", "order": "first_seen"}],
    "across": [{"period": "on", "grains": ["year", "quarter"]}],
    "only": ["qty IS NULL OR qty > 1"],
    "figures": [
        {"name": "n", "take": "count"}, {"name": "net", "take": "sum", "of": "net"}, {"name": "twice", "take": "mean", "of": "twice"},
        {"name": "middle", "take": "median", "of": "net"}, {"name": "stores", "take": "distinct", "of": "store"},
        {"name": "last", "take": "last", "of": "qty", "by": "on"}, {"name": "before", "compare": "net", "with": "year_earlier"},
    ],
}  # fmt: skip


def lines(count: int, seed: int = 3) -> list[str]:
    """Records as delimited text: some without a number, some with a quoted store over two lines."""
    rng = np.random.Generator(np.random.PCG64(seed))
    stores = ["North", '"South\nand east"', "W", '"a ""b"""']
    return [
        f"{stores[int(rng.integers(4))]},{date(2024, 1, 1).fromordinal(date(2024, 1, 1).toordinal() + int(rng.integers(800)))},"
        f"{'' if rng.random() < 0.1 else int(rng.integers(-999, 9999)) / 100},{'' if rng.random() < 0.1 else int(rng.integers(5))}"
        for _ in range(count)
    ]


HEADING = "store,on,net,qty"


def text_of(records: list[str]) -> str:
    return "\n".join([HEADING, *records, ""])


def parquet_of(records: list[str], path: Path, group: int) -> None:
    read = pacsv.read_csv(
        io.BytesIO(text_of(records).encode()),
        parse_options=pacsv.ParseOptions(newlines_in_values=True),
        convert_options=pacsv.ConvertOptions(column_types={"net": pa.float64(), "qty": pa.int64(), "on": pa.date32()}),
    )
    pq.write_table(read, path, row_group_size=group)


@contextmanager
def threads(count: int = 2) -> Iterator[Spreading]:
    with ThreadPoolExecutor(count) as pool:
        yield Spreading(lambda: pool, count)


def written(folder: Path, report: dict[str, Any] = REPORT) -> Path:
    (folder / "names.csv").write_text("code,name\nNorth,Up\nW,Left\n")
    path = folder / "report.json"
    path.write_text(json.dumps(report))
    return path


def whole(folder: Path, data: list[Path], report: dict[str, Any] = REPORT) -> Any:
    files = from_files(written(folder, report), data, None, [], {"names": folder / "names.csv"})
    return said(files, None)


def in_parts(
    folder: Path, data: list[Path], spreading: Spreading, report: dict[str, Any] = REPORT, memory: int = MEMORY
) -> Any:
    written(folder, report)
    asked = Asked(definition(report, "test"), [], None)  # type: ignore[arg-type]
    files, as_of = from_partitions(
        asked, data, {"names": folder / "names.csv"}, None, TODAY, spreading, memory, worded=True
    )
    return said(files, as_of)


def said(files: Files, as_of: date | None) -> Any:
    given_ = files.handed(as_of, TODAY, True)
    return plain(given_.sheet), asdict(given_.sheet.tie_out), given_.headline, given_.told


PLAIN: dict[str, Any] = {
    **REPORT, "columns": [], "down": [{"category": "store"}],
    "figures": [{"name": "n", "take": "count"}, {"name": "net", "take": "sum", "of": "net"}, {"name": "before", "compare": "net", "with": "year_earlier", "as": "percent"}],
}  # fmt: skip


@given(st.data())
def test_any_files_in_any_parts_give_the_sheet_of_one_pass(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    folder = tmp_path_factory.mktemp("parts")
    records = lines(data.draw(st.integers(1, 120)), data.draw(st.integers(0, 9)))
    cuts = sorted(data.draw(st.sets(st.integers(1, len(records)), max_size=3)) | {len(records)})
    files = []
    for k, (a, b) in enumerate(zip([0, *cuts], cuts, strict=False)):
        kind = data.draw(st.sampled_from(["csv", "gz", "parquet"]))  # one beside the other
        path = folder / f"{k}.{kind}"
        files.append(path)
        if kind == "parquet":
            parquet_of(records[a:b], path, data.draw(st.integers(1, 50)))
        else:
            text = text_of(records[a:b]).encode()
            path.write_bytes(gzip.compress(text) if kind == "gz" else text)
    with pytest.MonkeyPatch.context() as patch, threads() as spreading:
        patch.setattr(partitioned, "LEAST", data.draw(st.sampled_from([200, 1000, 1 << 20])))
        patch.setattr(partitioned, "AT_ONCE", data.draw(st.integers(2, 4)))
        report = data.draw(st.sampled_from([REPORT, PLAIN]))
        assert in_parts(folder, files, spreading, report, memory=0) == whole(folder, files, report)


@pytest.fixture
def files(tmp_path: Path) -> list[Path]:
    found = [tmp_path / f"{k}.csv" for k in range(4)]
    for k, path in enumerate(found):
        path.write_text(text_of(lines(30, k)))
    return found


def dies_at_first(work: Any, part: Partition) -> Any:
    """The partial of a partition; the worker of the third is killed the first time."""
    mark = part.path.with_suffix(".seen")
    if part.number == 2 and not mark.exists():
        mark.touch()
        os.kill(os.getpid(), signal.SIGKILL)
    return partial_of(work, part)


def always_dies(work: Any, part: Partition) -> Any:
    """The partial of a partition; the worker of the third runs out of memory each time."""
    if part.number == 2:
        raise MemoryError
    return partial_of(work, part)


def test_a_worker_killed_in_the_middle_changes_nothing(
    tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch, forked: None
) -> None:
    monkeypatch.setattr(partitioned, "partial_of", dies_at_first)
    with processes(2) as spreading:
        found = in_parts(tmp_path, files, spreading)
    assert (tmp_path / "2.seen").exists()
    assert found == whole(tmp_path, files)


def always_killed(work: Any, part: Partition) -> Any:
    """The partial of a partition; the worker of the third is killed each time."""
    if part.number == 2:
        os.kill(os.getpid(), signal.SIGKILL)
    return partial_of(work, part)


def test_the_partition_whose_worker_is_always_killed_is_named_and_no_other(
    tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch, forked: None
) -> None:
    monkeypatch.setattr(partitioned, "partial_of", always_killed)
    with pytest.raises(IntakeError, match=r"2\.csv: its worker failed 3 times"), processes(2) as spreading:
        in_parts(tmp_path, files, spreading)


def test_a_partition_that_always_fails_is_named(
    tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(partitioned, "partial_of", always_dies)
    with pytest.raises(IntakeError, match=r"2\.csv: its worker failed 3 times \(MemoryError\)"), threads() as spreading:
        in_parts(tmp_path, files, spreading)


def test_a_running_scheduler_gives_the_same_bytes(
    tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    from distributed import LocalCluster

    monkeypatch.setattr(partitioned, "partial_of", dies_at_first)
    with LocalCluster(n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None) as made, cluster(made.scheduler_address) as spreading:  # fmt: skip
        assert spreading.workers == 2
        assert in_parts(tmp_path, files, spreading) == whole(tmp_path, files)
    assert (tmp_path / "2.seen").exists()


def test_a_scheduler_that_is_not_there_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("kalendor.desk.spreading.PATIENCE", 1)
    with pytest.raises(DefinitionError, match="there is no scheduler that answers"), cluster("tcp://127.0.0.1:9"):
        pass


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda path: path.write_text("store,on,net\nW,2025-01-01,1\n"), "3.csv: .*'qty'"),
        (lambda path: path.write_text("store,on,net,qty,more\nW,2025-01-01,1,2,3\n"), "3.csv: its columns are not those of 0.csv; they differ in 'more'"),
        (lambda path: path.write_text(HEADING + "\nW,next week,1,2\nW,soon,1,2\n"), "3.csv: 'on' was read as a date so far, and now holds such as"),
        (lambda path: path.write_bytes(b"PAR1 and nothing more"), "3.csv: a Parquet file that cannot be read"),
        (lambda path: path.write_text(HEADING + '\n"W,2025-01-01,1,2\n'), "3.csv: a quote is opened and never closed"),
        (lambda path: path.unlink(), "3.csv: cannot be read"),
    ],
)  # fmt: skip
def test_a_file_that_differs_or_is_damaged_is_refused_by_name(
    tmp_path: Path, files: list[Path], change: Any, words: str
) -> None:
    change(files[3])
    with pytest.raises(IntakeError, match=words), threads() as spreading:
        in_parts(tmp_path, files, spreading)


def test_a_file_that_changes_while_it_is_read_is_refused(
    tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    def first_written_to(work: Any, part: Partition) -> Any:
        with part.path.open("a") as file:
            file.write(lines(1)[0] + "\n")
        return partial_of(work, part)

    monkeypatch.setattr(partitioned, "partial_of", first_written_to)
    with pytest.raises(IntakeError, match="it was changed while it was being read; run the report again"), threads() as spreading:  # fmt: skip
        in_parts(tmp_path, files, spreading)


def test_workers_of_another_version_are_refused(
    tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    def older(work: Any, part: Partition) -> Any:
        monkeypatch.setattr(partitioned, "VERSION", "0.9")
        return partial_of(work, part)

    monkeypatch.setattr(partitioned, "partial_of", older)
    with pytest.raises(DefinitionError, match=r"the workers have Kalendor 0\.9, and this is .*; install one version"), threads(1) as spreading:  # fmt: skip
        in_parts(tmp_path, files, spreading)


def test_whole_numbers_may_get_decimals_in_a_later_file(tmp_path: Path) -> None:
    data = [tmp_path / "0.csv", tmp_path / "1.csv"]
    data[0].write_text(text_of(["W,2025-01-01,1,2", "W,2025-02-01,2,2"]))
    data[1].write_text(text_of(["W,2025-01-02,1.25,2", "W,2025-02-02,0.5,2"]))
    with threads() as spreading:
        assert in_parts(tmp_path, data, spreading) == whole(tmp_path, data)


def test_a_heading_below_lines_of_words_and_totals_at_the_foot(tmp_path: Path) -> None:
    data = [tmp_path / f"{k}.csv" for k in range(3)]
    for k, path in enumerate(data):
        own = [f"W,2025-0{k + 1}-{n + 1:02},{n}.50,2" for n in range(20)]
        path.write_text("\n".join([HEADING, *own, f"Total,,{sum(n + 0.5 for n in range(20)):.2f},40"]) + "\n")
    with pytest.MonkeyPatch.context() as patch, threads() as spreading:
        patch.setattr(partitioned, "LEAST", 200)
        assert in_parts(tmp_path, data, spreading, memory=0) == whole(tmp_path, data)


def test_an_interrupted_command_says_so_and_leaves_no_process(tmp_path: Path) -> None:
    data = tmp_path / "many.csv"
    data.write_text(text_of(lines(2000) * 150))
    written(tmp_path)
    command = [sys.executable, "-m", "kalendor.cli", "run", "report.json", "--data", "many.csv", "--lookup", "names=names.csv", "--out", "out.csv", "--memory", "1MB"]  # fmt: skip
    with subprocess.Popen(command, cwd=tmp_path, stderr=subprocess.PIPE, text=True) as running:
        started = Path(f"/proc/{running.pid}/task/{running.pid}/children")
        while running.poll() is None and len(started.read_text().split()) < 2:
            time.sleep(0.05)
        workers = started.read_text().split()
        running.send_signal(signal.SIGINT)
        assert running.communicate(timeout=30)[1] == "kalendor: stopped\n"
        assert running.returncode == 130
    assert not (tmp_path / "out.csv").exists()
    for _ in range(100):
        if not any(Path(f"/proc/{pid}").exists() for pid in workers):
            break
        time.sleep(0.1)
    assert not any(Path(f"/proc/{pid}").exists() for pid in workers)


def test_an_interrupt_waits_until_all_workers_have_started() -> None:
    ended, steps = threading.Event(), []
    threading.Thread(target=ended.wait).start()  # a thread that the signal may be delivered to

    def started() -> None:
        with _interrupted_afterwards():
            os.kill(os.getpid(), signal.SIGINT)
            time.sleep(0.05)
            steps.append("finished")

    with pytest.raises(KeyboardInterrupt):
        started()
    ended.set()
    assert steps == ["finished"]
    with pytest.raises(KeyboardInterrupt):  # and the handler is the one from before
        signal.raise_signal(signal.SIGINT)


def test_the_command_writes_the_same_files(tmp_path: Path, files: list[Path]) -> None:
    written(tmp_path)
    made = {}
    for name, more in (("one", []), ("two", ["--workers", "2", "--memory", "100MB"])):
        out, tie = tmp_path / f"{name}.csv", tmp_path / f"{name}.json"
        subprocess.run(
            [sys.executable, "-m", "kalendor.cli", "run", tmp_path / "report.json", "--data", tmp_path / "[0-3].csv", "--lookup", f"names={tmp_path / 'names.csv'}", "--out", out, "--tie-out", tie, *more],
            check=True, env={**os.environ, "KALENDOR_TODAY": "2026-08-04"},
        )  # fmt: skip
        made[name] = out.read_bytes(), tie.read_bytes()
        out.unlink()
    assert made["one"] == made["two"]
