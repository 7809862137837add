"""The process that reads one untrusted file, or the result of one query, within limits of memory and time, and hands
over what it read.

It receives one line of JSON on standard input, reports progress as lines of JSON on standard output, and exits. A
malicious file can affect this process only.
"""

import json
import resource
import sys
from pathlib import Path
from typing import Any

from kalendor.definitions.recipe import Recipe
from kalendor.errors import KalendorError
from kalendor.intake.fetched import Query, fetch
from kalendor.intake.handing import hand_over
from kalendor.intake.reading import read_file
from kalendor.intake.room import IN_MEMORY, Room, lying_in

EVERY = 50_000


def say(**told: Any) -> None:
    """Write one line to the waiting process."""
    sys.stdout.write(json.dumps(told) + "\n")
    sys.stdout.flush()


def main() -> None:
    """Read the one file that standard input describes."""
    line = sys.stdin.readline()
    if not line:
        return
    asked = json.loads(line)
    resource.setrlimit(resource.RLIMIT_DATA, (asked["memory"], asked["memory"]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    count = 0
    try:
        if "fetch" in asked:
            count = fetch(Query(**asked["fetch"]), Path(asked["to"]), _told)
        else:
            _read(asked)
    except KalendorError as error:
        say(error=type(error).__name__, message=str(error))
    except MemoryError:
        say(error="MemoryError", message="")
    except OSError as error:
        say(error="OSError", message=error.strerror or str(error))
    else:
        say(read=True, count=count)


def _read(asked: dict[str, Any]) -> None:
    recipe = Recipe.model_validate(asked["recipe"]) if asked["recipe"] is not None else None
    with lying_in(Room(Path(asked["folder"]), min(IN_MEMORY, asked["memory"] // 8))):
        earlier = [Recipe.model_validate(one) for one in asked["earlier"]]
        path = Path(asked["path"])
        reading = read_file(path, recipe, asked["name"], asked["strict"], _told, asked["guarded"], earlier)
        hand_over(Path(asked["folder"]), reading)


_last = 0


def _told(done: int, total: int) -> None:
    global _last
    if done - _last >= EVERY or done < _last or done == total:
        _last = done
        say(done=done, total=total)


if __name__ == "__main__":
    main()
