import '../parts/chip.css';

import type { AxisEntry, CategoryEntry, ColumnView } from '../api/client';
import { useGroupings } from '../api/queries';
import { Choose, Written } from '../parts/Field';
import { GroupingChoice } from '../parts/GroupingChoice';
import type { AxisProps } from './axisProps';
import { OrderFields, Top } from './OrderFields';
import { WorkedLines } from './WorkedLines';

/** A column's values, or the levels of a tree over them. */
export function Categories(props: AxisProps<CategoryEntry>) {
  const { entry, source, columns, figures, change, report, set } = props;
  const trees = (useGroupings().data ?? []).filter((g) => g.kind === 'tree');
  const tree = trees.find((t) => t.name === entry.tree);
  const names: [string, string][] = columns.filter((c) => c.role !== 'period').map((c) => [c.name, c.name]);
  if (!names.some(([n]) => n === entry.category)) names.push([entry.category, entry.category]);
  return (
    <>
      <Choose
        label="Category"
        value={entry.category}
        options={names}
        change={(category) => change({ ...entry, category, labels: {} })}
      />
      <GroupingChoice
        label="Grouped by"
        kind="tree"
        source={source}
        column={entry.category}
        value={entry.tree ?? ''}
        none="its own values"
        change={(t) =>
          change({
            ...entry,
            tree: t || null,
            levels: null,
            ...(t ? { labels: {} } : { placed: null, placed_by: null }),
          })
        }
      />
      {tree && <Levels entry={entry} all={tree.levels} change={change} />}
      {tree && <Placed entry={entry} columns={columns} change={change} />}
      <Top entry={entry} figures={figures} change={change} />
      <OrderFields entry={entry} figures={figures} change={change} />
      <Written
        label="Count as negative"
        value={Object.keys(entry.signs ?? {}).join(', ')}
        help="lines by name, with commas between, as Refunds: their amounts are subtracted, in totals too"
        clear
        change={(text) => change({ ...entry, signs: signsOf(text) })}
      />
      {!entry.tree && (
        <Written
          label="Rename values"
          value={Object.entries(entry.labels ?? {})
            .map(([value, label]) => `${value} = ${label}`)
            .join('\n')}
          help="a value = its name on the sheet, one a line; values of one name are one line"
          lines
          clear
          change={(text) => change({ ...entry, labels: labelsOf(text) })}
        />
      )}
      {report && set && <WorkedLines levels={levelsOf(entry, tree?.levels)} report={report} change={set} />}
    </>
  );
}

const signsOf = (text: string) =>
  Object.fromEntries(
    text
      .split(',')
      .map((label) => label.trim())
      .filter(Boolean)
      .map((label) => [label, -1 as const]),
  );

const labelsOf = (text: string) =>
  Object.fromEntries(
    text
      .split('\n')
      .map((line) => line.split(' = '))
      .map(([value = '', ...label]) => [value, label.join(' = ').trim()])
      .filter(([value, label]) => value !== '' && label !== ''),
  );

/** The names of an entry's levels on the sheet. */
function levelsOf(entry: CategoryEntry, tree: string[] | undefined): string[] {
  const found = entry.tree ? (entry.levels ?? tree ?? []) : [entry.category];
  return found.length === 1 && entry.name ? [entry.name] : found;
}

type Change = (entry: AxisEntry) => void;

/** The levels shown, in order: each can be removed, restored, or moved outwards. */
function Levels({ entry, all, change }: { entry: CategoryEntry; all: string[]; change: Change }) {
  const chosen = entry.levels ?? all;
  const outwards = (level: string) => {
    const at = chosen.indexOf(level);
    const next = chosen.filter((l) => l !== level);
    next.splice(at - 1, 0, level);
    change({ ...entry, levels: next });
  };
  return (
    <div className="grains" role="group" aria-label="Levels">
      {chosen.map((level, i) => (
        <span key={level} className="level">
          {i > 0 && (
            <button
              className="chip tree on"
              title={`${level} outside ${chosen[i - 1]}`}
              aria-label={`Move ${level} outwards`}
              onClick={() => outwards(level)}
            >
              ‹
            </button>
          )}
          <button
            className="chip tree on"
            aria-pressed="true"
            onClick={() =>
              chosen.length > 1 && change({ ...entry, levels: chosen.filter((l) => l !== level) })
            }
          >
            {level}
          </button>
        </span>
      ))}
      {all
        .filter((level) => !chosen.includes(level))
        .map((level) => (
          <button
            key={level}
            className="chip tree"
            aria-pressed="false"
            onClick={() => {
              const kept = all.filter((l) => l === level || chosen.includes(l));
              change({ ...entry, levels: kept });
            }}
          >
            {level}
          </button>
        ))}
    </div>
  );
}

/** For values that changed their category on a day: where they count. */
function Placed({ entry, columns, change }: { entry: CategoryEntry; columns: ColumnView[]; change: Change }) {
  const dates = columns.filter((c) => c.role === 'period').map((c) => c.name);
  const { placed } = entry;
  const way = placed === 'was' ? 'was' : placed && placed !== 'now' ? 'at' : 'now';
  const set = (next: Partial<CategoryEntry>) => change({ ...entry, placed_by: null, ...next });
  return (
    <>
      <Choose
        label="Values that changed category stand"
        value={way}
        options={[
          ['now', 'where they are now'],
          ...(dates.length ? [['was', 'where they were on the record’s day'] as [string, string]] : []),
          ['at', 'where they were on one day'],
        ]}
        change={(next) => {
          if (next === 'was') set({ placed: 'was', placed_by: dates[0] ?? null });
          else if (next === 'at') set({ placed: new Date().toISOString().slice(0, 10) });
          else set({ placed: null });
        }}
      />
      {way === 'was' && (
        <Choose
          label="The record’s day is"
          value={entry.placed_by ?? dates[0] ?? ''}
          options={dates.map((d) => [d, d])}
          change={(placed_by) => set({ placed: 'was', placed_by })}
        />
      )}
      {way === 'at' && (
        <Written
          label="Placed as at"
          type="date"
          value={placed ?? ''}
          change={(day) => set({ placed: day })}
        />
      )}
    </>
  );
}
