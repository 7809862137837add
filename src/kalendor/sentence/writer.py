"""The parts of a report in words: figures, axis entries, conditions."""

from collections.abc import Iterator
from contextlib import suppress
from typing import Any

from kalendor.definitions.report import Report
from kalendor.sentence.backwards import MOST_SHOWN, Backwards, Json
from kalendor.sentence.condition_words import in_words
from kalendor.sentence.names import Names, names
from kalendor.sentence.naming import free_name, own_name
from kalendor.sentence.parts import level_names, references, same_figure
from kalendor.sentence.spelling import NoWordsError, quoted

FIGURE_PARTS = ("source", "where", "carry", "to_date", "format", "hide")
ENTRY_PARTS = ("name", "levels", "order", "by", "rest", "empty", "placed", "signs", "labels")


class Writer(Backwards):
    """Writes the parts of one report. In the short form, as shown on a screen, names defined by the report stand for
    what they name, and its date and the figure before are implied."""

    def __init__(self, report: Report, known: Names | None = None, short: bool = False) -> None:
        self.report: Json = document(report)
        super().__init__(known or names([], {}), short, [column["name"] for column in self.report.get("columns", ())])
        self.date: str | None = None
        self._levels = level_names(self.report, self.known)
        self._dates = self._all_dates()
        unsure = any("tree" in e and "levels" not in e and e["tree"] not in self.known.trees for e in self._entries())
        self.inverses |= {"tree_levels": self._tree_levels, "tree_whole": self._tree_whole, "bucket_set": self._set}
        self._names_all = unsure and not short

    def _entries(self) -> list[Json]:
        return [*self.report.get("down", ()), *self.report.get("across", ())]

    # -- what a dictionary knows by itself: on which column a tree stands, and what a set of ranges is of

    def _tree_levels(self, entry: Any) -> str | None:
        own = self._tree_whole({k: v for k, v in entry.items() if k != "levels"}) if "levels" in entry else None
        return None if own is None else " › ".join(self.name(level) for level in entry["levels"])

    def _tree_whole(self, entry: Any) -> str | None:
        if set(entry) != {"category", "tree"}:
            return None
        column, _ = self.known.trees.get(entry["tree"], (entry["category"], ()))
        return str(entry["tree"]) if column == entry["category"] else None

    def _set(self, entry: Any) -> str | None:
        if set(entry) != {"bucket", "set"}:
            return None
        return str(entry["set"]) if self.known.sets.get(entry["set"], entry["bucket"]) == entry["bucket"] else None

    def _all_dates(self) -> set[str]:
        """Every date column that the report is about."""
        spoken = [e[key] for e in self._entries() for key in ("period", "age") if key in e]
        spoken += [self.report["window"]["of"]] if "window" in self.report else []
        spoken += [figure["along"] for figure in self.report["figures"] if figure.get("along", "lines") != "lines"]
        return set(spoken)

    def unsaid(self, name: str) -> bool:
        """Whether a date is implied: the only one there is, if it is known which."""
        return self.short and self._dates == {name} and (self.date == name or self.known.first_date in (None, name))

    # -- whole phrases

    def figures(self) -> list[str]:
        """Each figure in words."""
        written: list[str] = []
        for n, figure in enumerate(self.report["figures"]):
            written.append(self._figure(figure, n))
            if not any(key in figure for key in references()) and not figure.get("hide"):
                self.before = figure["name"]
        return written

    def _figure(self, figure: Json, n: int) -> str:
        parts = [part for key in FIGURE_PARTS if key in figure for part in _split(key, figure[key])]
        core = {k: v for k, v in figure.items() if k not in (*FIGURE_PARTS, "name")}
        earlier = self.report["figures"][:n]
        own = free_name(own_name(core), [*(f["name"] for f in earlier), *self._levels])
        plain = own == figure["name"] and not self._names_all and "formula" not in core
        plain = (
            plain and not any(same_figure(f, figure) for f in earlier) and not self._spoken_of_before(figure["name"], n)
        )
        if self.short:
            return self._shown(figure, core, own if not parts and plain else "")
        words = self.write("figure_core", core)
        said = "".join(f"; {self.write('figure_part', part)}" for part in parts)
        return words if plain and not said else f"{quoted(figure['name'])} ({words}{said})"

    def _shown(self, figure: Json, core: Json, own: str) -> str:
        """A figure as shown on a screen: one that depends on another by its definition, others by their names."""
        hidden = " (hidden)" if figure.get("hide") else ""
        if any(key in core for key in references()):
            with suppress(NoWordsError):
                return self.write("figure_core", core) + hidden
        return (own if own == figure["name"] else self.name(figure["name"])) + hidden

    def _spoken_of_before(self, name: str, n: int) -> bool:
        """Whether an earlier figure depends on this one."""
        earlier = self.report["figures"][:n]
        return any(name in (f.get(key) for key in references()) or name in str(f.get("with")) for f in earlier)

    def entry(self, entry: Json, last: bool = False) -> str:
        """An axis entry in words; the `last` of its axis puts its order after a comma, in the short form."""
        own_levels = "tree" not in entry
        parts = {key: entry[key] for key in ENTRY_PARTS if key in entry and (key != "levels" or own_levels)}
        core = {k: v for k, v in entry.items() if k not in parts and k not in ("top", "placed_by")}
        if "top" in entry:
            parts.pop("by", None)
        after = ""
        if self.short and last and isinstance(parts.get("order"), (dict, str)):
            after = f", {self.write('entry_part', {'order': parts.pop('order')})}"
        words = self.write("entry_core", core)
        if "top" in entry:
            words = f"the top {entry['top']} of {words} by {self.terminal('REF', entry['by'])}"
        renamed = len(parts.get("labels", ())) if self.short else 0
        if renamed > MOST_SHOWN:
            parts.pop("labels")
        said = [self.write("entry_part", part) for key, value in parts.items() for part in _split(key, value, entry)]
        said += [f"{renamed} values renamed"] if renamed > MOST_SHOWN else []
        return words + (f" ({'; '.join(said)})" if said else "") + after

    def condition(self, sql: str, of_lines: bool = False) -> str:
        """A condition in words, or as its SQL; one `of_lines` is over figures."""
        found = in_words(sql, of_lines)
        try:
            return self.write("condition", found)
        except NoWordsError:
            return sql  # not readable as a condition

    def said(self, category: str, value: Any) -> str:
        if category == "entry":
            return self.entry(value)
        if category == "keep":
            return f"keep {self.level(value['level'])} where {self.condition(value['where'], of_lines=True)}"
        if category == "condition" and isinstance(value, str):
            return self.condition(value)
        if category == "where":
            return f"where {self.condition(value)}"
        return super().said(category, value)

    def level(self, name: str) -> str:
        """A level's name."""
        return self.name(name) if self.short else quoted(name)


def _split(key: str, value: Any, whole: Json | None = None) -> Iterator[Json]:
    """A part of a figure or entry as separate phrases, one each."""
    if key in ("format", "labels"):
        yield from ({key: {k: v}} for k, v in value.items())
    elif key == "signs":
        for sign in (-1, 1):
            if own := {k: v for k, v in value.items() if v == sign}:
                yield {key: own}
    elif key == "placed" and whole and "placed_by" in whole:
        yield {key: value, "placed_by": whole["placed_by"]}
    else:
        yield {key: value}


def document(report: Report) -> dict[str, Any]:
    """A report as the plain values that its sentence expresses: defaults left out, except what distinguishes one kind
    of figure from another."""
    made = report.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    for figure, whole in zip(made["figures"], report.figures, strict=True):
        full = whole.model_dump(mode="json", by_alias=True)
        for key in ("of_total", "as"):
            if key in full:
                figure[key] = full[key]
    return made
