"""Loaded by the process that others are forked from: what each of them would otherwise compute at its first request."""

from kalendor.sentence.grammar import grammar

grammar()
