import { noted } from '../parts/notation';

/** A drawn rectangle of a chart, with what it stands for. */
export interface Bar {
  x: number;
  y: number;
  width: number;
  height: number;
  series: number;
  negative: boolean;
  title: string;
}

export interface Tick {
  at: number;
  label: string;
}

export interface Drawing {
  width: number;
  height: number;
  bars: Bar[];
  /** Labels of the lines, at the left of horizontal bars or below upright ones. */
  names: { at: number; label: string }[];
  ticks: Tick[];
  zero: number;
  upright: boolean;
  /** Words over bars. */
  notes?: { x: number; y: number; text: string; beside?: boolean }[];
}

export type Way = 'bars' | 'stacked' | 'ages' | 'bridge';

/** Numbers by line and series; null where there is none. */
export interface Numbers {
  lines: string[];
  series: string[];
  values: (number | null)[][];
  /** The numbers as people read them. */
  texts: string[][];
}

/** The size of a chart in pixels. */
export interface Size {
  width: number;
  height: number;
}
/** The room that a chart of a width has for its lines' names where they stand beside it. */
export const roomForNames = (width: number) => Math.min(210, width * 0.34);
/** How many bars bear their numbers beside them. */
const LABELLED = 40;
/** How many lines are drawn. */
export const MOST = 60;

/** Round numbers that span from `low` to `high` in a few steps.
 */
export function ticksOver(low: number, high: number): number[] {
  if (high <= low) return [low];
  const rough = (high - low) / 5;
  const size = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 2.5, 5, 10].map((n) => n * size).find((n) => n >= rough) ?? rough;
  const found: number[] = [];
  for (let n = Math.ceil(low / step - 1e-9) * step; n <= high + step * 1e-9; n += step)
    found.push(Math.abs(n) < step / 1e6 ? 0 : n);
  return found;
}

export const short = (n: number): string => {
  const size = Math.abs(n);
  if (size >= 1e6) return `${noted(String(Number((n / 1e6).toFixed(2))))} m`;
  if (size >= 1e3) return `${noted(String(Number((n / 1e3).toFixed(1))))} k`;
  return noted(String(Number(n.toFixed(2))));
};

/** The lines as shown, no more than can be read. */
export function few(numbers: Numbers): Numbers {
  const kept = numbers.lines.map((_, i) => i).slice(0, MOST);
  return {
    ...numbers,
    lines: kept.map((i) => numbers.lines[i] ?? ''),
    values: kept.map((i) => numbers.values[i] ?? []),
    texts: kept.map((i) => numbers.texts[i] ?? []),
  };
}

/** A chart of numbers by line and series, `upright` where the lines are periods, or, of ages, where they are the ages. */
export function drawn(all: Numbers, way: Way, upright: boolean, size: Size): Drawing {
  const numbers = few(all);
  if (way === 'bridge') return bridge(numbers, size);
  if (way === 'ages' && upright) return ages(numbers, size);
  return upright ? columns(numbers, way, size) : rows(numbers, way, size.width);
}

const known = (numbers: Numbers) => numbers.values.flat().filter((n): n is number => n !== null);
const positive = (row: (number | null)[]) => row.reduce<number>((sum, n) => sum + Math.max(0, n ?? 0), 0);

/** The ends of the scale: 0 always among them. */
function scale(numbers: Numbers, way: Way): [number, number] {
  if (way === 'stacked') return [0, 1];
  if (way === 'ages') {
    const ends = numbers.values.flatMap((row) => spans(row, way).flat());
    return [Math.min(0, ...ends), Math.max(0, ...ends) || 1];
  }
  const all = known(numbers);
  return [Math.min(0, ...all), Math.max(0, ...all) || 1];
}

/** Where a line's numbers begin and end, one a series: beside each other, or one on top of the other, as shares or, of ages, as
 *  they are, those below zero to the other side. */
function spans(row: (number | null)[], way: Way): [number, number][] {
  if (way === 'ages') {
    const at = { above: 0, below: 0 };
    return row.map((n) => {
      const side = (n ?? 0) < 0 ? 'below' : 'above';
      const from = at[side];
      at[side] += n ?? 0;
      return [Math.min(from, at[side]), Math.max(from, at[side])];
    });
  }
  if (way !== 'stacked') return row.map((n) => [Math.min(0, n ?? 0), Math.max(0, n ?? 0)]);
  const whole = positive(row) || 1;
  let at = 0;
  return row.map((n) => {
    const from = at;
    at += Math.max(0, n ?? 0) / whole;
    return [from, at];
  });
}

/** Whether a line's numbers stand on top of each other. */
const oneBand = (way: Way) => way === 'stacked' || way === 'ages';

/** Ages side by side, the oldest last, each with its share of the whole; of several series the last. */
function ages(numbers: Numbers, size: Size): Drawing {
  const last = numbers.series.length - 1;
  const one = {
    ...numbers,
    series: numbers.series.slice(last),
    values: numbers.values.map((row) => row.slice(last)),
    texts: numbers.texts.map((row) => row.slice(last)),
  };
  const drawing = columns(one, 'bars', size);
  const whole = known(one).reduce((sum, n) => sum + n, 0);
  return {
    ...drawing,
    bars: drawing.bars.map((bar, i) => ({ ...bar, series: i })),
    notes: drawing.bars.map((bar, i) => ({
      x: bar.x + bar.width / 2,
      y: bar.y - 6,
      text: whole > 0 ? `${noted((((one.values[i]?.[0] ?? 0) / whole) * 100).toFixed(1))}%` : '',
    })),
  };
}

