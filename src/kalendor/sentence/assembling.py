"""Builds a report from the meanings of a sentence's clauses."""

from collections.abc import Mapping, Sequence
from copy import deepcopy
from typing import Any

from kalendor.sentence import parts
from kalendor.sentence.adding import Beside
from kalendor.sentence.chart import Unfit
from kalendor.sentence.conditions import sql_of
from kalendor.sentence.meanings import BEFORE, DATE, any_of, level_of, said_of
from kalendor.sentence.names import Names
from kalendor.sentence.naming import free_name, own_name

Json = dict[str, Any]


class Assembling:
    """A report under construction: `base` is the report that a sentence adds to, or an empty one."""

    def __init__(self, names: Names, base: Mapping[str, Any]) -> None:
        self.names = names
        own = deepcopy({key: list(base.get(key) or ()) for key in ("down", "across", "figures", "only", "keep")})
        self.report: Json = own  # the base is used again for the next reading of a text
        self.more = Beside(base)
        self._window_said = False
        self._said_again: set[tuple[str, int]] = set()
        self.window: Json | None = base.get("window")
        self._coming: set[str] = set()
        self._base_sizes = {key: len(self.report[key]) for key in own}
        spoken = [e["period"] for e in (*self.report["down"], *self.report["across"]) if "period" in e]
        self._base_date = next(iter(spoken), names.first_date)
        self._compared: Json | None = None
        self._last_base: Any = None
        self._later = False

    def take(self, clauses: Sequence[Mapping[str, Any]]) -> None:
        """Add what clauses mean: axes first, since figures and conditions may refer to their date."""
        if not self.report["figures"]:
            clauses = parts.after_its_figure(parts.about_their_amounts(clauses), BEFORE)
        clauses = any_of(parts.with_their_bases(clauses))
        self._coming = {f["name"] for clause in clauses for f in clause.get("figures", ()) if "name" in f}
        for clause in clauses:
            self._axes(clause)
        self._settle_dates(clauses)
        for n, clause in enumerate(clauses):
            self._later = any("figures" in following for following in clauses[n + 1 :])
            if "figures" in clause and self.report["figures"]:
                self._add_comparison()  # it belongs to the figure before it
            self._other(clause)
            if "compare" in clause:
                self._compare(clause["compare"])
        self._add_comparison()
        self._settle_lines(clauses)
        if any(
            "shown" in clause and not parts.amounts_in(clause["shown"], self.report["figures"]) for clause in clauses
        ):
            raise Unfit

    def _axes(self, clause: Mapping[str, Any]) -> None:
        for way in ("down", "across"):
            for entry in clause.get(way, ()):
                if "moves" in clause:
                    parts.take_away(self.report["across" if way == "down" else "down"], entry)
                for one in entry.get("nested", [entry]):
                    if not self._stands(way, one):
                        parts.put(self.report[way], one)
        parts.set_top(self.report["down"], clause.get("top", {}), BEFORE)

    def _stands(self, way: str, entry: Mapping[str, Any]) -> bool:
        """Whether the base report has an entry already, to which what is said of it is added."""
        new = {**entry, **({"period": self._base_date} if entry.get("period") == DATE else {})}
        for place, old in enumerate(self.report[way][: self._base_sizes[way]]):
            if (way, place) not in self._said_again and parts.core_of(old) == parts.core_of(new):
                self.report[way][place] = {**old, **new}
                self._said_again.add((way, place))
                return True
        return False

    def _other(self, clause: Mapping[str, Any]) -> None:
        for figure in clause.get("figures", ()):
            self.figure(figure)
        self.report["only"] += self._new("only", [self.condition(one) for one in clause.get("only", ())])
        if "window" in clause:
            if self._window_said:
                raise Unfit  # two windows
            self.window, self._window_said = self._dated(clause["window"], "of"), True
        self.more.take(clause)
        self.more.put("controls", [{**one, "figure": self.named(one["figure"])} for one in clause.get("controls", ())])
        self.more.put("silenced", [self._silenced(one) for one in clause.get("silenced", ())])
        if "restart" in clause:
            self._restart(clause["restart"])

    def _coarser(self, grain: str) -> str:
        """A grain at which a running total can restart: one coarser than the periods of lines or columns."""
        finest = parts.finest(self.report)
        if grain in parts.GRAINS and (finest is None or parts.GRAINS.index(finest) <= parts.GRAINS.index(grain)):
            raise Unfit
        return grain

    def _new(self, key: str, said: Sequence[Any]) -> list[Any]:
        """The conditions without those that the report already had."""
        had = self.report[key][: self._base_sizes[key]]
        return [one for one in said if not any(parts.alike(one, old) for old in had)]

    def _restart(self, level: str | Mapping[str, str]) -> None:
        """Make the last running total restart at a grain."""
        for figure in reversed(self.report["figures"]):
            if "running" in figure and "restart" not in figure:
                figure["restart"] = level_of(level, lambda: parts.level_names(self.report, self.names))
                return
        raise Unfit

    def _silenced(self, one: Mapping[str, Any]) -> Json:
        (kind, value), *_ = one.items()
        if kind == "only":
            return {"only": self.condition(value)}
        if kind == "keep":
            return {"keep": {"level": value["level"], "where": self.condition(value["where"], of_lines=True)}}
        if kind == "window":
            return {"window": self._dated(value, "of")}
        return {kind: self._entry_settled(dict(value))}

    # -- dates and calendars

    def _settle_dates(self, clauses: Sequence[Mapping[str, Any]]) -> None:
        windows = [clause["window"]["of"] for clause in clauses if "window" in clause]
        entries = [*self.report["down"], *self.report["across"]]
        spoken = [*(e["period"] for e in entries if "period" in e), *windows, *([self.window["of"]] if self.window else [])]  # fmt: skip
        self.date = next((d for d in spoken if d != DATE), self.names.first_date)
        for way in ("down", "across"):
            calendar = None
            for n, entry in enumerate(self.report[way]):
                if entry.get("period") == DATE and "calendar" not in entry and calendar:
                    entry = {**entry, "calendar": calendar}
                calendar = entry.get("calendar") if "period" in entry else None
                self.report[way][n] = self._dated(self._dated(entry, "period"), "age")

    def _dated(self, part: Mapping[str, Any], key: str) -> Json:
        if part.get(key) != DATE:
            return dict(part)
        return {**part, key: self._the_date()}

    def _the_date(self) -> str:
        if self.date is None:
            raise Unfit
        return self.date

    # -- figures

    def figure(self, said_figure: Mapping[str, Any], hidden: bool | None = False) -> str:
        """Add a figure, unless the same one exists; returns its name. With `hidden` None, an existing one stays as it
        is."""
        figure = said_of(said_figure, lambda: parts.level_names(self.report, self.names))
        if "formula" in figure:
            parts.check_formula(figure["formula"], {f["name"] for f in self.report["figures"]} | self._coming)
        if "again" in figure:
            figure["restart"] = self._coarser(figure.pop("again"))
        if "worked" in figure:
            figure = self._worked(figure)
        for key in parts.references():
            if key in figure:
                figure[key] = self.named(figure[key], figure)
        if isinstance(figure.get("with"), dict) and "figure" in figure["with"]:
            figure["with"] = {"figure": self.named(figure["with"]["figure"])}
        if figure.get("with") == "last":
            figure["with"] = self._last_of_its_kind()
        for key in ("along", "by"):
            if figure.get(key) == DATE:
                figure[key] = self._the_date()
        if isinstance(figure.get("where"), dict):
            figure["where"] = self.condition(figure["where"])
        same = next((f for f in self.report["figures"] if parts.same_figure(f, figure) and figure.get("name") in (None, f["name"])), None)  # fmt: skip
        if same is not None:
            if hidden is False and same.get("hide") and "hide" not in figure:
                self.report["figures"][self.report["figures"].index(same)] = {k: v for k, v in same.items() if k != "hide"}  # fmt: skip
            return str(same["name"])
        figure = self._known(figure, hidden is None or "hide" in said_figure)
        name = figure.pop("name", None) or free_name(own_name(figure), self._taken_names())
        if any(f["name"] == name for f in self.report["figures"]):
            raise Unfit
        self.report["figures"].append({"name": name, **figure, **({"hide": True} if hidden else {})})
        return str(name)

    def _known(self, figure: Json, may_hide: bool) -> Json:
        """The report's own figure that is the same, with its name and format; else the given figure. A hidden one is
        shown if it is named on its own."""
        own = [f for f in self.names.figures.values() if parts.same_figure(f, figure)] if "name" not in figure else []
        return {k: v for k, v in {**dict(*own[:1]), **figure}.items() if k != "hide" or may_hide}

    def _worked(self, figure: Json) -> Json:
        """A formula over figures for its operands; operands that do not exist are added hidden."""
        formula, words = [], []
        for part in figure["worked"]:
            if isinstance(part, str):
                formula.append(part)
                words += {"-": ["less"], "+": ["plus"], "*": ["times"], "/": ["per"]}.get(part, [])
            elif "number" in part:
                formula.append(part["number"])
                words.append(part["number"])
            else:
                name = self.named(part) if "ref" in part else self.figure(part, hidden=True)
                formula.append('"' + name.replace('"', '""') + '"')
                words.append(name if not words else name[:1].lower() + name[1:])
        named = {"name": free_name(" ".join(words), self._taken_names())} if "name" not in figure else {}
        return {**{k: v for k, v in figure.items() if k != "worked"}, **named, "formula": " ".join(formula)}

    def named(self, reference: Any, of: Mapping[str, Any] | None = None) -> str:
        """The name of the figure that is meant; a new one is added."""
        figures = self.report["figures"]
        if reference == BEFORE:
            bases = [f for f in figures if not any(key in f for key in parts.references())] or figures
            shown = [f for f in bases if not f.get("hide")] or bases
            if not shown and self._later:
                raise Unfit  # it is about a figure, and comes before it
            if not shown:
                return self.figure({"take": "count"})
            return str(shown[-1]["name"]) if of is not None else str(next(iter(shown))["name"])
        if isinstance(reference, dict) and "ref" not in reference:
            return self.figure(reference, hidden=True if of is None else None)
        name = reference if isinstance(reference, str) else reference["ref"]
        if name in self._coming:
            return str(name)
        exact = next((f["name"] for f in figures if f["name"] == name), None)
        loose = next((f["name"] for f in figures if f["name"].casefold() == name.casefold()), None)
        if exact or loose:
            return str(exact or loose)
        if name in self.names.figures:
            self._coming.add(name)  # circular figures are an error of the report, not of the sentence
            return self.figure(self.names.figures[name], hidden=True if of is None else None)
        if self.names.kind_of(name) == "number":
            return self.figure({"take": "sum", "of": name}, hidden=True if of is None else None)
        return str(name)

    def _taken_names(self) -> list[str]:
        """Names that a new figure must not have: those of figures, and of levels."""
        return [f["name"] for f in self.report["figures"]] + parts.level_names(self.report, self.names)

    # -- comparisons

    def _compare(self, comparison: Mapping[str, Any]) -> None:
        base_too = comparison == {"as": "base"} and "as" not in (self._compared or {})
        if self._compared is not None and (base_too or self._compared.keys() & comparison.keys()):
            self._add_comparison()
        self._compared = {**(self._compared or {}), **comparison}

    def _add_comparison(self) -> None:
        said_comparison, self._compared = self._compared, None
        if said_comparison is None:
            return
        base = said_comparison.get("with") or self._last_base or "year_earlier"
        base = self._last_of_its_kind() if base == "last" else base
        self._last_base = base
        self.figure({"compare": BEFORE, "with": base, "as": said_comparison.get("as", "percent")})

    def _last_of_its_kind(self) -> Any:
        """What `last` means if the window is `this year`: the year before."""
        show = (self.window or {}).get("show", {})
        grain = (
            show.get("this")
            or show.get("to_date")
            or show.get("previous")
            or show.get("grain")
            or parts.finest(self.report)
        )
        return "year_earlier" if grain in (None, "year") else {"back": 1, "grain": grain}

    # -- lines, their order and what is kept

    def _settle_lines(self, clauses: Sequence[Mapping[str, Any]]) -> None:
        self._measures(clauses)
        keeps = [keep for clause in clauses for keep in clause.get("keep", ())]
        for keep in keeps:
            self._keep(keep)
        if not self.report["figures"]:
            self.figure({"take": "count"})
        for clause in clauses:
            if "order" in clause:
                self._order(clause["order"])
        for way in ("down", "across"):
            self.report[way] = [self._entry_settled(entry) for entry in self.report[way]]

    def _measures(self, clauses: Sequence[Mapping[str, Any]]) -> None:
        """If a sentence names no figure, the measures by which its lines are kept, sorted or picked become its figures."""
        if not any(not figure.get("hide") for figure in self.report["figures"]):
            spoken = [keep["where"].get("figure") for clause in clauses for keep in clause.get("keep", ())]
            spoken += [clause["order"]["by"] for clause in clauses if isinstance(clause.get("order"), dict)]
            spoken += [entry.get("by") for entry in self.report["down"]]
            for measure in spoken:
                if isinstance(measure, dict) and "ref" not in measure:
                    self.figure(measure)

    def _keep(self, keep: Mapping[str, Any]) -> None:
        level, where = keep["level"], dict(keep["where"])
        if "figure" in where:
            where = {**where, "figure": self.named(where["figure"], {})}
        if isinstance(level, dict):
            level = self._level_alike(level["alike"])
        self.report["keep"] += self._new("keep", [{"level": level, "where": self.condition(where, of_lines=True)}])

    def _level_alike(self, name: str) -> str:
        """The level of that name, ignoring case; a column that makes no level yet is added as one."""
        levels = parts.level_names(self.report, self.names)
        alike = [one for one in levels if one == name] or [one for one in levels if one.casefold() == name.casefold()]
        if not alike and name in self.names.columns:
            self.report["down"].append({"category": name})
        return alike[0] if alike else name

    def _order(self, order: Any) -> None:
        way = "down" if self.report["down"] else "across"
        if not self.report[way]:
            raise Unfit
        last = self.report[way][-1]
        if "order" in last and last["order"] != order and len(self.report[way]) > self._base_sizes[way]:
            raise Unfit  # two orders
        self.report[way][-1] = {**last, "order": order}

    def _entry_settled(self, entry: Json) -> Json:
        """An entry with the figures that it refers to resolved to names."""
        entry = self._dated(self._dated(entry, "period"), "age")
        parts.check_dates(entry, self.names)
        if "by" in entry:
            entry["by"] = self.named(entry["by"])
        if isinstance(entry.get("order"), dict) and "by" in entry["order"]:
            entry["order"] = {**entry["order"], "by": self.named(entry["order"]["by"])}
        return entry

    def condition(self, condition: Mapping[str, Any], of_lines: bool = False) -> str:
        """A condition as SQL; one `of_lines` is over figures."""

        def name_of(what: Any) -> str:
            if isinstance(what, dict):
                return self.named(what, {})
            if of_lines and not any(f["name"] == what for f in self.report["figures"]):
                return self.named({"ref": what}, {})
            return self._the_date() if what == DATE else str(what)

        return sql_of(dict(condition), name_of, self.names.kind_of)

    def done(self) -> Json:
        """The parts of the report that a sentence makes."""
        window = {} if self.window is None else {"window": self.window}
        return {**self.report, **window, **self.more.done()}
