import type { AxisEntry } from '../api/client';
import { Choose, Written } from '../parts/Field';

interface Props {
  entry: AxisEntry;
  figures: string[];
  change: (entry: AxisEntry) => void;
}

/** A top by a figure, with the rest as one line. */
export function Top({ entry, figures, change }: Props) {
  const options: [string, string][] = [
    ['', 'all of them'],
    ...['3', '5', '10', '20'].map((n): [string, string] => [n, `top ${n}, the rest as Other`]),
  ];
  return (
    <>
      <Choose
        label="Show"
        value={entry.top ? String(entry.top) : ''}
        options={options}
        change={(n) =>
          change({ ...entry, top: n ? Number(n) : null, by: n ? (entry.by ?? figures[0] ?? null) : null })
        }
      />
      {entry.top ? (
        <Choose
          label="By"
          value={entry.by ?? ''}
          options={figures.map((f) => [f, f])}
          change={(by) => change({ ...entry, by })}
        />
      ) : null}
    </>
  );
}

const BY_FIGURE: [string, string][] = [
  ['desc', 'by a figure, largest first'],
  ['asc', 'by a figure, smallest first'],
];
const OF_CATEGORIES: [string, string][] = [
  ['label', 'by name'],
  ['label_desc', 'by name, last first'],
  ['first_seen', 'as they first appear'],
  ...BY_FIGURE,
  ['list', 'as listed here'],
];
const OF_PERIODS: [string, string][] = [
  ['', 'by date'],
  ['date_desc', 'by date, latest first'],
  ...BY_FIGURE,
];
const OF_RANGES: [string, string][] = [['', 'from low to high'], ...BY_FIGURE];

function waysOf(entry: AxisEntry): [string, string][] {
  if ('category' in entry)
    return [['', entry.tree ? 'in the tree’s own order' : 'by name, as it is'], ...OF_CATEGORIES];
  return 'period' in entry ? OF_PERIODS : OF_RANGES;
}

function wayOf(order: AxisEntry['order']): string {
  if (!order) return '';
  if (typeof order === 'string') return order === 'tree' ? '' : order;
  if ('list' in order) return 'list';
  return order.desc ? 'desc' : 'asc';
}

/** The order of an entry's members within their group. */
export function OrderFields({ entry, figures, change }: Props) {
  const { order } = entry;
  const way = wayOf(order);
  const set = (next: AxisEntry['order']) => change({ ...entry, order: next ?? null });
  const by = order && typeof order === 'object' && 'by' in order ? order.by : (figures[0] ?? '');
  const list = order && typeof order === 'object' && 'list' in order ? order.list : [];
  const begin = (next: string) => {
    if (next === 'desc' || next === 'asc') set({ by, desc: next === 'desc' });
    else if (next === 'list') set({ list });
    else set(next ? (next as 'label') : null);
  };
  return (
    <>
      <Choose label="Order" value={way} options={waysOf(entry)} change={begin} />
      {(way === 'desc' || way === 'asc') && (
        <Choose
          label="Ordered by the figure"
          value={by}
          options={figures.map((f) => [f, f])}
          change={(f) => set({ by: f, desc: way === 'desc' })}
        />
      )}
      {way === 'list' && (
        <Written
          label="In this order"
          value={list.join(', ')}
          help="labels with commas between; the rest after them"
          change={(text) =>
            set({
              list: text
                .split(',')
                .map((l) => l.trim())
                .filter(Boolean),
            })
          }
        />
      )}
    </>
  );
}
