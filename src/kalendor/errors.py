"""What can go wrong, worded for the analyst: what, where, what to do."""

from typing import Any


class KalendorError(Exception):
    """An error whose text is fit to be shown; `exit_code` is what the command line answers with."""

    exit_code = 1


class DefinitionError(KalendorError):
    """A definition or an argument is wrong."""

    exit_code = 2


class IntakeError(KalendorError):
    """A file cannot be read."""

    exit_code = 3


class HeldError(IntakeError):
    """A file that would take away or count twice what is there: it waits until a person has seen what it would do, which
    `months` tell (see `store.holding.MonthLine`)."""

    def __init__(self, said: str, months: tuple[Any, ...] = ()) -> None:
        super().__init__(said)
        self.months = months


class ChangedError(IntakeError):
    """A file that is not like those before: it waits until a person has said what its columns are. Where what is proposed is
    beyond doubt, `sure` says so."""

    def __init__(self, said: str, sure: bool = False) -> None:
        super().__init__(said)
        self.sure = sure


class FootingError(KalendorError):
    """A sheet whose lines do not add up to its totals; never shown as if it were sound."""

    exit_code = 4


class ConflictError(KalendorError):
    """What was asked for is no longer as it was; nothing was changed."""


class RevisionError(ConflictError):
    """A change was made to a revision that is no longer the one that stands; nothing was changed."""


class StoreError(KalendorError):
    """The workspace cannot be read or written just now; what was begun was taken back whole."""


class WriteRefusedError(Exception):
    """A process that only reads the workspace would have to write; the server's own process does what it was asked for."""


class LeftError(KalendorError):
    """Nobody waits for the work any more."""


class DamagedError(KalendorError):
    """A workspace or a backup is damaged."""

    exit_code = 5
