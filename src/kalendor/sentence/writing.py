"""A report as its sentence: the grammar read backwards."""

import ast
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from typing import Any

from kalendor.core.values.days import short_day
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError
from kalendor.sentence.assembling import level_names, references, same_figure
from kalendor.sentence.conditions import in_words, normal
from kalendor.sentence.grammar import WRITTEN_BETWEEN, Choice, Element, Literal, Phrases, Rule, Slot, grammar
from kalendor.sentence.lexicon import looks_like_a_number
from kalendor.sentence.meanings import INVERSES
from kalendor.sentence.names import Names, names
from kalendor.sentence.naming import capital, free_name, number_text, ordinal, own_name
from kalendor.sentence.tokens import closing, folded

Json = Mapping[str, Any]
JOINING = frozenset(
    [
        "a",
        "and",
        "as",
        "at",
        "across",
        "beneath",
        "blank",
        "by",
        "down",
        "each",
        "except",
        "excluding",
        "for",
        "from",
        "in",
        "is",
        "keep",
        "no",
        "nor",
        "not",
        "of",
        "on",
        "only",
        "or",
        "other",
        "over",
        "than",
        "the",
        "then",
        "to",
        "until",
        "where",
        "with",
        "within",
        "without",
        "yes",
    ]
)
NAMES = frozenset(
    (
        "COLUMN",
        "LEVELNAME",
        "TREE",
        "CALENDAR",
        "SET",
        "SOURCE",
        "NUMBERS",
        "DATES",
        "TEXTS",
        "COLUMNS",
        "TEXT",
        "LINES",
        "SHOWN",
    )
)
OF_A_KIND = {"NUMBERS": "number", "DATES": "date", "TEXTS": "text"}
FIGURE_PARTS = ("source", "where", "carry", "to_date", "format", "hide")
ENTRY_PARTS = ("name", "levels", "order", "by", "rest", "empty", "placed", "signs", "labels")
TIGHT = frozenset(",;:)-")
WITH_SEPARATORS = 10_000
EPOCH = date(1970, 1, 1).toordinal()


@dataclass(frozen=True)
class Piece:
    """Some words of a sentence. A phrase says which part of the report it words: `kind`, and `index` in the report's list
    of that kind; words that join have no kind. `tone` is its colour."""

    text: str
    kind: str = ""
    index: int = 0
    tone: str = ""


class NoWordsError(Exception):
    """No rule of the grammar writes a value."""


