"""The product's errors, worded for the analyst: what, where, what to do."""

from typing import Any


class KalendorError(Exception):
    """An error whose text may be shown; `exit_code` is that of the command line."""

    exit_code = 1


class DefinitionError(KalendorError):
    """A definition or an argument is wrong."""

    exit_code = 2


class IntakeError(KalendorError):
    """A file cannot be read."""

    exit_code = 3


class HeldError(IntakeError):
    """A file that would remove records or count them twice: it waits until a person has confirmed its effect, given by
    month in `months` (see `store.holding.MonthLine`)."""

    def __init__(self, said: str, months: tuple[Any, ...] = ()) -> None:
        super().__init__(said)
        self.months = months


class ChangedError(IntakeError):
    """A file that differs from earlier ones: it waits until a person has confirmed what its columns are. `sure` if the
    proposal is unambiguous."""

    def __init__(self, said: str, sure: bool = False) -> None:
        super().__init__(said)
        self.sure = sure


class FootingError(KalendorError):
    """A sheet whose lines do not add up to its totals; never shown as if it were correct."""

    exit_code = 4


class ConflictError(KalendorError):
    """The object of the request has changed meanwhile; nothing was changed."""


class RevisionError(ConflictError):
    """A change was made to a revision that is no longer current; nothing was changed."""


class StoreError(KalendorError):
    """The workspace cannot be read or written at the moment; the transaction was rolled back."""


class WriteRefusedError(Exception):
    """A read-only process would have to write; the server's own process handles the request."""


class LeftError(KalendorError):
    """The work was cancelled, since its client has disconnected."""


class DamagedError(KalendorError):
    """A workspace or a backup is damaged."""

    exit_code = 5
