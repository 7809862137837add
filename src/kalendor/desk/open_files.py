"""Whether another process still has a file open for writing."""

import fcntl
import os
from pathlib import Path

READ_LEASE, NO_LEASE = fcntl.F_RDLCK, fcntl.F_UNLCK


def is_being_written(path: Path) -> bool:
    """True if some process has the file open for writing; False also if the system cannot tell.

    Linux grants a read lease only on files that nobody has open for writing (fcntl(2), F_SETLEASE).
    """
    try:
        descriptor = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    except OSError:
        return False
    try:
        fcntl.fcntl(descriptor, fcntl.F_SETLEASE, READ_LEASE)
        fcntl.fcntl(descriptor, fcntl.F_SETLEASE, NO_LEASE)
    except BlockingIOError:
        return True
    except OSError:
        return False
    finally:
        os.close(descriptor)
    return False
