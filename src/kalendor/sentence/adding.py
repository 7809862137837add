"""The parts of a report beside its lines, columns and figures, and how a sentence adds to them."""

from collections.abc import Mapping, Sequence
from copy import deepcopy
from typing import Any

from kalendor.sentence.meanings import merged

Json = dict[str, Any]
KNOWN_BY = {"columns": "name", "lines": "name", "beside": "source", "controls": "", "silenced": ""}
"""The lists among those parts, and by what key two of their members are the same one: empty where all of it must be."""


KEPT = (*KNOWN_BY, "totals", "layout", "out_of_sight", "records")


class Beside:
    """Made columns, computed lines, sources beside, control totals, disabled parts, totals, layout, hidden lines, the
    list of records and the as-of date: those of `base`, and those in the sentence."""

    def __init__(self, base: Mapping[str, Any]) -> None:
        self.parts: Json = deepcopy({key: base[key] for key in KEPT if base.get(key)})
        self._totals: Json = {}
        self._had = {key: len(self.parts.get(key, ())) for key in KNOWN_BY}
        self._out_of_sight = deepcopy(self.parts.get("out_of_sight", {}))

    def put(self, key: str, new: Sequence[Json]) -> None:
        """Add to a list; an entry about a member that the base has replaces that entry."""
        known = self.parts.setdefault(key, [])
        for one in new:
            had = known[: self._had[key]]
            place = next((i for i, old in enumerate(had) if _same(KNOWN_BY[key], old, one)), len(known))
            known[place : place + 1] = [one]

    def take(self, clause: Mapping[str, Any]) -> None:
        """Add what a clause says about parts that refer to no figure."""
        for key in ("columns", "lines", "beside"):
            self.put(key, clause.get(key, ()))
        self._totals = merged([self._totals, clause.get("totals", {})])
        said = {**clause, **({"layout": merged(clause["layout"])} if "layout" in clause else {})}
        for key in ("layout", "records"):
            if key in said:
                self.parts[key] = over(self.parts.get(key, {}), said[key])
        if "as_of" in clause:
            self.parts["as_of"] = clause["as_of"]
        for key, kind in (("hidden_lines", "lines"), ("hidden_columns", "columns")):
            if key in clause:
                sight = self.parts.setdefault("out_of_sight", {})
                new = [path for path in clause[key] if path not in self._out_of_sight.get(kind, ())]
                sight[kind] = [*sight.get(kind, ()), *new]

    def done(self) -> Json:
        """All parts; a list of records may be empty."""
        parts = {**self.parts, "totals": over(self.parts.get("totals", {}), self._totals)}
        return {key: value for key, value in parts.items() if value or key in ("records", "totals")}


def over(old: Any, new: Any) -> Any:
    """The new parts on top of the earlier ones, part by part.

    >>> over({"grand": "All", "levels": {"area": {"bold": True}}}, {"levels": {"area": {"space": True}}})
    {'grand': 'All', 'levels': {'area': {'bold': True, 'space': True}}}
    """
    if not (isinstance(old, dict) and isinstance(new, dict)):
        return new
    return {**old, **{key: over(old.get(key), value) for key, value in new.items()}}


def _same(key: str, old: Json, new: Json) -> bool:
    return bool(old[key] == new[key]) if key else old == new
