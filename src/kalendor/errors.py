"""What can go wrong, worded for the analyst: what, where, what to do."""


class KalendorError(Exception):
    """An error whose text is fit to be shown; `exit_code` is what the command line answers with."""

    exit_code = 1


class DefinitionError(KalendorError):
    """A definition or an argument is wrong."""

    exit_code = 2


class IntakeError(KalendorError):
    """A file cannot be read."""

    exit_code = 3


class FootingError(KalendorError):
    """A sheet whose lines do not add up to its totals; never shown as if it were sound."""

    exit_code = 4
