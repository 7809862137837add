import './sheet.css';

import { memo } from 'react';

import type { SheetView } from '../api/client';
import { capital } from '../parts/words';
import { headings } from './outline';
import { isAlone, type Track, type Tracks } from './tracks';

/**
 * The column by which the innermost lines are sorted: a position among the columns of figures, −1 for the labels, null
 * for none.
 */
export interface Sorted {
  place: number | null;
  falling: boolean;
}

interface Props {
  sheet: SheetView;
  all: Tracks;
  window: [number, number];
  columns: boolean;
  sorted: Sorted;
}

/** The sticky headings over the columns; a click on one sorts by it. */
export const SheetHead = memo(function SheetHead({ sheet, all, window, columns, sorted }: Props) {
  const levels = headings(sheet);
  const alone = isAlone(sheet);
  const tracks = all.tracks.slice(...window);
  const before = (tracks[0]?.left ?? all.labelsWidth) - all.labelsWidth;
  const names = columns
    ? sheet.down.map((l) => readable(l.name))
    : [sheet.down.map((l) => capital(readable(l.name))).join(' · ')];
  const corner = (last: boolean) =>
    all.labels.map((_, k) => (
      <th key={k} className="corner" style={stuck(all, k)} data-p={last ? -1 - k : undefined}>
        {last ? (
          <Sortable on={sorted.place === -1 && k === all.labels.length - 1} falling={sorted.falling}>
            {capital(names[k] ?? '')}
          </Sortable>
        ) : (
          k === 0 && alone && <b className="figure-name">{sheet.figures[0]?.name}</b>
        )}
      </th>
    ));
  const records = tracks.filter((track) => track.kind === 'record').length;
  const single = (track: Track, label: string) => (
    <Single
      key={track.key}
      track={track}
      label={track.kind === 'record' ? (sheet.listed?.columns[track.place] ?? '') : label}
      sorted={sorted}
      numeric={track.kind !== 'record' || sheet.listed?.numeric[track.place]}
    />
  );
  const spacer = before > 0 && <th style={{ width: before }} aria-hidden="true" />;
  return (
    <thead>
      {levels.map((spans, level) => {
        const last = alone && level === levels.length - 1;
        const kind = sheet.across[level]?.kind ?? '';
        return (
          <tr key={level} className={last ? 'last' : ''} aria-rowindex={level + 1}>
            {corner(last)}
            {spacer}
            {!last && records > 0 && <th colSpan={records} aria-hidden="true" />}
            {last
              ? tracks.map((track) => single(track, sheet.columns[track.column]?.labels[level] ?? ''))
              : spans.map((span) => {
                  const under = tracks.filter((t) => within(t, span.first, span.columns));
                  if (under.length === 0) return null;
                  const gap = under[0]?.kind === 'gap' && span.first === under[0].column;
                  const cells = under.length - (gap ? 1 : 0);
                  return [
                    gap && <th key={`${span.key}-gap`} className="gap" />,
                    cells > 0 && (
                      <th
                        key={span.key}
                        colSpan={cells}
                        scope="colgroup"
                        className={span.label ? `span ${kind}` : ''}
                        title={span.label}
                        data-level={level}
                        data-over={under.find((t) => t.kind === 'cell')?.place}
                      >
                        <span className="span-label">{span.label}</span>
                      </th>
                    ),
                  ];
                })}
          </tr>
        );
      })}
      {!alone && (
        <tr className="last" aria-rowindex={levels.length + 1}>
          {corner(true)}
          {spacer}
          {tracks.map((track) => single(track, sheet.figures[track.figure]?.name ?? ''))}
        </tr>
      )}
    </thead>
  );
});

/** A level's name for display: `month of year`. */
const readable = (name: string) => name.replaceAll('_', ' ');

const within = (track: Track, first: number, count: number) =>
  track.kind !== 'record' && track.column >= first && track.column < first + count;

/** The sticky position of a column of labels. */
export function stuck(all: Tracks, k: number): { left: number; width: number } {
  return { left: all.labels.slice(0, k).reduce((s, w) => s + w, 0), width: all.labels[k] ?? 0 };
}

/** The heading of one column. */
function Single({
  track,
  label,
  sorted,
  numeric = true,
}: {
  track: Track;
  label: string;
  sorted: Sorted;
  numeric?: boolean | undefined;
}) {
  if (track.kind === 'gap') return <th className="gap" />;
  const on = track.kind === 'cell' && sorted.place === track.place;
  return (
    <th
      className={numeric ? 'num' : 'text'}
      scope="col"
      data-p={track.kind === 'cell' ? track.place : undefined}
      aria-sort={on ? (sorted.falling ? 'descending' : 'ascending') : undefined}
    >
      {track.kind === 'cell' ? (
        <Sortable on={on} falling={sorted.falling}>
          {label}
        </Sortable>
      ) : (
        label
      )}
    </th>
  );
}

function Sortable({ on, falling, children }: { on: boolean; falling: boolean; children: string }) {
  return (
    <button className={`sort${on ? ' on' : ''}`} tabIndex={-1} title={`${children}: click to sort`}>
      {children}
      {on && <span aria-hidden="true"> {falling ? '▾' : '▴'}</span>}
    </button>
  );
}
