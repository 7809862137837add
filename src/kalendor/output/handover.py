"""What is handed over: a sheet with the words that go along with it, and the choices of its files."""

from dataclasses import dataclass, field

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.export import Export


@dataclass(frozen=True, eq=False)
class Handover:
    """A sheet to be written: `brief` is its definition read out, `headline` the sentences over it, `told` the trail's words
    for each figure's grand total, by the figure's name."""

    sheet: Sheet
    export: Export = field(default_factory=Export)
    brief: str = ""
    headline: tuple[str, ...] = ()
    told: tuple[tuple[str, tuple[str, ...]], ...] = ()
