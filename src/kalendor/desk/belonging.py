"""Finds the source that a file belongs to, by its columns and its name."""

from dataclasses import dataclass

from kalendor.desk.bringing_in import Change, look_at_held, read_again, source_name_for
from kalendor.desk.desk import Desk
from kalendor.desk.uploads import Held
from kalendor.desk.waiting import Waiting
from kalendor.intake.raw import ReadSoFar, unwatched
from kalendor.intake.together import heading_key
from kalendor.store.sources import Source

HALF = 0.5


@dataclass(frozen=True)
class _Likeness:
    """The share of the source's columns that the file has, the share of the file's columns that the source has (both
    from 0 to 1), and whether the file's name resembles those of the source's files."""

    source: Source
    had: float
    known: float
    by_name: bool


def look_at_any(desk: Desk, file_name: str, held: Held, so_far: ReadSoFar = unwatched) -> Waiting:
    """Read a file and let it wait, using the recipe of the source it belongs to. If it belongs to none, or to several
    equally well, it waits as a new source.

    Raises IntakeError if it cannot be read.
    """
    found = look_at_held(desk, file_name, held, None, so_far=so_far)
    source = source_of(desk, found)
    if source is None or source.name == found.source:
        return found
    return read_again(desk, found.token, Change(source=source.name))


def source_of(desk: Desk, found: Waiting) -> Source | None:
    """The source that a file belongs to: the one whose columns the file all has (of several, the one whose files have a
    similar name), else the one whose files have a similar name, if the file has half of its columns. None if that is
    not exactly one source."""
    near = [_likeness(desk, source, found) for source in desk.sources.all() if source.report_id is None]
    whole = [one for one in near if one.had == 1 and one.known >= HALF]
    called = [one for one in whole or near if one.by_name and one.had >= HALF]
    if len(called) == 1:
        return called[0].source
    best = max((one.known for one in whole), default=0)
    fitting = [one for one in whole if one.known == best]
    return fitting[0].source if len(fitting) == 1 and not called else None


def _likeness(desk: Desk, source: Source, found: Waiting) -> _Likeness:
    headings = {heading_key(name) for name in found.reading.headings or found.reading.records.columns}
    told = source.recipe.columns
    names = [
        {heading_key(c.name), *(heading_key(h) for h in (told[c.name].headings if c.name in told else ()))}
        for c in source.columns
    ]
    had = sum(bool(own & headings) for own in names)
    known = len(headings & set().union(*names)) if names else 0
    family = source_name_for(found.file_name).casefold()
    files = {source_name_for(one.file_name).casefold() for one in desk.intakes.of(source) if one.origin != "hand"}
    return _Likeness(
        source, had / max(1, len(names)), known / max(1, len(headings)), family in files | {source.name.casefold()}
    )