const tickText = (n: number, way: Way) => (way === 'stacked' ? `${Math.round(n * 100)}%` : short(n));

function rows(numbers: Numbers, way: Way, width: number): Drawing {
  const names = roomForNames(width);
  const bands = oneBand(way) ? 1 : Math.max(1, numbers.series.length);
  const band = bands === 1 ? 18 : Math.max(8, Math.min(16, 34 / bands));
  const pitch = band * bands + 12;
  const [low, high] = scale(numbers, way);
  const labelled = !oneBand(way) && numbers.lines.length * bands <= LABELLED;
  const x = (n: number) => names + ((n - low) / (high - low)) * (width - names - (labelled ? 96 : 20));
  const bars = numbers.values.flatMap((row, i) =>
    spans(row, way).map(([from, to], s) => ({
      x: x(from),
      y: 26 + i * pitch + (oneBand(way) ? 0 : s * band),
      width: Math.max(0, x(to) - x(from)),
      height: band - 1,
      series: s,
      negative: (row[s] ?? 0) < 0,
      title: title(numbers, i, s),
      text: numbers.texts[i]?.[s] ?? '',
    })),
  );
  return {
    width,
    height: 40 + numbers.lines.length * pitch,
    bars,
    names: numbers.lines.map((label, i) => ({ at: 26 + i * pitch + (band * bands) / 2, label })),
    ticks: ticksOver(low, high).map((n) => ({ at: x(n), label: tickText(n, way) })),
    zero: x(0),
    upright: false,
    notes: labelled
      ? bars
          .filter((bar) => bar.text)
          .map((bar) => ({ x: bar.x + bar.width + 5, y: bar.y + band / 2 + 3, text: bar.text, beside: true }))
      : [],
  };
}

function columns(numbers: Numbers, way: Way, { width, height }: Size): Drawing {
  const bands = way === 'stacked' ? 1 : Math.max(1, numbers.series.length);
  const pitch = (width - 80) / Math.max(1, numbers.lines.length);
  const band = Math.min(bands === 1 ? 84 : 44, (pitch * 0.78) / bands);
  const [low, high] = scale(numbers, way);
  const y = (n: number) => height - 46 - ((n - low) / (high - low)) * (height - 70);
  const bars = numbers.values.flatMap((row, i) =>
    spans(row, way).map(([from, to], s) => ({
      x: 66 + i * pitch + (pitch - band * bands) / 2 + (way === 'stacked' ? 0 : s * band),
      y: y(to),
      width: band - 1,
      height: Math.max(0, y(from) - y(to)),
      series: s,
      negative: (row[s] ?? 0) < 0,
      title: title(numbers, i, s),
    })),
  );
  return {
    width,
    height,
    bars,
    names: numbers.lines.map((label, i) => ({ at: 66 + i * pitch + pitch / 2, label })),
    ticks: ticksOver(low, high).map((n) => ({ at: y(n), label: tickText(n, way) })),
    zero: y(0),
    upright: true,
  };
}

/** From the first series' whole, by what each line moved, to the last series' whole. */
function bridge(numbers: Numbers, { width, height }: Size): Drawing {
  const last = numbers.series.length - 1;
  const moves = numbers.values.map((row) => (row[last] ?? 0) - (row[0] ?? 0));
  const base = numbers.values.reduce((sum, row) => sum + (row[0] ?? 0), 0);
  const steps: [string, number, number][] = [[numbers.series[0] ?? '', 0, base]];
  let at = base;
  numbers.lines.forEach((line, i) => {
    steps.push([line, at, at + (moves[i] ?? 0)]);
    at += moves[i] ?? 0;
  });
  steps.push([numbers.series[last] ?? '', 0, at]);
  const ends = steps.slice(1, -1).flatMap(([, a, b]) => [a, b]);
  const [bottom, top] = [Math.min(base, at, ...ends), Math.max(base, at, ...ends)];
  const low = Math.max(0, bottom - (top - bottom) * 0.4) * (bottom > 0 ? 1 : 0) + Math.min(0, bottom);
  const high = top + (top - bottom) * 0.05 || 1;
  const pitch = (width - 80) / steps.length;
  const y = (n: number) => height - 46 - ((Math.max(n, low) - low) / (high - low || 1)) * (height - 70);
  return {
    width,
    height,
    bars: steps.map(([label, from, to], i) => {
      const whole = i === 0 || i === steps.length - 1;
      return {
        x: 66 + i * pitch + pitch * 0.1,
        y: Math.min(y(from), y(to)),
        width: pitch * 0.8,
        height: Math.max(1, Math.abs(y(from) - y(to))),
        series: whole ? 2 : 1,
        negative: !whole && to < from,
        title: `${label}: ${short(whole ? to : to - from)}`,
      };
    }),
    names: steps.map(([label], i) => ({ at: 66 + i * pitch + pitch / 2, label })),
    ticks: ticksOver(low, high).map((n) => ({ at: y(n), label: short(n) })),
    zero: y(low),
    upright: true,
  };
}

const title = (numbers: Numbers, line: number, series: number) =>
  `${[numbers.lines[line], numbers.series[series]].filter(Boolean).join(', ')}: ${numbers.texts[line]?.[series] ?? ''}`;
