import { Button } from '@mui/material';

import { get, type MadeColumn, type SourceView } from '../api/client';
import { useSource, useSources } from '../api/queries';
import { Choose } from '../parts/Field';

type LookupColumn = Extract<MadeColumn, { lookup: unknown }>;
const same = (names: string[]): [string, string][] => names.map((n) => [n, n]);

/** Another source, the columns by which records match, and the column to fetch. */
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
  const sources = (useSources().data ?? []).filter((s) => s.id !== source.id);
  const other = useSource(sources.find((s) => s.name === lookup.source)?.id).data;
  const theirs = other?.columns.map((c) => c.name) ?? [];
  const mine = source.columns.map((c) => c.name).filter((n) => n !== made.name);
  const pairs = Object.entries(lookup.match);
  const set = (next: Partial<LookupColumn['lookup']>) => change({ ...made, lookup: { ...lookup, ...next } });
  const pair = (at: number, left: string, right: string) =>
    set({ match: Object.fromEntries(pairs.map((p, i) => (i === at ? [left, right] : p))) });
  const choose = async (name: string) => {
    const id = sources.find((s) => s.name === name)?.id;
    const guessed =
      id === undefined ? {} : await get<Record<string, string>>(`/sources/${source.id}/match/${id}`);
    const alike = Object.entries(guessed).filter(([own]) => own !== made.name);
    set({
      source: name,
      match: alike.length > 0 ? Object.fromEntries(alike) : { [mine[0] ?? '']: '' },
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
      {other &&
        pairs.map(([left, right], i) => (
          <div key={i} style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 12 }}>
            <Choose
              label="Where this column"
              value={left}
              options={same(mine)}
              change={(name) => pair(i, name, right)}
            />
            <Choose
              label={`is that of ${lookup.source}`}
              value={right}
              options={same(theirs)}
              change={(name) => pair(i, left, name)}
            />
          </div>
        ))}
      {other && (
        <Button
          sx={{ justifySelf: 'start' }}
          onClick={() =>
            set({ match: { ...lookup.match, [mine.find((n) => !(n in lookup.match)) ?? '']: '' } })
          }
        >
          And another column
        </Button>
      )}
      {other && (
        <Choose
          label="Column to look up"
          value={lookup.take}
          options={same(theirs)}
          change={(take) => set({ take })}
        />
      )}
    </>
  );
}
