"""A lock for every conversion of text to a Python syntax tree.

Before 3.11.8 and 3.12.2, CPython counts the recursion depth of all conversions in one shared place (its issue 106905):
if the garbage collector lets another thread convert at the same time, both counts are wrong and one thread gets a
`SystemError`. `numpy.load` parses an array's header with `ast.literal_eval`, so it is such a conversion too.
"""

from threading import Lock

CONVERSION = Lock()
"""Held while `ast.parse`, `ast.literal_eval` or `numpy.load` is called."""
