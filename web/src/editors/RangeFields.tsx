import './editors.css';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import {
  post,
  type AgeEntry,
  type AxisEntry,
  type BucketEntry,
  type Buckets,
  type ColumnView,
} from '../api/client';
import { Choose, Written } from '../parts/Field';
import { GroupingChoice } from '../parts/GroupingChoice';
import { count } from '../parts/words';
import type { AxisProps } from './axisProps';
import { fromField, inField } from '../parts/notation';

/** Only items open on the as-of date: opened by then, and not closed. */
export function OpenItems({
  entry,
  columns,
  change,
}: {
  entry: AgeEntry;
  columns: ColumnView[];
  change: (entry: AxisEntry) => void;
}) {
  const dates: [string, string][] = columns.filter((c) => c.role === 'period').map((c) => [c.name, c.name]);
  const on = Boolean(entry.opened);
  const [first = '', second = ''] = [dates[0]?.[0], dates[dates.length - 1]?.[0]];
  return (
    <>
      <Choose
        label="Items"
        value={on ? 'open' : 'all'}
        options={[
          ['all', 'all of them'],
          ['open', 'those open on the as-of date'],
        ]}
        change={(v) =>
          change({ ...entry, opened: v === 'open' ? first : null, closed: v === 'open' ? second : null })
        }
      />
      {on && (
        <>
          <Choose
            label="Opened on"
            value={entry.opened ?? ''}
            options={dates}
            change={(opened) => change({ ...entry, opened })}
          />
          <Choose
            label="Closed on"
            value={entry.closed ?? ''}
            options={dates}
            change={(closed) => change({ ...entry, closed })}
          />
        </>
      )}
    </>
  );
}

type Cut = NonNullable<BucketEntry['cut']>;

const wayOf = (entry: BucketEntry | AgeEntry) =>
  entry.set
    ? 'set'
    : Array.isArray(entry.cut) || !entry.cut
      ? 'cuts'
      : 'quantiles' in entry.cut
        ? 'parts'
        : 'steps';

/**
 * Ranges or ages: a bucket set, or own cuts, with the column's distribution and the number of records in each range.
 */
export function Cuts({
  label,
  entry,
  source,
  columns,
  asOf,
  change,
}: Pick<AxisProps<BucketEntry | AgeEntry>, 'entry' | 'source' | 'columns' | 'asOf' | 'change'> & {
  label: string;
}) {
  const column = 'age' in entry ? entry.age : entry.bucket;
  const isAge = 'age' in entry;
  const known = columns.find((c) => c.name === column);
  const way = wayOf(entry);
  const set = (next: Partial<BucketEntry>) =>
    change({ ...entry, set: null, cut: null, ...next } as AxisEntry);
  const start: Record<string, Cut> = {
    parts: { quantiles: 4 },
    steps: isAge ? { from: 0, to: 120, step: 30 } : ((known?.cut ?? { from: 0, to: 1000, step: 100 }) as Cut),
    cuts: isAge ? [0, 30, 60, 90] : [0, 100, 1000],
  };
  return (
    <>
      <h3>{label}</h3>
      {known && !isAge && (
        <p className="say">
          From {known.lowest} to {known.highest}.
        </p>
      )}
      <GroupingChoice
        label="Bucket set"
        kind="buckets"
        source={source}
        column={column}
        value={entry.set ?? ''}
        none="ranges of its own"
        change={(name) => set(name ? { set: name } : { cut: start.cuts as Cut })}
      />
      {way !== 'set' && (
        <Choose
          label="Ranges"
          value={way}
          options={[
            ['steps', 'from, to, every'],
            ['cuts', 'cut at these numbers'],
            ['parts', 'equal-count groups'],
          ]}
          change={(next) => set({ cut: start[next] as Cut })}
        />
      )}
      {way === 'steps' && entry.cut && 'step' in entry.cut && (
        <Steps cut={entry.cut} change={(cut) => set({ cut })} />
      )}
      {way === 'cuts' && (
        <Written
          label="Cuts"
          value={Array.isArray(entry.cut) ? entry.cut.join(', ') : ''}
          help="rising numbers with commas between"
          change={(text) => {
            const numbers = text
              .split(/[,;\s]+/)
              .filter(Boolean)
              .map(Number);
            const rising = numbers.every((n, i) => i === 0 || n > (numbers[i - 1] ?? n));
            if (numbers.length > 0 && rising && !numbers.some(Number.isNaN)) set({ cut: numbers });
          }}
        />
      )}
      {way === 'parts' && entry.cut && 'quantiles' in entry.cut && (
        <Written
          label="How many groups"
          type="number"
          value={String(entry.cut.quantiles)}
          change={(n) => set({ cut: { quantiles: Math.max(2, Number(n) || 4) } })}
        />
      )}
      <Held entry={entry} column={column} source={source} asOf={asOf} />
    </>
  );
}

type Every = { from: number; to: number; step: number };
const isWhole = ({ from, to, step }: Every) => step > 0 && to > from && (to - from) / step <= 200;

/** Ranges of equal size: from, to, every; applied once the three are consistent. */
function Steps({ cut, change }: { cut: Every; change: (cut: Every) => void }) {
  const [draft, setDraft] = useState(cut);
  const field = (label: string, key: keyof Every) => (
    <Written
      label={label}
      value={inField(String(draft[key]))}
      change={(text) => {
        const next = { ...draft, [key]: Number(fromField(text)) };
        setDraft(next);
        if (isWhole(next)) change(next);
      }}
    />
  );
  return (
    <>
      <div className="pair">
        {field('From', 'from')}
        {field('To', 'to')}
        {field('Every', 'step')}
      </div>
      {!isWhole(draft) && (
        <p className="say">These make no ranges, or more than 200 of them; change one of the three.</p>
      )}
    </>
  );
}

const MOST_SHOWN = 12;

/** The number of records in each range, and which range contains its end. */
function Held({
  entry,
  column,
  source,
  asOf,
}: {
  entry: BucketEntry | AgeEntry;
  column: string;
  source: string;
  asOf: string | undefined;
}) {
  const isAge = 'age' in entry;
  const document: Buckets | null = entry.cut
    ? { kalendor: 1, kind: 'buckets', name: 'ranges', cut: entry.cut }
    : null;
  const found = useQuery({
    queryKey: ['look', 'ranges', source, column, asOf, JSON.stringify(document)],
    queryFn: () =>
      post(
        `/look/buckets?source=${encodeURIComponent(source)}&column=${encodeURIComponent(column)}${asOf ? `&as_of=${asOf}` : ''}`,
        document as Buckets,
      ),
    enabled: document !== null,
    retry: false,
  }).data;
  const ranges = found?.ranges ?? [];
  return (
    <>
      <p className="say">
        {isAge
          ? 'An age range holds its last day: 30 days stand in 1 – 30.'
          : 'A range holds its lower end: 100 stands in 100 up to 200.'}
      </p>
      {ranges.length > 0 && (
        <table className="held">
          <tbody>
            {ranges.slice(0, MOST_SHOWN).map((range) => (
              <tr key={range.label}>
                <th scope="row">{range.label}</th>
                <td className="num">{count(range.records)}</td>
              </tr>
            ))}
            {ranges.length > MOST_SHOWN && (
              <tr>
                <th scope="row">{ranges.length - MOST_SHOWN} more ranges</th>
              </tr>
            )}
          </tbody>
        </table>
      )}
    </>
  );
}
