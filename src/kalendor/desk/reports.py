"""Reports as the workspace has them."""

from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError


def report_at(desk: Desk, id: int) -> Report:
    """The report of that id, as it stands.

    Raises MissingError where there is none, DefinitionError where it is a definition of another kind.
    """
    stored = desk.definitions.one(id)
    if not isinstance(stored.body, Report):
        raise DefinitionError(f"{stored.name!r} is not a report")
    return stored.body
