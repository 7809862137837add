"""Looks at linked folders by itself: files that came, changed or went count once the folder has stood still."""

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
    """Looks at folders in which the same has come, changed and gone as half a minute before. What a look is refused for is logged once,
    and tried again when the folder is another."""

    desk: Desk
    _seen: dict[int, Difference] = field(default_factory=dict)
    _failed: dict[int, Difference] = field(default_factory=dict)

    def look(self) -> list[str]:
        """The names of the sources that were looked at."""
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
    """Look every half minute until told to stop; for a thread of its own."""
    WHO.set(BY)
    watch = Watch(desk)
    while not stop.wait(EVERY_SECONDS):
        try:
            begin_in(desk)
            watch.look()
        except Exception as error:
            log_unexpected(error, "linked folders")
    desk.workspace.close()
