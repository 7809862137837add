"""Logs unexpected errors: their type and place, never the records involved."""

import logging
import traceback
from uuid import uuid4

LOG = logging.getLogger("kalendor")


def log_unexpected(error: BaseException, doing: str) -> str:
    """Log an unexpected error, without its message, which may contain records; returns its id in the log."""
    id = uuid4().hex[:12]
    trace = "".join(traceback.format_tb(error.__traceback__))
    LOG.error("%s %s: %s\n%s", id, doing, type(error).__name__, trace.rstrip())
    return id
