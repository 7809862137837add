"""Files that programs send to a source: imported at once, or held for a person as dropped files are."""

import json
import threading
from collections import defaultdict
from dataclasses import asdict, dataclass
from typing import Literal

from kalendor.desk.bringing_in import keep, leave, look_at_held
from kalendor.desk.desk import Desk
from kalendor.desk.dropped_files import hold_for_a_person
from kalendor.desk.reasons import held_for
from kalendor.desk.uploads import Held
from kalendor.errors import ChangedError, ConflictError, HeldError, IntakeError
from kalendor.store.intakes import Intake
from kalendor.store.pushes import Noted
from kalendor.store.sources import Source

LONGEST_KEY = 200
_SENDING: defaultdict[tuple[int, str], threading.Lock] = defaultdict(threading.Lock)


@dataclass(frozen=True)
class Pushed:
    """The outcome for a file sent by a program: it is `in` as an intake with its number of records, or `held` for a
    person as `file` in the source's drop folder. `reason` says why."""

    state: Literal["in", "held"]
    file: str
    intake: int | None
    records: int
    refused: int
    replaced: int
    reason: str = ""


def push(desk: Desk, source: Source, file_name: str, held: Held, key: str = "") -> Pushed:
    """Import a file into a source by its recipe; a repeated `key` returns the first answer again.

    Raises IntakeError if it cannot be read or its content has been imported already, ConflictError if the key was used
    with other content, or is being processed.
    """
    if len(key) > LONGEST_KEY:
        held.path.unlink(missing_ok=True)
        raise IntakeError(f"an idempotency key has at most {LONGEST_KEY} characters")
    if not key:
        return _brought(desk, source, file_name, held)
    lock = _SENDING[source.id, key]
    if not lock.acquire(blocking=False):
        held.path.unlink(missing_ok=True)
        raise ConflictError(f"{file_name}: a file with this idempotency key is being worked on; ask again later")
    try:
        before = desk.pushes.noted(source.id, key)
        if before is None:
            done = _again(desk, source, held) or _brought(desk, source, file_name, held)
            desk.pushes.note(source.id, key, Noted(held.sha256, json.dumps(asdict(done))), desk.now())
            return done
        held.path.unlink(missing_ok=True)
        if before.sha256 != held.sha256:
            raise ConflictError(f"{file_name}: another content came with this idempotency key; send it with a new one")
        return Pushed(**json.loads(before.answer))
    finally:
        _SENDING.pop((source.id, key), None)
        lock.release()


def _again(desk: Desk, source: Source, held: Held) -> Pushed | None:
    """The answer for content that exists already: it was imported before the answer could be stored."""
    found = desk.intakes.brought_before(source, held.sha256)
    if found is None:
        return None
    held.path.unlink(missing_ok=True)
    return _as_intake(found)


def _brought(desk: Desk, source: Source, file_name: str, held: Held) -> Pushed:
    found = look_at_held(desk, file_name, held, source.name)
    try:
        _, intake = keep(desk, found.token, origin="push")
    except (HeldError, ChangedError) as error:
        name = hold_for_a_person(desk, source.name, found.path, file_name, held_for(error))
        leave(desk, found.token)
        return Pushed("held", name, None, 0, 0, 0, str(error))
    except BaseException:
        leave(desk, found.token)
        raise
    return _as_intake(intake)


def _as_intake(intake: Intake) -> Pushed:
    return Pushed("in", intake.file_name, intake.id, intake.records, intake.refused, intake.replaced)
