"""What is nearest to a word that was not understood."""

import difflib

from kalendor.sentence.grammar import grammar
from kalendor.sentence.names import Names, key_of

KINDS = {"column": "a column", "level": "a level", "tree": "a category tree", "calendar": "a calendar", "set": "ranges", "figure": "a figure"}  # fmt: skip
MOST, ALIKE, WORDS_ALIKE = 3, 0.6, 0.8
A_WORD = "a word"


def nearest(word: str, names: Names) -> list[tuple[str, str]]:
    """Up to three names or words that are spelt most alike, each with what it is."""
    known: dict[str, tuple[str, str]] = {}
    for key, named in names.everything():
        if named.kind in KINDS:
            known.setdefault(key, (named.spelling, KINDS[named.kind]))
        elif named.kind == "value":
            known.setdefault(key, (named.spelling, f"a value of {named.value[0]}"))
    for own in grammar().words:
        if own.isalpha() and len(own) > 3:
            known.setdefault(own, (own, A_WORD))
    key = key_of(word)
    near = [one for one in known if abs(len(one) - len(key)) <= max(2, len(key) // 2)]
    spelt = difflib.get_close_matches(key, near, n=MOST * 2, cutoff=ALIKE)
    alike = [
        one
        for one in spelt
        if known[one][1] != A_WORD or difflib.SequenceMatcher(None, key, one).ratio() >= WORDS_ALIKE
    ]
    return list(dict.fromkeys(known[one] for one in alike))[:MOST]


def completions(begun: str, names: Names) -> list[str]:
    """Up to five names that begin as a half-typed word does, columns and groupings before values, the short ones first."""
    key = key_of(begun)
    found = [
        (named.kind == "value", len(other), named.spelling)
        for other, named in names.everything()
        if other.startswith(key) and other != key and named.kind != "records"
    ]
    return list(dict.fromkeys(spelling for *_, spelling in sorted(found)[: MOST * 5]))[:5] if key else []
