import type { AgeEntry, AxisEntry, BucketEntry, ColumnView } from '../../api/client';
import { Choose, Written } from '../../parts/Field';
import { GroupingChoice } from '../../parts/GroupingChoice';
import type { AxisProps } from './axisProps';

/** Only items that were open on the as-of date: opened by then, and not closed. */
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

/** Ranges or ages: a bucket set, or cuts of its own. */
export function Cuts({
  label,
  entry,
  source,
  change,
}: Pick<AxisProps<BucketEntry | AgeEntry>, 'entry' | 'source' | 'change'> & { label: string }) {
  const column = 'age' in entry ? entry.age : entry.bucket;
  const parts = entry.cut && 'quantiles' in entry.cut ? entry.cut.quantiles : null;
  const way = entry.set ? 'set' : parts ? 'parts' : 'cuts';
  const set = (next: Partial<BucketEntry>) =>
    change({ ...entry, set: null, cut: null, ...next } as AxisEntry);
  return (
    <>
      <h3>{label}</h3>
      <GroupingChoice
        label="Bucket set"
        kind="buckets"
        source={source}
        column={column}
        value={entry.set ?? ''}
        none="cuts of its own"
        change={(name) => set(name ? { set: name } : { cut: [0, 30, 60, 90] })}
      />
      {way !== 'set' && (
        <Choose
          label="Cut"
          value={way}
          options={[
            ['cuts', 'at these numbers'],
            ['parts', 'into parts of as many records each'],
          ]}
          change={(next) => set({ cut: next === 'parts' ? { quantiles: 4 } : [0, 30, 60, 90] })}
        />
      )}
      {way === 'cuts' && (
        <Written
          label="Cuts"
          value={Array.isArray(entry.cut) ? entry.cut.join(', ') : ''}
          help="rising numbers with commas between"
          change={(text) =>
            set({
              cut: text
                .split(/[,;\s]+/)
                .filter(Boolean)
                .map(Number),
            })
          }
        />
      )}
      {way === 'parts' && (
        <Written
          label="Parts"
          type="number"
          value={String(parts)}
          change={(n) => set({ cut: { quantiles: Math.max(2, Number(n) || 4) } })}
        />
      )}
    </>
  );
}
