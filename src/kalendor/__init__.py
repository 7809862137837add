"""Kalendor: transaction exports rolled into recurring summary reports."""

import os

os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "1")  # looking for them takes longer than a small report

VERSION = "1.0.0"