class Writer:
    """Writes the parts of one report. In the short form, as a screen shows it, names that the report has given stand for
    what they name, and its date and the figure before are left unsaid."""

    def __init__(self, report: Report, known: Names | None = None, short: bool = False) -> None:
        self.report: Json = document(report)
        self.known = known or names([], {})
        self.short = short
        self.before: str | None = None
        self.date: str | None = None
        self._levels = level_names(self.report, self.known)
        self._dates = self._all_dates()
        unsure = any("tree" in e and "levels" not in e and e["tree"] not in self.known.trees for e in self._entries())
        self._inverses = {
            **INVERSES,
            "tree_levels": self._tree_levels,
            "tree_whole": self._tree_whole,
            "bucket_set": self._set,
        }
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
        """Every date that the report is about."""
        spoken = [e[key] for e in self._entries() for key in ("period", "age") if key in e]
        spoken += [self.report["window"]["of"]] if "window" in self.report else []
        spoken += [figure["along"] for figure in self.report["figures"] if figure.get("along", "lines") != "lines"]
        return set(spoken)

    def _unsaid(self, name: str) -> bool:
        """Whether a date need not be named: the only one there is, once it is known which."""
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
        """A figure as a screen shows it: one that rests on another by what it is, others by the name that they were given."""
        hidden = " (hidden)" if figure.get("hide") else ""
        if any(key in core for key in references()) or own == figure["name"]:
            with suppress(NoWordsError):
                return self.write("figure_core", core) + hidden
        return self.name(figure["name"]) + hidden

    def _spoken_of_before(self, name: str, n: int) -> bool:
        """Whether a figure that stands earlier rests on this one."""
        earlier = self.report["figures"][:n]
        return any(name in (f.get(key) for key in references()) or name in str(f.get("with")) for f in earlier)

    def entry(self, entry: Json, last: bool = False) -> str:
        """An axis entry in words; the `last` of its axis says its order after a comma, in the short form."""
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
            words = f"the top {entry['top']} of {words} by {self._terminal('REF', entry['by'])}"
        said = [self.write("entry_part", part) for key, value in parts.items() for part in _split(key, value, entry)]
        return words + (f" ({'; '.join(said)})" if said else "") + after

    def condition(self, sql: str, of_lines: bool = False) -> str:
        """A condition in words, or as its SQL; one `of_lines` is over figures."""
        found = in_words(sql, of_lines)
        try:
            return self.write("condition", found)
        except NoWordsError:
            return sql  # nothing that can be read as a condition

    # -- the grammar, backwards

    def write(self, category: str, value: Any) -> str:
        """What a category says for a value.

        Raises NoWordsError where no rule does.
        """
        for rule in grammar()[category].rules:
            if rule.read_only or (rule.short and not self.short):
                continue
            bound = self._bound(rule, value)
            if bound is None:
                continue
            try:
                return self._emit(rule.elements, bound)
            except NoWordsError:
                continue
        raise NoWordsError(f"no words for {value!r} as {category}")

    def _bound(self, rule: Rule, value: Any) -> dict[str, Any] | None:
        bound: dict[str, Any] = {}
        return bound if self._unify(rule.template, value, bound) else None

    def _unify(self, template: ast.expr, value: Any, bound: dict[str, Any]) -> bool:
        match template:
            case ast.Constant(value=constant):
                return bool(constant == value) and isinstance(value, bool) == isinstance(constant, bool)
            case ast.Name(id="date"):
                return isinstance(value, str) and self._unsaid(value)
            case ast.Name(id="before"):
                return self.short and value is not None and value == self.before
            case ast.Name(id=name):
                bound[name] = value
                return True
            case ast.Dict():
                return isinstance(value, dict) and self._unify_dict(template, value, bound)
            case ast.List(elts=elements):
                if not isinstance(value, list):
                    return False
                if elements and isinstance(elements[-1], ast.Starred):
                    bound[elements[-1].value.id], value = value[len(elements) - 1 :], value[: len(elements) - 1]  # type: ignore[attr-defined]
                    elements = elements[:-1]
                if len(value) != len(elements):
                    return False
                return all(self._unify(e, v, bound) for e, v in zip(elements, value, strict=True))
            case ast.Call(func=ast.Name(id=function), args=[ast.Name(id=name)]) if function in self._inverses:
                bound[name] = self._inverses[function](value)
                return bound[name] is not None
        return False

    def _unify_dict(self, template: ast.Dict, value: Json, bound: dict[str, Any]) -> bool:
        left = dict(value)
        rest: str | None = None
        for key, part in zip(template.keys, template.values, strict=True):
            if key is None:
                rest = _rest_of(part)
                if rest is None:
                    return False
            elif isinstance(key, ast.Constant):
                if key.value not in left or not self._unify(part, left.pop(key.value), bound):
                    return False
            elif isinstance(key, ast.Name):
                if len(left) != 1:
                    return False
                (bound[key.id], only), *_ = left.items()
                left = {}
                if not self._unify(part, only, bound):
                    return False
        if rest is not None:
            name, _, function = rest.partition(" ")
            bound[name] = self._inverses[function](left) if function else left
            return bound[name] is not None
        return not left

    def _emit(self, elements: Sequence[Element], bound: Mapping[str, Any]) -> str:
        words: list[str] = []
        for element in elements:
            if isinstance(element, Literal):
                words.append(element.word)
            elif isinstance(element, Phrases):
                words += () if element.optional else element.written
            elif isinstance(element, Choice):
                if not element.optional:
                    words.append(self._emit(element.ways[0], bound))
            else:
                words.append(self._slot(element, bound[element.name]))
        return _joined(words)

    def _slot(self, slot: Slot, value: Any) -> str:
        if slot.separator is None:
            return self._said(slot.category, value)
        if not isinstance(value, list) or not value:
            raise NoWordsError
        members = [self._said(slot.category, one) for one in value]
        between = WRITTEN_BETWEEN[slot.separator]
        if slot.separator in ("and", "or") and len(members) > 2:
            return f"{', '.join(members[:-1])}{between}{members[-1]}"
        return between.join(members)

    def _said(self, category: str, value: Any) -> str:
        if category == "entry":
            return self.entry(value)
        if category == "keep":
            return f"keep {self.level(value['level'])} where {self.condition(value['where'], of_lines=True)}"
        if category == "condition" and isinstance(value, str):
            return self.condition(value)
        if category == "where":
            return f"where {self.condition(value)}"
        return self.write(category, value) if category in grammar().categories else self._terminal(category, value)

    # -- names and numbers

    def _terminal(self, kind: str, value: Any) -> str:
        written = _TERMINALS.get(kind)
        if kind in ("YEAR", "LEVELS"):
            return _text(value)
        if kind == "NUMBERTEXT" and self.short and str(value).isdigit() and int(value) >= WITH_SEPARATORS:
            return f"{int(value):,}"
        if kind == "LINES" and not self.short:
            return quoted(value)
        if kind in NAMES or (kind == "REF" and self.short):
            return self._column(kind, value)
        if kind == "DAY" and self.short and isinstance(value, str):
            return short_day(date.fromisoformat(value).toordinal() - EPOCH)
        if written is None:
            raise NoWordsError
        return written(value)

    def _column(self, kind: str, value: Any) -> str:
        if not isinstance(value, str):
            raise NoWordsError
        if kind in OF_A_KIND and self.known.columns and self.known.kind_of(value) != OF_A_KIND[kind]:
            raise NoWordsError
        return plural(self.name(value)) if kind == "COLUMNS" else self.name(value)

    def name(self, name: str) -> str:
        """A name as it stands in the sentence: in quotation marks where it could be taken for something else."""
        if self.short:
            words = folded(name).split(" ")
            clear = any(word not in grammar().words for word in words) or self._is_known(name, words)
            clear = clear and all(word.isidentifier() for word in words)
            return name.replace("_", " ") if clear else quoted(name)
        made = any(column["name"] == name for column in self.report.get("columns", ()))
        return name if plain_name(name) and not made else quoted(name)

    def _is_known(self, name: str, words: Sequence[str]) -> bool:
        """Whether a name that is made of the grammar's words stands in the dictionary, and is none of those that join."""
        return not (len(words) == 1 and words[0] in JOINING) and any(True for _ in self.known.exactly(name))

    def level(self, name: str) -> str:
        """A level's name."""
        return self.name(name) if self.short else quoted(name)


