import './lookup.css';

import { Button } from '@mui/material';

import { get, type MadeColumn, type SourceView } from '../api/client';
import { useSource, useSources } from '../api/queries';
import { Choose } from '../parts/Field';

type LookupColumn = Extract<MadeColumn, { lookup: unknown }>;
type Pairs = Record<string, string>;
const same = (names: string[]): [string, string][] => names.map((n) => [n, n]);
const isDated = (column: { kind: string }) => column.kind === 'date' || column.kind === 'datetime';

/** Another source, the columns by which records match, the date as at which a line counts, and the column to fetch. */
export function LookupFields({
  source,
  made,
  change,
}: {
  source: SourceView;
  made: LookupColumn;
  change: (made: LookupColumn) => void;
}) {
  const { lookup } = made;
  const match = lookup.match ?? {};
  const asAt = lookup.as_at ?? {};
  const sources = (useSources().data ?? []).filter((s) => s.id !== source.id);
  const other = useSource(sources.find((s) => s.name === lookup.source)?.id).data;
  const own = source.columns.filter((c) => c.name !== made.name);
  const mine = own.map((c) => c.name);
  const theirs = other?.columns.map((c) => c.name) ?? [];
  const days = own.filter(isDated).map((c) => c.name);
  const since = other?.columns.filter(isDated).map((c) => c.name) ?? [];
  const [free] = mine.filter((n) => !(n in match));
  const set = (next: Partial<LookupColumn['lookup']>) => change({ ...made, lookup: { ...lookup, ...next } });
  const choose = async (name: string) => {
    const id = sources.find((s) => s.name === name)?.id;
    const guessed =
      id === undefined ? { match: {}, as_at: {} } : await get(`/sources/${source.id}/match/${id}`);
    const alike = without(guessed.match, made.name);
    set({
      source: name,
      match: Object.keys(alike).length > 0 ? alike : { [mine[0] ?? '']: '' },
      as_at: without(guessed.as_at, made.name),
      take: '',
    });
  };
  return (
    <>
      <Choose
        label="Source"
        value={lookup.source}
        options={same(sources.map((s) => s.name))}
        change={(name) => void choose(name)}
      />
      {other && (
        <>
          <PairFields
            pairs={match}
            labels={['Where this column', `is that of ${other.name}`]}
            options={[mine, theirs]}
            change={(pairs) => set({ match: pairs })}
          />
          <div>
            {free !== undefined && (
              <Button onClick={() => set({ match: { ...match, [free]: '' } })}>And another column</Button>
            )}
            {since.length > 0 && days.length > 0 && Object.keys(asAt).length === 0 && (
              <Button onClick={() => set({ as_at: { [days[0] as string]: since[0] as string } })}>
                As at a date
              </Button>
            )}
          </div>
          <PairFields
            pairs={asAt}
            labels={['As at the date', `each line of ${other.name} counts from`]}
            options={[days, since]}
            change={(pairs) => set({ as_at: pairs })}
            remove={Object.keys(match).length > 0}
          />
          <Choose
            label="Column to look up"
            value={lookup.take}
            options={same(theirs)}
            change={(take) => set({ take })}
          />
        </>
      )}
    </>
  );
}

function without(pairs: Pairs | undefined, name: string): Pairs {
  return Object.fromEntries(Object.entries(pairs ?? {}).filter(([own]) => own !== name));
}

/** Own columns, each beside one of the other source. */
function PairFields({
  pairs,
  labels,
  options,
  change,
  remove = Object.keys(pairs).length > 1,
}: {
  pairs: Pairs;
  labels: [string, string];
  options: [string[], string[]];
  change: (pairs: Pairs) => void;
  remove?: boolean;
}) {
  const entries = Object.entries(pairs);
  const put = (at: number, pair: [string, string]) =>
    change(Object.fromEntries(entries.map((entry, i) => (i === at ? pair : entry))));
  return entries.map(([left, right], at) => (
    <div key={at} className="lookup-pair">
      <Choose
        label={labels[0]}
        value={left}
        options={same(options[0])}
        change={(name) => put(at, [name, right])}
      />
      <Choose
        label={labels[1]}
        value={right}
        options={same(options[1])}
        change={(name) => put(at, [left, name])}
      />
      {remove && (
        <button
          className="link"
          onClick={() => change(Object.fromEntries(entries.filter((_, i) => i !== at)))}
          aria-label={`Do not match by ${left}`}
        >
          remove
        </button>
      )}
    </div>
  ));
}
