"""The terminals at each position of a text: words, numbers, dates, and the dictionary's names that begin there."""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from kalendor.sentence.grammar import SEPARATORS, grammar
from kalendor.sentence.names import AS_WRITTEN, FOLDED, OF_THE_GRAMMAR, Named, Names
from kalendor.sentence.tokens import Token, folded, tokens

Found = tuple[int, Any, float]  # the token after it, its meaning, and the cost of that reading
NUMBER_AS_LINES = 0.8
JOINED_COST = 1.5  # cost of a new name that contains `and`
UNKNOWN_COST, UNSURE_COST, UNHEARD_COST = 99.0, 50.0, 5.0
KINDS = {"number": ("NUMBERS",), "date": ("DATES",), "text": ("TEXTS", "CATEGORIES"), "yes_no": ("CATEGORIES",)}
PLACES = {"level": "LEVELNAME", "tree": "TREE", "calendar": "CALENDAR", "set": "SET", "source": "SOURCE", "records": "RECORDS", "record": "RECORD", "period": "PERIOD"}  # fmt: skip
_PERCENTILE, _QUARTER = re.compile(r"p(\d{1,2})"), re.compile(r"q([1-4])")
_MOST_WORDS_OF_A_NEW_NAME = 6
_BEFORE_A_NAME = frozenset((",", ";", "and", "with", "plus", "="))
_GRAINS = frozenset([
    "day", "days", "week", "weeks", "month", "months", "quarter", "quarters", "half", "year", "years", "hour",
    "hours", "minute", "minutes", "weekday",
])  # fmt: skip


_NUMBER_WORDS = {
    word: n
    for n, word in enumerate(
        ("two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"), 2
    )
}


def looks_like_a_number(word: str) -> bool:
    """Whether a word represents a number or a quarter, as `p90` and `q1` do."""
    return bool(_PERCENTILE.fullmatch(word.casefold()) or _QUARTER.fullmatch(word.casefold()))


