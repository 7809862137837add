import type { AgeEntry, AxisEntry, ColumnView, PeriodEntry } from '../api/client';
import { useGroupings } from '../api/queries';
import { Choose, Written } from '../parts/Field';
import { grainWords } from './brief';

const GRAINS = ['year', 'half', 'quarter', 'month', 'week', 'day', 'hour'] as const;
const MERGING = [
  'quarter_of_year',
  'month_of_year',
  'week_of_year',
  'day_of_month',
  'day_of_week',
  'hour_of_day',
] as const;
type Grain = (typeof GRAINS)[number] | (typeof MERGING)[number];

interface Props<E extends AxisEntry> {
  entry: E;
  columns: ColumnView[];
  figures: string[];
  change: (entry: AxisEntry) => void;
}

/** What makes lines or columns: a category, a period, ranges or ages. */
export function AxisEditor({ entry, ...rest }: Props<AxisEntry>) {
  if ('period' in entry) return <Periods entry={entry} {...rest} />;
  if ('category' in entry) return <Categories entry={entry} {...rest} />;
  if ('bucket' in entry)
    return <Cuts label={`Ranges of ${entry.bucket}`} entry={entry} change={rest.change} />;
  return (
    <>
      <Cuts label={`Ages by ${entry.age}`} entry={entry} change={rest.change} />
      <OpenItems entry={entry} columns={rest.columns} change={rest.change} />
    </>
  );
}

function Categories({ entry, columns, figures, change }: Props<Extract<AxisEntry, { category: string }>>) {
  const trees = (useGroupings().data ?? []).filter((g) => g.kind === 'tree');
  const tree = trees.find((t) => t.name === entry.tree);
  const names: [string, string][] = columns.filter((c) => c.role !== 'period').map((c) => [c.name, c.name]);
  if (!names.some(([n]) => n === entry.category)) names.push([entry.category, entry.category]);
  const chosen = entry.levels ?? tree?.levels ?? [];
  return (
    <>
      <Choose
        label="Category"
        value={entry.category}
        options={names}
        change={(category) => change({ ...entry, category })}
      />
      <Choose
        label="Grouped by"
        value={entry.tree ?? ''}
        options={[['', 'its own values'], ...trees.map((t): [string, string] => [t.name, `tree: ${t.name}`])]}
        change={(t) => change({ ...entry, tree: t || null, levels: null })}
      />
      {tree && (
        <div className="grains" role="group" aria-label="Levels">
          {tree.levels.map((level) => (
            <button
              key={level}
              className={`chip tree${chosen.includes(level) ? ' on' : ''}`}
              aria-pressed={chosen.includes(level)}
              onClick={() => {
                const levels = tree.levels.filter((l) =>
                  l === level ? !chosen.includes(l) : chosen.includes(l),
                );
                if (levels.length) change({ ...entry, levels });
              }}
            >
              {level}
            </button>
          ))}
        </div>
      )}
      {tree && (
        <Written
          label="Placed as at"
          type="date"
          value={typeof entry.placed === 'string' && entry.placed !== 'now' ? entry.placed : ''}
          help="for values that moved on a day; empty is as it is now"
          clear
          change={(placed) => change({ ...entry, placed: placed || null })}
        />
      )}
      <Top entry={entry} figures={figures} change={change} />
    </>
  );
}

function Top({
  entry,
  figures,
  change,
}: {
  entry: AxisEntry;
  figures: string[];
  change: (entry: AxisEntry) => void;
}) {
  const options: [string, string][] = [
    ['', 'all members'],
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

const order = (grain: Grain) => GRAINS.indexOf(grain as (typeof GRAINS)[number]);

function toggled(entry: PeriodEntry, grain: Grain): PeriodEntry['grains'] {
  const has = entry.grains.includes(grain);
  if (has) return entry.grains.filter((g) => g !== grain);
  if (order(grain) < 0) return [grain];
  const plain = entry.grains.filter((g): g is Grain => typeof g === 'string' && order(g as Grain) >= 0);
  return [...plain, grain].sort((a, b) => order(a) - order(b)) as PeriodEntry['grains'];
}

function Periods({ entry, columns, change }: Props<Extract<AxisEntry, { period: string }>>) {
  const calendars = (useGroupings().data ?? []).filter((g) => g.kind === 'calendar');
  const column = columns.find((c) => c.name === entry.period);
  const dates: [string, string][] = columns.filter((c) => c.role === 'period').map((c) => [c.name, c.name]);
  const years = column ? column.lowest.slice(-4) !== column.highest.slice(-4) : false;
  const grains = GRAINS.filter((g) => g !== 'hour' || column?.kind === 'datetime');
  const chip = (grain: Grain) => (
    <button
      key={grain}
      className={`chip${entry.grains.includes(grain) ? ' on' : ''}`}
      aria-pressed={entry.grains.includes(grain)}
      onClick={() => {
        const next = toggled(entry, grain);
        if (next.length) change({ ...entry, grains: next });
      }}
    >
      {grainWords(grain)}
    </button>
  );
  return (
    <>
      <Choose
        label="Date"
        value={entry.period}
        options={dates}
        change={(period) => change({ ...entry, period })}
      />
      <Choose
        label="Calendar"
        value={entry.calendar ?? ''}
        options={[['', 'Civil year'], ...calendars.map((c): [string, string] => [c.name, c.name])]}
        change={(c) => change({ ...entry, calendar: c || null })}
      />
      <div className="grains" role="group" aria-label="Periods">
        {grains.map(chip)}
      </div>
      <div>
        <div className="quiet" style={{ fontSize: 12, marginBottom: 4 }}>
          Years merged{years ? ' – the data has more than one, and these add them together' : ''}
        </div>
        <div className="grains" role="group" aria-label="Merged periods">
          {MERGING.map(chip)}
        </div>
      </div>
      <Choose
        label="Periods without records"
        value={entry.empty ?? 'hide'}
        options={[
          ['hide', 'left out'],
          ['show', 'shown'],
        ]}
        change={(empty) => change({ ...entry, empty: empty as 'hide' | 'show' })}
      />
    </>
  );
}

/** Only items that were open on the as-of date: opened by then, and not closed. */
function OpenItems({
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

function Cuts({
  label,
  entry,
  change,
}: {
  label: string;
  entry: Extract<AxisEntry, { bucket: string } | { age: string }>;
  change: (entry: AxisEntry) => void;
}) {
  const sets = (useGroupings().data ?? []).filter((g) => g.kind === 'buckets');
  const cuts = Array.isArray(entry.cut) ? entry.cut.join(', ') : '';
  return (
    <>
      <h3>{label}</h3>
      <Choose
        label="Bucket set"
        value={entry.set ?? ''}
        options={[['', 'cuts of its own'], ...sets.map((s): [string, string] => [s.name, s.name])]}
        change={(set) => change({ ...entry, set: set || null, cut: set ? null : [0, 30, 60, 90] })}
      />
      {!entry.set && (
        <Written
          label="Cuts"
          value={cuts}
          help="rising numbers with commas between"
          change={(text) =>
            change({
              ...entry,
              cut: text
                .split(/[,;\s]+/)
                .filter(Boolean)
                .map(Number),
            })
          }
        />
      )}
    </>
  );
}
