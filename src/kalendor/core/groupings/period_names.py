"""Names that a report gives to its periods: to one period, or to that of every year.

A name is given for a period's label (`Apr 2026`), or for that label without its year (`Apr`), which then applies to
that period of every year; the year stays in place.
"""

import re
from collections import Counter
from collections.abc import Mapping, Sequence

from kalendor.core.groupings.levels import BLANK, Members, reads_as_special
from kalendor.errors import DefinitionError

_YEAR_LAST = re.compile(r"(?P<before>)(?P<name>\S.*?)(?P<after> \d{4})")
_YEAR_FIRST = re.compile(r"(?P<before>[^\W\d]*\d{2,4}(?:[/–-]\d{2,4})? )(?P<name>\S.*)(?P<after>)")


def without_year(label: str) -> tuple[str, str, str]:
    """A period's label in three parts: what comes before its name, the name, and what comes after it.

    >>> without_year("Apr 2026"), without_year("FY26 Q3"), without_year("Monday")
    (('', 'Apr', ' 2026'), ('FY26 ', 'Q3', ''), ('', 'Monday', ''))
    """
    found = _YEAR_LAST.fullmatch(label) or _YEAR_FIRST.fullmatch(label)
    return (found["before"], found["name"], found["after"]) if found else ("", label, "")


def period_name(label: str, names: Mapping[str, str]) -> str:
    """The display name of a period, given the report's names.

    >>> period_name("Apr 2026", {"Apr": "April"}), period_name("Apr 2026", {"Apr": "April", "Apr 2026": "Start"})
    ('April 2026', 'Start')
    """
    if label in names:
        return names[label]
    before, name, after = without_year(label)
    return f"{before}{names.get(name, name)}{after}"


def own_label(shown: str, names: Mapping[str, str]) -> str:
    """The label of the period displayed as `shown`.

    >>> own_label("April 2026", {"Apr": "April"}), own_label("Start", {"Apr 2026": "Start"}), own_label("May", {})
    ('Apr 2026', 'Apr 2026', 'May')
    """
    for label, name in names.items():
        if name == shown:
            return label
    before, name, after = without_year(shown)
    return next((f"{before}{label}{after}" for label, called in names.items() if called == name), shown)


def with_names(members: Members, names: Mapping[str, str]) -> Sequence[str]:
    """The labels of a level's periods with the given names applied; periods without a date use the name of "".

    Raises DefinitionError if two periods would have one name, or one that of a total or of blanks.
    """
    odd = next((name for name in names.values() if reads_as_special(name)), None)
    if odd is not None:
        raise DefinitionError(f"{odd!r} stands for a line or column of its own; give the period another name")
    special = members.special.tolist()
    labels = [
        names.get("", label) if kind == BLANK else period_name(label, names)
        for label, kind in zip(members.labels, special, strict=True)
    ]
    twice = [label for label, count in Counter(labels).items() if count > 1]
    if twice:
        raise DefinitionError(f"two periods would be called {twice[0]!r}; give each a name of its own")
    return labels
