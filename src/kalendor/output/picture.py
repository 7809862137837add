"""Draws a chart for pages on paper and in the browser: SVG by Matplotlib, in the product's colours and fonts."""

import io
import logging
from functools import cache
from typing import Any

import matplotlib
import numpy as np
from matplotlib import font_manager
from matplotlib.axes import Axes
from matplotlib.colors import to_rgb
from matplotlib.container import BarContainer
from matplotlib.figure import Figure

from kalendor.core.values.notation import noted
from kalendor.output.charting import Chart
from kalendor.output.measuring import FONTS

INK, QUIET, RULE = "#1E2A2F", "#56615F", "#D8D0BE"
SERIES = ("#0D5A6A", "#6A4479", "#A4552A", "#C9811A", "#8E8672", "#9A2A2A")
PALE = "#B9CFD2"
WIDE = 9.4  # inches
ONE_LINE, TWO_LINES = 70, 110  # letters of names that are placed side by side
THOUSAND, MILLION = 1e3, 1e6
MOST_OVER, MOST_BESIDE, SHORT = (
    14,
    24,
    6,
)  # numbers over vertical bars and beside horizontal ones, and letters of a short one


@cache
def _fonts() -> None:
    logging.getLogger("matplotlib.font_manager").setLevel(logging.ERROR)  # a script without a bold font is not an error
    for file in (
        "KalendorSans-Regular.ttf",
        "KalendorSans-SemiBold.ttf",
        "DejaVuSans.ttf",
        "DroidSansFallback.ttf",
    ):
        font_manager.fontManager.addfont(str(FONTS / file))


def picture(drawn: Chart, wide: float = WIDE, high: float | None = None) -> bytes:
    """The chart as SVG; its texts are drawn as paths, so that it looks the same everywhere. The same chart gives the
    same bytes."""
    _fonts()
    settings: dict[Any, Any] = {
        "svg.hashsalt": "kalendor", "svg.fonttype": "path", "font.size": 8.5, "text.color": INK,
        "font.family": ["Kalendor Sans", "DejaVu Sans", "Droid Sans Fallback"], "axes.unicode_minus": True,
    }  # fmt: skip
    with matplotlib.rc_context(settings):
        figure = Figure(figsize=(wide, drawn.height if high is None else high), layout="constrained")
        axes = figure.add_subplot()
        (_upright if drawn.upright else _lying)(axes, drawn)
        _plain(axes, drawn)
        file = io.BytesIO()
        figure.savefig(file, format="svg", transparent=True, metadata={"Date": None, "Creator": None})
    return file.getvalue()


def _shades(drawn: Chart) -> list[Any]:
    """A colour for each series; for periods the latest in full, earlier ones paler."""
    many = len(drawn.series)
    if not drawn.aging or many == 1:
        return [to_rgb(SERIES[s % len(SERIES)]) for s in range(many)]
    full, pale = np.array(to_rgb(SERIES[0])), np.array(to_rgb(PALE))
    steps = [0.0] * (many - 2) + [0.0, 1.0] if many == 2 else [0.55 * s / (many - 2) for s in range(many - 1)] + [1.0]
    return [tuple((pale + (full - pale) * step).tolist()) for step in steps]


def _is_labelled(drawn: Chart) -> bool:
    """Whether there is room for a number at each bar."""
    return len(drawn.lines) * len(drawn.series) <= (MOST_OVER if drawn.upright else MOST_BESIDE)


def _label(axes: Axes, bars: BarContainer, drawn: Chart, s: int) -> None:
    """Each bar's number; for horizontal bars the first line also names the series."""
    named = len(drawn.series) > 1 and not drawn.upright
    words = [_fitting(drawn, i, s) for i in range(len(drawn.lines))]
    if named and words:
        words[0] = f"{words[0]}   {drawn.series[s]}".strip()
    axes.bar_label(bars, [_plain_text(word) for word in words], padding=2, fontsize=7.5, color=QUIET)


def _fitting(drawn: Chart, line: int, series: int) -> str:
    """A number as shown if that is short, else in thousands or millions."""
    text, value = drawn.texts[line][series], float(drawn.values[line, series])
    return text if len(text) <= SHORT or np.isnan(value) else _short(float(f"{value:.3g}"))


def _bands(drawn: Chart) -> tuple[float, list[float]]:
    many = len(drawn.series)
    band = 0.78 / many
    return band * 0.94, [(s - (many - 1) / 2) * band for s in range(many)]


def _upright(axes: Axes, drawn: Chart) -> None:
    band, offsets = _bands(drawn)
    at = np.arange(len(drawn.lines))
    for s, shade in enumerate(_shades(drawn)):
        bars = axes.bar(
            at + offsets[s], np.nan_to_num(drawn.values[:, s]), band, color=shade, label=_plain_text(drawn.series[s])
        )
        if _is_labelled(drawn):
            _label(axes, bars, drawn, s)
    names = [_plain_text(line) for line in drawn.lines]
    if sum(map(len, names)) > ONE_LINE:  # puts a year under its month
        names = ["\n".join(name.rsplit(" ", 1)) for name in names]
    turned = sum(max(map(len, name.split("\n"))) for name in names) > TWO_LINES
    axes.set_xticks(
        at,
        names,
        rotation=35 if turned else 0,
        ha="right" if turned else "center",
    )
    axes.yaxis.set_major_formatter(lambda value, _: _short(value))
    axes.axhline(0, color=INK, linewidth=0.8)


def _lying(axes: Axes, drawn: Chart) -> None:
    band, offsets = _bands(drawn)
    at = np.arange(len(drawn.lines))
    for s, shade in enumerate(_shades(drawn)):
        bars = axes.barh(
            at + offsets[s], np.nan_to_num(drawn.values[:, s]), band, color=shade, label=_plain_text(drawn.series[s])
        )
        if _is_labelled(drawn):
            _label(axes, bars, drawn, s)
    axes.set_yticks(at, [_plain_text(line if len(line) < 44 else f"{line[:42]}…") for line in drawn.lines])
    axes.invert_yaxis()
    axes.xaxis.set_major_formatter(lambda value, _: _short(value))
    axes.axvline(0, color=INK, linewidth=0.8)


def _plain(axes: Axes, drawn: Chart) -> None:
    for side in ("top", "right", "left", "bottom"):
        axes.spines[side].set_visible(False)
    axes.tick_params(length=0, colors=QUIET, labelcolor=QUIET)
    if _is_labelled(drawn):
        (axes.set_yticks if drawn.upright else axes.set_xticks)([])
        axes.margins(x=None if drawn.upright else 0.12, y=0.12 if drawn.upright else None)
    else:
        axes.grid(axis="y" if drawn.upright else "x", color=RULE, linewidth=0.6)
        axes.set_axisbelow(True)
    title = drawn.figure if not drawn.left else f"{drawn.figure}, the first {len(drawn.lines)} lines"
    axes.set_title(_plain_text(title), loc="left", fontsize=9, fontweight=600, color=QUIET)
    if len(drawn.series) > 1 and (drawn.upright or not _is_labelled(drawn)):
        axes.legend(frameon=False, ncols=len(drawn.series), loc="lower right", bbox_to_anchor=(1, 1), labelcolor=QUIET)


def _plain_text(text: str) -> str:
    """A text in which nothing is interpreted as mathematical markup."""
    return text.replace("$", r"\$")


def _short(value: float) -> str:
    size = abs(value)
    if size >= MILLION:
        return noted(f"{value / MILLION:g}") + " m"
    return noted(f"{value / THOUSAND:g}") + " k" if size >= THOUSAND else noted(f"{value:g}")