def plain_name(name: str) -> bool:
    """Whether a name can stand without quotation marks: words that the grammar does not know.

    >>> plain_name("sold_on"), plain_name("Net fare"), plain_name("by"), plain_name("Top 5"), plain_name("in 2025")
    (True, True, False, False, False)
    """
    words = name.split(" ")
    return all(
        word.isidentifier()
        and folded(word) == word.replace("_", " ").casefold()
        and word.casefold() not in grammar().words
        and not looks_like_a_number(word)
        for word in words
    )


def plural(name: str) -> str:
    """A name in the plural, where it stands without quotation marks.

    >>> plural("clinic"), plural("category"), plural("branch"), plural("fare_class")
    ('clinics', 'categories', 'branches', 'fare_classes')
    """
    if name.endswith('"'):
        return name
    if name.endswith("y") and name[-2:-1] not in "aeiou":
        return name[:-1] + "ies"
    return name + ("es" if name.endswith(("s", "x", "z", "ch", "sh")) else "s")


def quoted(name: str) -> str:
    """A name in quotation marks.

    >>> quoted('the "big" one')
    '"the ""big"" one"'
    """
    if not isinstance(name, str):
        raise NoWordsError
    return '"' + name.replace('"', '""') + '"'


def _bracketed(sql: str) -> str:
    if closing(f"({sql})", 0) == len(sql) + 2:
        return f"({sql})"
    try:
        return f"({normal(sql)})"  # without the remarks that a bracket may stand in
    except DefinitionError:
        raise NoWordsError from None


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise NoWordsError
    return value


