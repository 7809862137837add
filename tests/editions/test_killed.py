"""Processes killed while writing: the workspace is consistent afterwards, with each change applied or not at all."""

import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.store.soundness import faults
from tests.editions.conftest import Office

KILLS = int(os.environ.get("KALENDOR_KILLS", "2"))
WRITES = """
import itertools, random, sys
from datetime import datetime
from pathlib import Path
from tests.editions.conftest import Office, REPORT, TREE
from kalendor.definitions.recurring import Delivery
from kalendor.desk.desk import Desk
office = Office.__new__(Office)
office.now = datetime(2026, 8, 2, 9, 0)
office.desk = desk = Desk(Path(sys.argv[1]), now=lambda: office.now)
rng = random.Random(int(sys.argv[2]))
print("begun", flush=True)
for n in itertools.count():
    intakes = [i for s in desk.sources.all() for i in desk.intakes.of(s)]
    standing = [i for i in intakes if i.undone_at is None]
    undone = [i for i in intakes if i.undone_at is not None]
    match rng.randrange(8):
        case 0: office.file("2026-06", f"2026-06-1{n % 9},kx,{n}.50\\n", join="replace_dates")
        case 1 if len(standing) > 1: desk.intakes.undo(rng.choice(standing).id, office.now)
        case 2 if undone: desk.intakes.redo(rng.choice(undone).id)
        case 3: office.report(only=[f"amount > {n % 7}"])
        case 4: office.define({**TREE, "roots": [*TREE["roots"], {"label": f"L{n}", "under": []}]})
        case 5: office.issue(rng.choice(["2026-05", "2026-06", "2026-07"]))
        case 6: desk.accounts.begin(desk.accounts.named("Ada"), office.now)
        case 7: desk.workspace.tell("name", f"step {n}")
"""


@pytest.mark.parametrize("seed", range(KILLS))
def test_whatever_is_written_when_a_process_is_killed_is_whole_or_not_there(tmp_path: Path, seed: int) -> None:
    folder = tmp_path / "workspace"
    office = Office(folder)
    office.desk.accounts.add("Ada", "analyst", "a long enough password", office.now)
    office.desk.workspace.close()
    command = [sys.executable, "-c", WRITES, str(folder), str(seed)]
    environment = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, env=environment) as writer:
        assert writer.stdout is not None
        assert writer.stdout.readline() == b"begun\n"
        time.sleep(random.Random(seed).uniform(0.1, 1.5))
        assert writer.poll() is None, writer.stderr.read().decode() if writer.stderr else ""
        writer.send_signal(signal.SIGKILL)
    assert faults(folder) == []
    desk = Desk(folder, now=lambda: office.now)
    assert not list(desk.editions.faults())
    for source in desk.sources.all():
        rows = desk.workspace.db.execute(f"SELECT count(*) FROM records_{source.id}").fetchone()[0]
        assert complete(desk, source).records.count <= rows
    assert desk.definitions.named("report", "Sales by side") is not None
