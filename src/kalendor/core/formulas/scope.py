"""The names that a formula may use, and literals."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from kalendor.core.values.columns import INT64_MOST, Column, Kind, scalar
from kalendor.errors import DefinitionError

AS_OF = "AS_OF"


@dataclass(frozen=True)
class Scope:
    """The names that a formula may use: columns by name, the number of rows, and the as-of date (days since
    1970-01-01)."""

    columns: Mapping[str, Column]
    count: int
    as_of: int | None = None

    def named(self, name: str, quoted: bool) -> Column:
        if name in self.columns:
            return self.columns[name]
        if not quoted:
            if name.upper() == AS_OF and self.as_of is not None:
                return scalar(Kind.DATE, self.as_of)
            alike = [known for known in self.columns if known.casefold() == name.casefold()]
            if len(alike) == 1:
                return self.columns[alike[0]]
        known_names = ", ".join(list(self.columns)[:12])
        raise DefinitionError(f"there is no {name!r} here; there are {known_names}")


def written_value(text: str, is_text: bool) -> Column:
    """The value of a literal: a text, or a number, which is exact if nine places and 64 bits hold it."""
    if is_text:
        return scalar(Kind.TEXT, text)
    if "e" in text.lower():
        return scalar(Kind.APPROXIMATE, float(text))
    number = Decimal(text)
    places = max(0, -int(number.as_tuple().exponent))
    units = int(number.scaleb(places))
    if places > 9 or abs(units) > INT64_MOST:
        return scalar(Kind.APPROXIMATE, float(text))
    return scalar(Kind.DECIMAL if places else Kind.WHOLE, units, places)
