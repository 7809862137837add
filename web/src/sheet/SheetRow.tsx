import './beneath.css';
import './sheet.css';

import { memo } from 'react';

import type { SheetView } from '../api/client';
import { movedKey } from './marking';
import { levelLabels, type Row } from './outline';
import { stuck } from './SheetHead';
import type { Track, Tracks } from './tracks';

const MARKS = new Set(['new', 'gone', 'n/m', 'mixed']);
const WHY: Record<string, string> = {
  new: 'new: nothing in the base to compare with',
  gone: 'gone: the base has records, and there are none now',
  'n/m': 'not meaningful: the base is zero or negative',
};
const SPECIAL = ['', ' other', ' loose', ' blankline', ' worked', ''];
const CUT = 'Compared to the as-of date only; the figure beside it counts all that is shown.';

interface Props {
  sheet: SheetView;
  row: Row;
  index: number;
  before: Row | undefined;
  texts: (string | undefined)[] | undefined;
  isCut: (line: number, place: number) => boolean;
  all: Tracks;
  window: [number, number];
  columns: boolean;
  each: boolean;
  chosen: boolean;
  bold: boolean;
  aria: number;
  moved: Moved | undefined;
}

/** Changed cells, by line and column: the earlier and the later text. */
export type Moved = ReadonlyMap<string, { was: string; now: string }>;

/** The marks of the notes at a place: those of a line, of a column and figure, or of one number. */
const marksAt = (sheet: SheetView, line: number, place: number) =>
  sheet.footnotes.flatMap((note, i) => (isAt(sheet, note, line, place) ? [i + 1] : []));

function isAt(sheet: SheetView, note: SheetView['footnotes'][number], line: number, place: number): boolean {
  const onLabel = note.line !== null && note.column === null && note.figure === null;
  if (place < 0) return onLabel && note.line === line;
  if (note.line === null || onLabel || note.line !== line) return false;
  const column = sheet.columns[Math.floor(place / sheet.figures.length)]?.id;
  const figure = sheet.figures[place % sheet.figures.length]?.name;
  return (note.column === null || note.column === column) && (note.figure === null || note.figure === figure);
}

function Marks({ sheet, line, place }: { sheet: SheetView; line: number; place: number }) {
  if (sheet.footnotes.length === 0) return null;
  const marks = marksAt(sheet, line, place);
  return marks.length ? <sup className="note-mark">{marks.join(' ')}</sup> : null;
}

/** A line of the sheet; rendered again only when its own data change. */
export const SheetRow = memo(function SheetRow(props: Props) {
  const { row, index, all, window, chosen, bold, aria } = props;
  const tracks = all.tracks.slice(...window);
  const before = (tracks[0]?.left ?? all.labelsWidth) - all.labelsWidth;
  return (
    <tr
      className={`row ${row.role} d${row.depth}${SPECIAL[row.special] ?? ''}${chosen ? ' chosen' : ''}${bold ? ' bold' : ''}`}
      data-line={row.line}
      data-r={index}
      aria-rowindex={aria}
      aria-selected={chosen}
    >
      <Labels {...props} />
      {before > 0 && <td style={{ width: before }} aria-hidden="true" />}
      {tracks.map((track) => cell(props, track))}
    </tr>
  );
});

function Labels({ sheet, row, index, before, all, columns, each }: Props) {
  const kind = sheet.down[row.depth - 1]?.kind ?? '';
  const twist = row.open !== null && (
    <button
      className={`twist ${kind}`}
      tabIndex={-1}
      aria-expanded={row.open}
      aria-label={`${row.open ? 'Close' : 'Open'} ${row.label}`}
      data-twist="1"
    >
      {row.open ? '▾' : '▸'}
    </button>
  );
  if (!columns)
    return (
      <th
        id={`cell-${index}--1`}
        scope="row"
        draggable={row.depth > 0 && row.special === 0}
        className={row.value !== null ? 'choosable' : undefined}
        style={{ ...stuck(all, 0), paddingLeft: indent(row) }}
        data-p={-1}
        title={row.label}
      >
        {twist}
        {row.label}
        {row.filled || row.open !== null ? <Marks sheet={sheet} line={row.line} place={-1} /> : null}
      </th>
    );
  return levelLabels(row, before, all.labels.length, each).map((label, k) => (
    <th
      key={k}
      id={`cell-${index}-${-1 - k}`}
      scope="row"
      style={stuck(all, k)}
      data-p={-1 - k}
      className={`level${k}`}
      title={label}
    >
      {k === row.depth - 1 && twist}
      {label}
    </th>
  ));
}

/** A cell of a line: an element, not a component, since a sheet has a thousand of them. */
function cell({ index, row, texts, isCut, moved, sheet }: Props, track: Track) {
  if (track.kind === 'gap') return <td key={track.key} className="gap" />;
  if (track.kind === 'record') return sheet.listed ? <td key={track.key} className="listed" /> : null;
  const text = row.filled ? (texts?.[track.place] ?? '') : '';
  const cut = row.filled && isCut(row.line, track.place);
  const move = row.filled ? moved?.get(movedKey(row.line, track.place)) : undefined;
  const marked = row.filled && sheet.footnotes.length > 0;
  return (
    <td
      key={track.key}
      id={`cell-${index}-${track.place}`}
      className={`${cellClass(move ? move.now : text)}${cut ? ' cut' : ''}${move ? ' moved' : ''}`}
      data-p={track.place}
      title={cut ? CUT : WHY[text]}
    >
      {move || marked ? (
        <Annotated text={text} move={move} sheet={sheet} line={row.line} place={track.place} />
      ) : (
        text
      )}
    </td>
  );
}

/** A number with its earlier value, and the marks of its notes. */
const Annotated = ({
  text,
  move,
  sheet,
  line,
  place,
}: {
  text: string;
  move: { was: string; now: string } | undefined;
  sheet: SheetView;
  line: number;
  place: number;
}) => (
  <>
    {move?.was && <s>{move.was}</s>}
    {move ? move.now || 'blank' : text}
    <Marks sheet={sheet} line={line} place={place} />
  </>
);

/** A record listed under a line. */
export const RecordRow = memo(function RecordRow({
  cells,
  all,
  window,
  numeric,
  aria,
}: {
  cells: string[] | undefined;
  all: Tracks;
  window: [number, number];
  numeric: boolean[];
  aria: number;
}) {
  const tracks = all.tracks.slice(...window);
  const before = (tracks[0]?.left ?? all.labelsWidth) - all.labelsWidth;
  return (
    <tr className="row record" aria-rowindex={aria}>
      {all.labels.map((_, k) => (
        <th key={k} style={stuck(all, k)} />
      ))}
      {before > 0 && <td style={{ width: before }} aria-hidden="true" />}
      {tracks.map((track) =>
        track.kind === 'record' ? (
          <td
            key={track.key}
            className={numeric[track.place] ? 'num' : 'text'}
            title={cells?.[track.place] ?? undefined}
          >
            {cells?.[track.place] ?? (cells ? '' : '…')}
          </td>
        ) : (
          <td key={track.key} className={track.kind === 'gap' ? 'gap' : ''} />
        ),
      )}
    </tr>
  );
});

/** Totals below their group are indented like its members. */
const indent = (row: Row) =>
  10 + 20 * (Math.max(0, row.depth - 1) + (row.role === 'subtotal' && row.open === null ? 1 : 0));

const cellClass = (text: string) => {
  const brackets = text.startsWith('(');
  const negative = brackets || text.startsWith('−');
  return `num${negative ? ' neg' : ''}${brackets ? ' hung' : ''}${MARKS.has(text) ? ' mark' : ''}`;
};
