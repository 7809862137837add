"""Kalendor: transaction exports rolled into recurring summary reports."""

VERSION = "0.3.0"
