"""The desk: a workspace with its clock and caches, on which the use cases operate."""

import os
from collections import defaultdict
from collections.abc import Callable
from contextlib import AbstractContextManager
from datetime import date, datetime
from pathlib import Path
from threading import Lock

from kalendor.core.values.keys import Key
from kalendor.core.values.memory import Memory
from kalendor.desk.answers import Answers
from kalendor.desk.kept_parts import KeptParts
from kalendor.desk.spreading import Progress, Spreading, by_cores
from kalendor.desk.waiting import Waiting
from kalendor.intake.apart import Apart, Here
from kalendor.sentence.names import Names
from kalendor.store.accounts import Accounts
from kalendor.store.approvals import Approvals
from kalendor.store.definitions import Definitions
from kalendor.store.editions import Editions
from kalendor.store.fetches import Fetches
from kalendor.store.intakes import Intakes
from kalendor.store.linked import LinkedSources
from kalendor.store.links import Links
from kalendor.store.locks import holding
from kalendor.store.marks import Marks
from kalendor.store.pushes import Pushes
from kalendor.store.schedule_log import ScheduleLog
from kalendor.store.sendings import Sendings
from kalendor.store.sources import Sources
from kalendor.store.workspace import Workspace

CLOCK = "clock"
MEMORY_BYTES = 1 << 30
ANSWERS_BYTES = 64 << 20
REST_BYTES = 8 << 20


class Desk:
    """An open workspace with its caches. The demo's clock stands still; others follow the machine's.

    `reads_only`: nothing is written to the workspace (see `Workspace`). `remembers` is the size limit of the cache of
    computed values, in bytes. `readers` read files: in processes of their own in a server, in this process for files
    that the product made. `deliver_to` are the folders beneath which editions may be delivered, `link_from` those
    beneath which folders may be linked; `parts` caches partials of the files there, which `spread_over` reads if they
    are large. `memory` and `sheets` are thread-safe; `lock` guards `waiting` and `keeping` where two threads look at
    both. `dictionaries` holds the latest of each source, each made under its lock in `naming`; `briefs` is keyed by a
    report's id.
    """

    def __init__(
        self,
        folder: Path,
        now: Callable[[], datetime] | None = None,
        readers: Here | Apart | None = None,
        reads_only: bool = False,
        remembers: int = MEMORY_BYTES,
    ) -> None:
        self.workspace = Workspace(folder, reads_only)
        self.sources = Sources(self.workspace)
        self.intakes = Intakes(self.sources)
        self.definitions = Definitions(self.workspace)
        self.editions = Editions(self.workspace)
        self.links = Links(self.workspace)
        self.marks = Marks(self.workspace)
        self.accounts = Accounts(self.workspace)
        self.sendings = Sendings(self.workspace)
        self.pushes = Pushes(self.workspace)
        self.fetches = Fetches(self.workspace)
        self.approvals = Approvals(self.workspace)
        self.schedule_log = ScheduleLog(self.workspace)
        self.memory = Memory(remembers, holding)
        self.plans = Memory(remembers // 4, holding)
        self.sources.damaged = self._forget
        self.sheets = Memory(remembers // 4, holding)
        self.answers = Answers(ANSWERS_BYTES)
        self.dictionaries: dict[int, tuple[Key, Names]] = {}
        self.naming: defaultdict[int, Lock] = defaultdict(Lock)
        self.briefs: dict[int, tuple[int, str]] = {}
        self.readers = readers or Here()
        self.waiting: dict[str, Waiting] = {}
        self.keeping: set[str] = set()
        self.lock = Lock()
        self.deliver_to: tuple[Path, ...] = ()
        self.linked = LinkedSources(self.workspace)
        self.link_from: tuple[Path, ...] = ()
        self.parts = KeptParts(self.workspace.cache / "linked", writes=not reads_only)
        self.spread_over: Callable[[Progress], AbstractContextManager[Spreading]] = by_cores
        self._now = now

    def _forget(self) -> None:
        """Drop everything computed from the column cache's files."""
        self.memory.clear()
        self.plans.clear()

    def rest(self) -> None:
        """Shrink the caches while there are no requests."""
        for kept in (self.memory, self.plans, self.sheets):
            kept.shrink(REST_BYTES)

    def now(self) -> datetime:
        """The current time by the workspace's clock."""
        if self._now is not None:
            return self._now()
        told = self.workspace.told(CLOCK)
        if told is not None:
            return datetime.fromisoformat(told)
        today = os.environ.get("KALENDOR_TODAY")
        return datetime.fromisoformat(today) if today else datetime.now()

    def today(self) -> date:
        """The current day by the workspace's clock."""
        return self.now().date()
