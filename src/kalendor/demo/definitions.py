"""Skerry Line's groupings and reports."""

from typing import Any

from kalendor.demo.skerry import ROUTES

NET = {"name": "net", "formula": "gross - COALESCE(discount, 0)"}
PIER = {"name": "pier", "lookup": {"source": "Routes", "match": {"route": "code"}, "take": "pier"}}
TIMETABLE = "Timetable year"

_NAMES = {route.code: route.name for route in ROUTES}


def _values(*codes: str) -> list[dict[str, str]]:
    return [{"value": code, "label": _NAMES[code]} for code in codes]


SEA_AREAS = {
    "kalendor": 1, "kind": "tree", "name": "Sea areas", "levels": ["Sea area", "Route"],
    "roots": [
        {"label": "Inner Sound", "under": _values("HAL-SKR", "HAL-TAR", "SKA-VOL")},
        {"label": "North Isles", "rule": "value LIKE 'BRA-%'", "under": _values("BRA-UIS", "BRA-FAL")},
        {"label": "Outer Banks", "under": _values("COR-MID", "COR-NES")},
        {"label": "Excursions", "under": _values("EXC-SEA", "EXC-LAM")},
    ],
}  # fmt: skip
FARE_FAMILIES = {
    "kalendor": 1, "kind": "tree", "name": "Fare families", "levels": ["Family", "Fare"],
    "roots": [
        {"label": "Walk-on", "under": [{"value": v} for v in ("adult", "child", "senior", "group")]},
        {"label": "Residents", "under": [{"value": v} for v in ("islander", "season")]},
        {"label": "Wheels", "under": [{"value": v} for v in ("vehicle", "bicycle")]},
        {"value": "staff", "label": "Staff"},
    ],
}  # fmt: skip
CALENDARS = (
    {"kalendor": 1, "kind": "calendar", "name": TIMETABLE, "months": {"start_month": 11, "start_day": 1},
     "week_start": "monday", "year_name": {"by": "end", "prefix": "TY", "digits": 2}},
    {"kalendor": 1, "kind": "calendar", "name": "Retail weeks 4-4-5",
     "weeks": {"pattern": "4-4-5", "ends": "nearest", "weekday": "saturday", "month": 1},
     "year_name": {"by": "start", "prefix": "RY", "digits": 2}},
)  # fmt: skip
BUCKET_SETS = (
    {"kalendor": 1, "kind": "buckets", "name": "Days overdue", "cut": [0, 30, 60, 90, 180]},
    {"kalendor": 1, "kind": "buckets", "name": "Fare size", "cut": [0, 10, 25, 50, 100]},
)
GROUPINGS: tuple[dict[str, Any], ...] = (SEA_AREAS, FARE_FAMILIES, *CALENDARS, *BUCKET_SETS)

_AREAS = {"category": "route", "tree": "Sea areas", "levels": ["Sea area", "Route"]}


def _period(column: str, *grains: str) -> dict[str, Any]:
    return {"period": column, "calendar": TIMETABLE, "grains": list(grains)}


def _report(title: str, source: str, **keys: Any) -> dict[str, Any]:
    return {"kalendor": 1, "kind": "report", "title": title, "source": source, **keys}


def _owed(every: str, **more: Any) -> dict[str, Any]:
    return {"every": every, "calendar": TIMETABLE, "since": "2025-11-01", **more}


_SAILED = ["status = 'sailed'"]
_SUM_NET = {"name": "Net fare", "take": "sum", "of": "net"}
REPORTS: tuple[dict[str, Any], ...] = (
    _report(
        "Net fare by sea area", "Ticket sales", only=_SAILED, as_of="2026-07-31",
        window={"of": "sold on", "calendar": TIMETABLE, "show": {"last": 2, "grain": "year"}, "each_to_date": True},
        down=[_AREAS], across=[_period("sold on", "year")],
        figures=[
            _SUM_NET,
            {"name": "Change", "compare": "Net fare", "with": "year_earlier", "as": "percent"},
            {"name": "Share", "share": "Net fare", "of_total": "parent"},
        ],
        cadence=_owed("month", due={"working_days": 3}, limits=[
            {"figure": "Net fare", "against": "year_earlier", "percent": 15},
        ]),
    ),
    _report(
        "Tickets by route and month", "Ticket sales", as_of="2026-07-31",
        window={"of": "sold on", "calendar": TIMETABLE, "show": {"this": "year"}},
        down=[_AREAS], across=[_period("sold on", "month")],
        figures=[{"name": "Tickets", "take": "count"}],
    ),
    _report(
        "Freight owed by age", "Freight invoices", as_of="2026-07-31",
        down=[{"age": "due on", "set": "Days overdue", "opened": "invoiced on", "closed": "paid on"}, {"category": "customer", "top": 5, "by": "Owed"}],
        figures=[
            {"name": "Owed", "take": "sum", "of": "amount"},
            {"name": "Invoices", "take": "count"},
            {"name": "Share", "share": "Owed", "of_total": "all"},
        ],
        cadence=_owed("month", due={"days": 1}),
    ),
    _report(
        "Year so far, month by month", "Ticket sales", only=_SAILED, as_of="2026-07-31",
        window={"of": "sold on", "calendar": TIMETABLE, "show": {"last": 3, "grain": "year"}},
        down=[_period("sold on", "quarter", "month")], across=[_period("sold on", "year")],
        figures=[_SUM_NET, {"name": "So far", "running": "Net fare", "along": "sold on", "restart": "year"}],
        totals={"grand_across": "none"},
        cadence=_owed("quarter", due={"working_days": 5}),
    ),
    _report(
        "Fares by family and size", "Ticket sales", only=_SAILED, as_of="2026-07-31",
        window={"of": "sold on", "calendar": TIMETABLE, "show": {"this": "year"}},
        down=[{"category": "fare type", "tree": "Fare families"}, {"bucket": "net", "set": "Fare size", "name": "Fare size"}],
        figures=[
            {"name": "Tickets", "take": "count"}, _SUM_NET,
            {"name": "Median fare", "take": "median", "of": "net", "format": {"places": 2}},
            {"name": "Net per ticket", "formula": "\"Net fare\" / \"Tickets\"", "format": {"places": 2}},
        ],
    ),
    _report(
        "Net fare against plan", "Ticket sales", only=_SAILED, as_of="2026-07-31",
        beside=[{"source": "Plan", "match": {"sold on": "month", "route": "route"}}],
        window={"of": "sold on", "calendar": TIMETABLE, "show": {"this": "year"}},
        down=[_AREAS], across=[_period("sold on", "quarter")],
        figures=[
            _SUM_NET,
            {"name": "Plan", "take": "sum", "of": "planned", "source": "Plan"},
            {"name": "Off plan", "compare": "Net fare", "with": {"figure": "Plan"}, "as": "percent"},
        ],
        cadence=_owed("quarter", due={"days": 10}),
    ),
    _report(
        "Passengers by pier and hour", "Pier counters", as_of="2026-07-31",
        window={"of": "counted at", "calendar": TIMETABLE, "show": {"this": "month"}},
        down=[{"category": "pier"}], across=[{"period": "counted at", "grains": ["hour_of_day"]}],
        figures=[{"name": "Passengers", "take": "sum", "of": "passengers"}],
        cadence=_owed("month", due={"days": 5}),
    ),
)  # fmt: skip