class Lexicon:
    """A text, its tokens, and the terminals that each may be."""

    def __init__(self, text: str, names: Names) -> None:
        self.text, self.names = text, names
        self.tokens: Sequence[Token] = tokens(text)
        self.words = [token.word for token in self.tokens]
        self._folded = [folded(token.text) if token.kind != "quoted" else "" for token in self.tokens]
        self._at: dict[int, dict[str, list[Found]]] = {}
        self._made = {
            token.value
            for n, token in enumerate(self.tokens)
            if token.kind == "quoted" and self.words[max(0, n - 2) : n] == ["with", "column"]
        }

        self._given = tuple(self._names_given())

    def _names_given(self) -> Iterator[tuple[int, tuple[str, ...], str]]:
        """The names given before a `=`: the position of that sign, the name's words, and the name."""
        for end, word in enumerate(self.words):
            begin = end
            while begin > 0 and self.words[begin - 1] not in _BEFORE_A_NAME:
                begin -= 1
            if word == "=" and 0 < end - begin <= _MOST_WORDS_OF_A_NEW_NAME:
                written = self.text[self.tokens[begin].start : self.tokens[end - 1].end]
                yield end, tuple(self.words[begin:end]), written

    def __len__(self) -> int:
        return len(self.tokens)

    def at(self, i: int) -> Mapping[str, list[Found]]:
        """The possible terminals at a token, by kind."""
        found = self._at.get(i)
        if found is None:
            found = self._at[i] = self._found(i) if i < len(self.tokens) else {}
        return found

    def _found(self, i: int) -> dict[str, list[Found]]:
        token = self.tokens[i]
        found: dict[str, list[Found]] = {}

        def add(kind: str, value: Any, end: int = i + 1, cost: float = 0.0) -> None:
            found.setdefault(kind, []).append((end, value, cost))

        if token.kind == "quoted":
            self._quoted(token, i, add)
        else:
            run = self._folded[i : i + 12]
            for size, named, cost in self.names.at(run):
                self._named(named, i, i + size, cost + self._spelling(named, i, i + size), add)
        self._share(found, i, add)
        self._plain(token, i, add)
        self._new_name(i, add)
        for given, words, name in self._given:
            end = i + len(words)
            if i > given and tuple(self.words[i:end]) == words and self.words[end : end + 1] != ["="]:
                add("GIVEN", {"ref": name}, end)
        if token.kind == "word" and token.word not in grammar().words and found.keys() <= {"WORD"}:
            add("UNKNOWN", {"unknown": token.text}, cost=UNKNOWN_COST)
        return found

    def _share(self, found: dict[str, list[Found]], i: int, add: Callable[..., None]) -> None:
        """Remove the readings of words that are a value of several columns: the user is asked which is meant."""
        by_end: dict[int, dict[str, tuple[str, float]]] = {}
        for end, (column, text), cost in found.get("VALUE", ()):
            texts = by_end.setdefault(end, {})
            if column not in texts or cost < texts[column][1]:
                texts[column] = text, cost
        for end, texts in by_end.items():
            least = min(cost for _, cost in texts.values())
            alike = {column: text for column, (text, cost) in texts.items() if cost <= least + FOLDED}
            if len(alike) > 1:
                found["TEXT"] = [one for one in found["TEXT"] if one[0] != end]
                found["VALUE"] = [one for one in found["VALUE"] if one[0] != end]
                add("SHARED", alike, end, least)
                written = self.text[self.tokens[i].start : self.tokens[end - 1].end]
                add("UNSURE", {"unknown": written}, end, UNSURE_COST)

    def _spelling(self, named: Named, i: int, end: int) -> float:
        """The cost of a name that is spelt differently, or consists of the grammar's own words."""
        written = self.text[self.tokens[i].start : self.tokens[end - 1].end]
        passed = _GRAINS if named.kind == "column" else frozenset()
        own = all(word in grammar().words and word not in passed for word in self._folded[i:end])
        return (AS_WRITTEN if written == named.spelling else FOLDED) + (OF_THE_GRAMMAR if own else 0.0)

    def _named(self, named: Named, i: int, end: int, cost: float, add: Callable[..., None]) -> None:
        match named.kind:
            case "column":
                add("COLUMN", named.value, end, cost)
                add("COLUMNS", named.value, end, cost)
                add(
                    "LINES",
                    {"alike": named.value},
                    end,
                    cost + (NUMBER_AS_LINES if self.names.kind_of(named.value) == "number" else 0),
                )
                for kind in KINDS.get(self.names.kind_of(named.value) or "", ()):
                    add(kind, named.value, end, cost)
            case "value":
                add("VALUE", named.value, end, cost)
                add("TEXT", named.value[1], end, cost)
            case "level":
                add("LEVELNAME", named.value[1], end, cost)
                add("LINES", {"alike": named.value[1]}, end, cost + FOLDED)
                self._level_path(named.value, end, cost, add)
            case "figure":
                add("FIGURE", self.names.figures[named.value], end, cost)
                add("REF", {"ref": named.value}, end, cost)
                add("SHOWN", named.value, end, cost)
            case _:
                add(PLACES[named.kind], named.value, end, cost)

    def _level_path(self, level: tuple[str, str], end: int, cost: float, add: Callable[..., None]) -> None:
        """A level alone, and with those that follow it beneath it in the same tree."""
        tree, path = level[0], [level[1]]
        levels = list(self.names.trees[tree][1])
        cost += 0.1  # a column of the same name takes precedence
        add("LEVELS", (tree, list(path)), end, cost)
        while True:
            onward = next(
                (
                    (at + size, named.value[1])
                    for way in SEPARATORS["then"]
                    if tuple(self.words[end : end + len(way)]) == way
                    for at in (end + len(way),)
                    for size, named, _ in self.names.at(self._folded[at : at + 12])
                    if named.kind == "level"
                    and named.value[0] == tree
                    and levels.index(named.value[1]) > levels.index(path[-1])
                ),
                None,
            )
            if onward is None:
                return
            end, step = onward
            path.append(step)
            add("LEVELS", (tree, list(path)), end, cost - 0.1 * len(path))

    def _quoted(self, token: Token, i: int, add: Callable[..., None]) -> None:
        name = token.value
        for named, cost in self.names.exactly(name):
            self._named(named, i, i + 1, cost, add)
        add("LABEL", name)
        add("LINES", name, cost=-FOLDED)  # exact match
        add("REF", {"ref": name}, cost=FOLDED)
        for kind in ("COLUMN", "LEVELNAME", "TREE", "CALENDAR", "SET", "SOURCE", "COLUMNS"):
            add(kind, name, cost=AS_WRITTEN if kind == "COLUMN" and name in self._made else UNHEARD_COST)

    def _plain(self, token: Token, i: int, add: Callable[..., None]) -> None:
        """Numbers, days, and other terminals recognised by their form."""
        if token.kind == "word":
            add("WORD", token.text)
            if token.word in _NUMBER_WORDS:
                add("INT", _NUMBER_WORDS[token.word])
            if form := _PERCENTILE.fullmatch(token.word):
                add("PERCENTILE", float(form[1]))
            if form := _QUARTER.fullmatch(token.word):
                add("QUARTER", int(form[1]))
        elif token.kind == "day":
            add("DAY", token.value)
        elif token.kind == "ordinal":
            add("ORDINAL", float(token.value))
            if token.value.isdigit() and int(token.value) > 0:
                add("COUNTED", int(token.value))
        elif token.kind == "percentage":
            add("PERCENTAGE", token.value)
        elif token.kind == "number":
            self._number(token, i, add)
        elif token.close:
            end = next((n for n in range(i, len(self.tokens)) if self.tokens[n].start >= token.close), len(self.tokens))
            add("SQL", self.text[token.start + 1 : token.close - 1], end)

    def _number(self, token: Token, i: int, add: Callable[..., None]) -> None:
        add("NUMBERTEXT", token.value)
        whole = token.value.lstrip("-").isdigit()
        add("NUMBER", int(token.value) if whole else float(token.value))
        if token.value.isdigit():
            add("INT", int(token.value))
        if token.text.isdigit() and len(token.text) == 4 and 1800 <= int(token.text) <= 2200:
            add("YEAR", int(token.text))
            after = self.tokens[i + 1] if i + 1 < len(self.tokens) else None
            if after and after.start == token.end and re.fullmatch(r"-(0[1-9]|1[0-2])", after.text):
                add("YEARMONTH", (int(token.text), int(after.text[1:])), i + 2)

    def _new_name(self, i: int, add: Callable[..., None]) -> None:
        """A name being defined: in quotation marks, or the words up to `=`. If it contains `and`, it is more likely a
        figure followed by the name of the next."""
        if self.tokens[i].kind == "quoted":
            add("NEWNAME", self.tokens[i].value)
            return
        for end in range(i, min(i + _MOST_WORDS_OF_A_NEW_NAME, len(self.tokens))):
            if self.words[end] == "=" and end > i:
                joined = JOINED_COST * self.words[i:end].count("and")
                add("NEWNAME", self.text[self.tokens[i].start : self.tokens[end - 1].end], end, joined)
            if self.tokens[end].kind not in ("word", "number") and self.words[end] != "%":
                return
