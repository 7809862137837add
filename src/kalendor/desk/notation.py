"""The number and date notation of a workspace: stored as a setting, and applied at the start of a request, job or
command."""

import json
from dataclasses import asdict

from kalendor.core.values.notation import COMMON, NOTATION, THOUSANDS, Notation
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError

SETTING = "notation"


def notation(desk: Desk) -> Notation:
    """The workspace's notation; the default if none was chosen."""
    told = desk.workspace.told(SETTING)
    return Notation(**json.loads(told)) if told else COMMON


def set_notation(desk: Desk, chosen: Notation) -> None:
    """Store a notation for the workspace; editions already issued keep theirs.

    Raises DefinitionError if both marks are the same, or one is not allowed.
    """
    if chosen.decimal not in (".", ",") or chosen.thousands not in THOUSANDS:
        raise DefinitionError(
            "the decimal mark is a point or a comma; thousands have a comma, a point, a space, an apostrophe or nothing"
        )
    if chosen.decimal == chosen.thousands:
        raise DefinitionError(
            f"{chosen.decimal!r} would be both the decimal mark and the mark between thousands; choose another for one"
        )
    desk.workspace.tell(SETTING, json.dumps(asdict(chosen)))


def begin_in(desk: Desk) -> None:
    """Apply the workspace's notation to the current thread from here on."""
    NOTATION.set(notation(desk))