_TERMINALS: Mapping[str, Callable[[Any], str]] = {
    "REF": quoted,
    "LABEL": quoted,
    "NEWNAME": quoted,
    "SQL": _bracketed,
    "DAY": _text,
    "INT": str,
    "NUMBER": number_text,
    "NUMBERTEXT": str,
    "ORDINAL": ordinal,
    "COUNTED": ordinal,
}


def _joined(words: Sequence[str]) -> str:
    """Words with blanks between them, but for those that marks take away.

    >>> _joined(["x", "(", "a", ";", "b", ")", "3", "-", "period"])
    'x (a; b) 3-period'
    """
    text = ""
    for word in words:
        tight = not text or word in TIGHT or text.endswith(("(", "-"))
        text += word if tight else f" {word}"
    return text


def _rest_of(part: ast.expr) -> str | None:
    """The name that what is left of a dictionary is bound to, and the function that made it."""
    match part:
        case ast.Name(id=name):
            return name
        case ast.Call(func=ast.Name(id=function), args=[ast.Name(id=name)]) if function in INVERSES:
            return f"{name} {function}"
    return None


def _split(key: str, value: Any, whole: Json | None = None) -> Iterator[Json]:
    """A part of a figure or entry as the phrases that say it, one each."""
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
    """A report as the plain values that its sentence words: what is as it is by itself left out, but for what tells one
    kind of figure from another."""
    made = report.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    for figure, whole in zip(made["figures"], report.figures, strict=True):
        full = whole.model_dump(mode="json", by_alias=True)
        for key in ("of_total", "as"):
            if key in full:
                figure[key] = full[key]
    return made


def say(report: Report, known: Names | None = None) -> str:
    """The report as a sentence in full, which reads back as the same report over the same source."""
    return "".join(piece.text for piece in sentence(report, known, short=False))


def brief(report: Report, known: Names | None = None) -> str:
    """The report as a sentence as a screen shows it."""
    return "".join(piece.text for piece in sentence(report, known))


def title(report: Report, known: Names | None = None) -> str:
    """What a report can be called until somebody names it: its first figure by its outermost lines or columns."""
    writer = Writer(report, known, short=True)
    figure = next(
        (words for words, one in zip(writer.figures(), report.figures, strict=True) if not one.hide), "Records"
    )
    entries = [*writer.report.get("down", ()), *writer.report.get("across", ())]
    core = ("category", "tree", "period", "calendar", "grains", "bucket", "age", "set", "cut", "opened", "closed")
    plain = (
        {k: v for k, v in entries[0].items() if k in core or (k == "levels" and "tree" in entries[0])}
        if entries
        else None
    )
    return capital(figure) + (f" by {writer.entry(plain)}" if plain else "")


def condition_words(sql: str) -> str:
    """A condition in words, as a screen shows it.

    >>> condition_words("status IN ('sailed', 'late') AND net > 0")
    'status is sailed or late and net is over 0'
    """
    return any_writer().condition(sql)


def any_writer() -> "Writer":
    """A writer of the short form over no report in particular."""
    return Writer(_ANY_REPORT, short=True)


def sentence(report: Report, known: Names | None = None, short: bool = True) -> list[Piece]:
    """The report's sentence in pieces, in order; joined they are the text."""
    writer = Writer(report, known, short)
    pieces: list[Piece] = []
    for n, words in enumerate(writer.figures()):
        if n:
            pieces.append(Piece(_before_figure(report, n) if short else ", "))
        pieces.append(Piece(capital(words) if short and n == 0 else words, "figure", n, "figure"))
    for way in ("down", "across"):
        entries = writer.report.get(way, ())
        for n, entry in enumerate(entries):
            pieces.append(Piece(" then " if n else f", {way} by "))
            pieces.append(Piece(writer.entry(entry, n == len(entries) - 1), way, n, _tone(entry)))
            writer.date = entry.get("period", writer.date)
    pieces += _more(writer)
    pieces.append(Piece("."))
    return [piece for piece in pieces if piece.text]


