"""Preloaded before forking: what each process would otherwise compute at its first request."""

from kalendor.sentence.grammar import grammar

grammar()
