import './chart.css';
import '../parts/tools.css';

import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { post, type ChosenView, type SheetView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { counted } from '../parts/words';
import type { Row } from '../sheet/outline';
import { drawn, few, MOST, roomForNames, type Drawing, type Numbers, type Way } from './charting';
import { savedAsPicture, savedAsVector } from './saving';
import type { SheetPlace } from '../api/paths';

const WIDTH = 1180;
const COLOURS = ['#b9cfd2', '#0d5a6a', '#c6b795', '#6a4479', '#a4552a', '#8e8672', '#7fa4aa', '#d9a441'];
const WAYS: [Way, string][] = [
  ['bars', 'bars'],
  ['stacked', 'shares'],
  ['ages', 'ages'],
  ['bridge', 'bridge'],
];

/** The same sheet as a picture: its lines as they are opened, or those chosen, for one figure. */
export function Chart({
  base,
  sheet,
  rows,
  chosen,
  title,
  width = WIDTH,
}: {
  base: SheetPlace;
  sheet: SheetView;
  rows: Row[];
  chosen: ReadonlySet<string>;
  title: string;
  /** Pixels across; a phone has fewer. */
  width?: number;
}) {
  const [asked, setWay] = useState<Way | null>(null);
  const figures = sheet.figures.filter((f) => f.numeric).map((f) => f.name);
  const [picked, setPicked] = useState(figures[0] ?? '');
  const figure = figures.includes(picked) ? picked : (figures[0] ?? '');
  const svg = useRef<SVGSVGElement>(null);
  const ages = agesAmong(sheet);
  const way = asked ?? (ages ? 'ages' : 'bars');
  const lines = (way === 'ages' && ages?.depth && atDepth(rows, ages.depth)) || charted(rows, chosen);
  const found = useQuery({
    queryKey: ['chart', sheet.key, lines.map((row) => row.line)],
    queryFn: () =>
      post(`${base}/sheets/${sheet.key}/chosen`, {
        lines: lines.map((row) => row.line),
        first: 0,
        last: sheet.columns.length * sheet.figures.length,
      }),
    staleTime: Infinity,
    retry: false,
  });
  const like = useQuery({
    queryKey: ['like', sheet.key, figure, lines.map((row) => row.line)],
    queryFn: () =>
      post(`${base}/sheets/${sheet.key}/like`, {
        figure,
        lines: lines.map((row) => row.line).slice(0, MOST),
      }),
    staleTime: Infinity,
    retry: false,
  });
  const [every, setEvery] = useState(false);
  const all = found.data && !like.isLoading ? ofFigure(sheet, found.data, lines, figure) : null;
  const alike = way === 'bars' && like.data?.series.length ? like.data : null;
  const numbers = all && alike && !every ? { ...alike, lines: all.lines.slice(0, MOST) } : all;
  const agesDown = way === 'ages' && Boolean(ages?.depth);
  const upright = agesDown || sheet.down[(lines[0]?.depth ?? 1) - 1]?.kind === 'period';
  const picture =
    numbers && numbers.series.length ? drawn(numbers, way, upright, { width, height: 360 }) : null;
  const dropped = all ? all.lines.length - few(all).lines.length : 0;
  return (
    <div className="chart">
      <div className="chart-tools">
        <span className="tools" role="group" aria-label="Kind of chart">
          {WAYS.filter(([name]) => name !== 'ages' || ages).map(([name, words]) => (
            <button
              key={name}
              className={`tool${way === name ? ' on' : ''}`}
              disabled={(name === 'stacked' || name === 'bridge') && (numbers?.series.length ?? 0) < 2}
              onClick={() => setWay(name)}
            >
              {words}
            </button>
          ))}
        </span>
        <span className="tools" role="group" aria-label="Figure">
          {figures.map((name) => (
            <button
              key={name}
              className={`tool${figure === name ? ' on' : ''}`}
              onClick={() => setPicked(name)}
            >
              {name}
            </button>
          ))}
        </span>
        {alike && (
          <span className="tools" role="group" aria-label="Periods">
            <button className={`tool${every ? '' : ' on'}`} onClick={() => setEvery(false)}>
              latest period and its base
            </button>
            <button className={`tool${every ? ' on' : ''}`} onClick={() => setEvery(true)}>
              every period
            </button>
          </span>
        )}
        <span style={{ flex: 1 }} />
        <button className="tool" onClick={() => svg.current && savedAsVector(svg.current, title)}>
          save as SVG
        </button>
        <button className="tool" onClick={() => svg.current && void savedAsPicture(svg.current, title)}>
          save as PNG
        </button>
      </div>
      <FaultNote error={found.error} />
      {numbers && !agesDown && <Legend series={numbers.series} way={way} />}
      {picture && <Picture drawing={picture} way={way} ref_={svg} label={`${title}: ${figure}`} />}
      {dropped > 0 && (
        <p className="say">{counted(dropped, 'more line')} not drawn; close groups or choose lines.</p>
      )}
    </div>
  );
}

/** Where the ages of a sheet are: at which depth its lines are ages (0: its columns are); null where there are none. */
function agesAmong(sheet: SheetView): { depth: number } | null {
  const depth = sheet.down.findIndex((level) => level.kind === 'age') + 1;
  return depth > 0 || sheet.across[sheet.across.length - 1]?.kind === 'age' ? { depth } : null;
}

/** The lines of a depth, with their totals where they are open; null where these are not on the sheet. */
function atDepth(rows: Row[], depth: number): Row[] | null {
  const found = unique(rows.filter((row) => row.filled && row.depth === depth));
  return found.length > 1 ? found : null;
}

/** The lines that are drawn: those chosen, else the innermost that are open, without totals. */
function charted(rows: Row[], chosen: ReadonlySet<string>): Row[] {
  const picked = rows.filter((row) => row.filled && chosen.has(row.path));
  if (picked.length > 1) return unique(picked);
  const inner = rows.filter((row) => row.role === 'leaf' || row.role === 'closed');
  return inner.length ? unique(inner) : rows.filter((row) => row.filled).slice(0, 1);
}

const unique = (rows: Row[]) => [...new Map(rows.map((row) => [row.path, row])).values()];

/** One figure's numbers by line, one a column; total columns are left out where there are others. */
function ofFigure(sheet: SheetView, found: ChosenView, lines: Row[], figure: string): Numbers {
  const f = sheet.figures.findIndex((one) => one.name === figure);
  const leaves = sheet.columns.map((c, i) => [c, i] as const).filter(([c]) => c.role === 'leaf');
  const columns = leaves.length ? leaves : sheet.columns.map((c, i) => [c, i] as const);
  const places = columns.map(([, i]) => i * sheet.figures.length + f);
  return {
    lines: lines.map((row) => row.own[row.depth - 1] ?? row.label),
    series: columns.map(([c]) => c.labels.join(' ') || figure),
    values: found.plain.map((texts) => places.map((p) => (texts[p] ? Number(texts[p]) : null))),
    texts: found.shown.map((texts) => places.map((p) => texts[p] ?? '')),
  };
}

function Legend({ series, way }: { series: string[]; way: Way }) {
  if (way === 'bridge' || series.length < 2) return null;
  return (
    <div className="legend">
      {series.map((name, i) => (
        <span key={name}>
          <i style={{ background: way === 'ages' ? older(i, series.length) : colour(i, series.length) }} />{' '}
          {name}
        </span>
      ))}
    </div>
  );
}

/** The last of two series stands out; of more each has its own. */
const colour = (i: number, count: number) =>
  (count === 1 ? COLOURS[1] : COLOURS[i % COLOURS.length]) ?? '#0d5a6a';

/** The older the warmer. */
const AGES = [
  [185, 207, 210],
  [13, 90, 106],
  [217, 164, 65],
  [154, 42, 42],
];
function older(i: number, count: number): string {
  const at = count < 2 ? 0 : (i / (count - 1)) * (AGES.length - 1);
  const from = AGES[Math.floor(at)] ?? [];
  const to = AGES[Math.ceil(at)] ?? [];
  return `rgb(${from.map((n, c) => Math.round(n + ((to[c] ?? n) - n) * (at % 1))).join(', ')})`;
}

function Picture({
  drawing,
  way,
  ref_,
  label,
}: {
  drawing: Drawing;
  way: Way;
  ref_: React.RefObject<SVGSVGElement | null>;
  label: string;
}) {
  const { upright, width, height } = drawing;
  const series = Math.max(...drawing.bars.map((b) => b.series + 1), 1);
  const fill = (bar: Drawing['bars'][number]) =>
    way === 'bridge'
      ? bar.series === 2
        ? '#c6b795'
        : bar.negative
          ? '#9a2a2a'
          : '#0d5a6a'
      : way === 'ages'
        ? older(bar.series, series)
        : bar.negative && series === 1
          ? '#9a2a2a'
          : colour(bar.series, series);
  const room = upright ? (width - 80) / Math.max(1, drawing.names.length) : roomForNames(width) - 10;
  return (
    <div className="chart-scroll" tabIndex={0} role="group" aria-label="Chart">
      <svg
        ref={ref_}
        xmlns="http://www.w3.org/2000/svg"
        viewBox={`0 0 ${width} ${height}`}
        width={width}
        height={height}
        role="img"
        aria-label={label}
        fontFamily="'IBM Plex Sans Variable', 'IBM Plex Sans', sans-serif"
        fontSize="12"
      >
        <rect width={width} height={height} fill="#fcfaf5" />
        {drawing.ticks.map((tick) => (
          <g key={tick.at}>
            <line
              x1={upright ? 60 : tick.at}
              x2={upright ? width - 10 : tick.at}
              y1={upright ? tick.at : 20}
              y2={upright ? tick.at : height - 10}
              stroke="#ece6d8"
            />
            <text
              x={upright ? 54 : tick.at}
              y={upright ? tick.at + 4 : 14}
              textAnchor={upright ? 'end' : 'middle'}
              fill="#6c736c"
            >
              {tick.label}
            </text>
          </g>
        ))}
        {drawing.bars.map((bar, i) => (
          <rect key={i} x={bar.x} y={bar.y} width={bar.width} height={bar.height} fill={fill(bar)}>
            <title>{bar.title}</title>
          </rect>
        ))}
        {(drawing.notes ?? []).map((note) => (
          <text
            key={`${note.x} ${note.y}`}
            x={note.x}
            y={note.y}
            textAnchor={note.beside ? 'start' : 'middle'}
            fontSize={note.beside ? 11 : undefined}
            fill="#1e2a2f"
          >
            {note.text}
          </text>
        ))}
        <line
          x1={upright ? 60 : drawing.zero}
          x2={upright ? width - 10 : drawing.zero}
          y1={upright ? drawing.zero : 20}
          y2={upright ? drawing.zero : height - 10}
          stroke="#1e2a2f"
        />
        {drawing.names.map(({ at, label: name }, i) => (
          <text
            key={i}
            x={upright ? at : roomForNames(width) - 10}
            y={upright ? height - 26 : at + 4}
            textAnchor={upright ? 'middle' : 'end'}
            fill="#1e2a2f"
          >
            {fitted(name, room)}
            <title>{name}</title>
          </text>
        ))}
      </svg>
    </div>
  );
}

/** A name as far as there is room for it. */
const fitted = (name: string, room: number) => {
  const most = Math.max(3, Math.floor(room / 7));
  return name.length > most ? `${name.slice(0, most - 1)}…` : name;
};