def _before_figure(report: Report, n: int) -> str:
    derived = any(getattr(report.figures[n], key, None) is not None for key in references())
    return " with " if n == 1 and derived else " and " if n == len(report.figures) - 1 else ", "


def _tone(entry: Json) -> str:
    return "tree" if "category" in entry else "period" if "period" in entry else "bucket"


def _more(writer: Writer) -> Iterator[Piece]:
    """What a sentence says after its figures, lines and columns."""
    report = writer.report
    if "window" in report:
        words = writer.write("window", report["window"])
        yield Piece(", " if words.startswith(("from ", "until ")) else ", for ")
        yield Piece(words, "window", 0, "period")
    for n, condition in enumerate(report.get("only", ())):
        yield Piece(", and where " if n else ", only where ")
        yield Piece(writer.condition(condition), "only", n, "condition")
    for n, keep in enumerate(report.get("keep", ())):
        yield Piece(", keep ")
        yield Piece(
            f"{writer.level(keep['level'])} where {writer.condition(keep['where'], of_lines=True)}",
            "keep",
            n,
            "condition",
        )
    for kind, index, category, value in _clauses(report, writer.short):
        yield Piece(", ")
        yield Piece(writer.write(category, value), kind, index, "condition")


def _clauses(report: Json, short: bool) -> Iterator[tuple[str, int, str, Any]]:
    """The other clauses: their kind and place in the report, and what the grammar's `clause` says for them."""
    totals = dict(report.get("totals", {}))
    levels = totals.pop("levels", {})
    if all(totals.get(side) == "none" for side in ("down", "across", "grand_down", "grand_across")):
        yield (
            "totals",
            0,
            "totals",
            {side: totals.pop(side) for side in ("down", "across", "grand_down", "grand_across")},
        )
    for key, value in totals.items():
        yield "totals", 0, "totals", {key: value}
    for level, place in levels.items():
        yield "totals", 0, "totals", {"levels": {level: place}}
    for n, beside in enumerate(report.get("beside", ())):
        yield "beside", n, "clause", {"beside": [beside]}
    for n, column in enumerate(report.get("columns", ())):
        yield "columns", n, "clause", {"columns": [column]}
    for n, line in enumerate(report.get("lines", ())):
        yield "lines", n, "clause", {"lines": [line]}
    for n, control in enumerate(report.get("controls", ())):
        yield "controls", n, "clause", {"controls": [control]}
    if report.get("records") is not None:
        yield "records", 0, "clause", {"records": report["records"]}
    if parts := list(_layout(report.get("layout", {}))):
        yield "layout", 0, "clause", {"layout": parts}
    for key, kind in (("hidden_lines", "lines"), ("hidden_columns", "columns")):
        for path in report.get("out_of_sight", {}).get(kind, ()):
            yield "sight", 0, "clause", {key: [path]}
    if "as_of" in report and not short:
        yield "as_of", 0, "clause", {"as_of": report["as_of"]}
    for n, silenced in enumerate(report.get("silenced", ())):
        yield "silenced", n, "clause", {"silenced": [silenced]}


def _layout(layout: Json) -> Iterator[Json]:
    for key in ("lines", "labels", "grand"):
        if key in layout:
            yield {key: layout[key]}
    for level, look in layout.get("levels", {}).items():
        for key, value in look.items():
            yield {"levels": {level: {key: value}}}
        if not look:
            yield {"levels": {level: {}}}
    for name, width in layout.get("widths", {}).items():
        yield {"widths": {name: width}}


_ANY_REPORT = Report.model_validate({"title": "any", "source": "any", "figures": [{"name": "n", "take": "count"}]})
