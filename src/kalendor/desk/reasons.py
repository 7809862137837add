"""Why a file lies aside in a drop folder, as a text file beside it: for people who open the folder, and parsed again
for the page."""

import re
from dataclasses import dataclass

from kalendor.errors import ChangedError, HeldError
from kalendor.store.holding import MonthLine

BEYOND_DOUBT = "What it is taken to be is beyond doubt."
_MONTH = re.compile(
    r"- (?P<month>.+): (?P<now>\d+) now, (?P<leave>\d+) leave, (?P<come>\d+) come, \d+ after(?P<held>, held)?"
)


@dataclass(frozen=True)
class Reason:
    """Why a file was refused or is held; `sure` if it differs from earlier files and the proposed matching is
    unambiguous. `months` is its effect by month, if it is held for that."""

    said: str
    sure: bool = False
    months: tuple[MonthLine, ...] = ()

    def text(self) -> str:
        """The text written beside the file.

        >>> print(Reason("too many", months=(MonthLine("May 2026", 9, 5, 1, True),)).text(), end="")
        too many
        - May 2026: 9 now, 5 leave, 1 come, 5 after, held
        """
        lines = [
            f"- {m.month}: {m.now} now, {m.leave} leave, {m.come} come, {m.after} after{', held' * m.held}"
            for m in self.months
        ]
        return "\n".join([self.said, *([BEYOND_DOUBT] if self.sure else []), *lines]) + "\n"


def held_for(error: HeldError | ChangedError) -> Reason:
    """Why a file is held for a person."""
    if isinstance(error, ChangedError):
        return Reason(str(error), error.sure)
    return Reason(str(error), months=error.months)


def reason_in(text: str) -> Reason:
    """The reason parsed from such a text.

    >>> reason_in(Reason("a", True, (MonthLine("May 2026", 9, 5, 1, False),)).text())
    Reason(said='a', sure=True, months=(MonthLine(month='May 2026', now=9, leave=5, come=1, held=False),))
    """
    lines = text.strip().split("\n")
    found = [_MONTH.fullmatch(line) for line in lines]
    months = tuple(
        MonthLine(m["month"], int(m["now"]), int(m["leave"]), int(m["come"]), m["held"] is not None) for m in found if m
    )
    said = [line for line, month in zip(lines, found, strict=True) if month is None and line != BEYOND_DOUBT]
    return Reason("\n".join(said), BEYOND_DOUBT in lines, months)
