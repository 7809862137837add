"""Looks at linked folders automatically, once a folder has been unchanged for a while."""

import threading
from dataclasses import dataclass, field

from kalendor.desk.desk import Desk
from kalendor.desk.linked.looking import Difference, look, since
from kalendor.desk.notation import begin_in
from kalendor.errors import KalendorError
from kalendor.log import LOG, log_unexpected
from kalendor.store.workspace import WHO

EVERY_SECONDS = 30.0
BY = "schedule"


@dataclass
class Watch:
    """Looks at folders whose differences are the same as half a minute before. A failed look is logged once, and
    retried when the folder changes."""

    desk: Desk
    _seen: dict[int, Difference] = field(default_factory=dict)
    _failed: dict[int, Difference] = field(default_factory=dict)

    def look(self) -> list[str]:
        """Look at all folders once; the names of the sources that were looked at."""
        looked = []
        for link in self.desk.linked.all():
            source = self.desk.sources.one(link.source_id)
            differ = since(self.desk, source)
            stands_still = bool(differ) and self._seen.get(source.id) == differ
            self._seen[source.id] = differ
            if not stands_still or self._failed.get(source.id) == differ:
                continue
            try:
                look(self.desk, source)
                looked.append(source.name)
            except KalendorError as error:
                self._failed[source.id] = differ
                LOG.warning("the folder of %s cannot be looked at: %s", source.name, error)
        return looked


def keep_looking(desk: Desk, stop: threading.Event) -> None:
    """Look every half minute until stopped; to be run in a thread of its own."""
    WHO.set(BY)
    watch = Watch(desk)
    while not stop.wait(EVERY_SECONDS):
        try:
            begin_in(desk)
            watch.look()
        except Exception as error:
            log_unexpected(error, "linked folders")
    desk.workspace.close()
