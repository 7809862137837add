import type { ColumnView, Figure, Report, Taken } from '../api/client';
import { Choose, Written } from '../parts/Field';

const TAKES: [string, string][] = [
  ['sum', 'Sum'],
  ['count', 'Count of records'],
  ['count_values', 'Count of filled values'],
  ['distinct', 'Different values'],
  ['mean', 'Mean'],
  ['median', 'Median'],
  ['min', 'Least'],
  ['max', 'Largest'],
  ['stdev', 'Standard deviation'],
  ['variance', 'Variance'],
];
const WITH: [string, string][] = [
  ['year_earlier', 'a year earlier'],
  ['period_before', 'the period before'],
];
const AS: [string, string][] = [
  ['percent', 'Change in percent'],
  ['difference', 'Difference'],
  ['base', 'The earlier figure itself'],
  ['index', 'Index (earlier = 100)'],
];
const TOTALS: [string, string][] = [
  ['all', 'of the grand total'],
  ['parent', 'of its group'],
  ['column', 'of its column'],
  ['line', 'of its line'],
];
const NEEDS_NUMBER = new Set(['sum', 'mean', 'median', 'stdev', 'variance', 'min', 'max']);
const same = (names: string[]): [string, string][] => names.map((name) => [name, name]);

/** What a figure takes, and its name. */
export function FigureEditor({
  figure,
  others,
  columns,
  made,
  change,
}: {
  figure: Figure;
  others: string[];
  columns: ColumnView[];
  made: NonNullable<Report['columns']>;
  change: (figure: Figure) => void;
}) {
  return (
    <>
      <Written label="Name" value={figure.name} change={(name) => change({ ...figure, name })} />
      <Kind figure={figure} others={others} columns={columns} made={made} change={change} />
      <Places figure={figure} change={change} />
    </>
  );
}

function Kind({
  figure,
  others,
  columns,
  made,
  change,
}: {
  figure: Figure;
  others: string[];
  columns: ColumnView[];
  made: NonNullable<Report['columns']>;
  change: (figure: Figure) => void;
}) {
  if ('compare' in figure) {
    const how = typeof figure.with === 'string' ? figure.with : '';
    return (
      <>
        <Choose
          label="Figure"
          value={figure.compare}
          options={same(others)}
          change={(compare) => change({ ...figure, compare })}
        />
        <Choose
          label="Shown as"
          value={figure.as ?? 'difference'}
          options={AS}
          change={(as) => change({ ...figure, as } as Figure)}
        />
        <Choose
          label="Compared with"
          value={how}
          options={WITH}
          change={(w) => change({ ...figure, with: w } as Figure)}
        />
      </>
    );
  }
  if ('share' in figure) {
    return (
      <>
        <Choose
          label="Share of figure"
          value={figure.share}
          options={same(others)}
          change={(share) => change({ ...figure, share })}
        />
        <Choose
          label="Part"
          value={figure.of_total ?? 'all'}
          options={TOTALS}
          change={(t) => change({ ...figure, of_total: t } as Figure)}
        />
      </>
    );
  }
  if ('running' in figure) {
    const restarts: [string, string][] = [['never', 'never'], ...same(['year', 'half', 'quarter', 'month'])];
    return (
      <>
        <Choose
          label="Running total of"
          value={figure.running}
          options={same(others)}
          change={(running) => change({ ...figure, running })}
        />
        <Choose
          label="Starts again each"
          value={figure.restart ?? 'never'}
          options={restarts}
          change={(restart) => change({ ...figure, restart })}
        />
      </>
    );
  }
  if ('rank' in figure)
    return (
      <Choose
        label="Rank by"
        value={figure.rank}
        options={same(others)}
        change={(rank) => change({ ...figure, rank })}
      />
    );
  if ('formula' in figure)
    return (
      <Written
        label="Formula"
        multiline
        value={figure.formula}
        change={(formula) => change({ ...figure, formula })}
        help={'figures by name in double quotes, as "Net fare" / "Tickets"'}
      />
    );
  if ('moving' in figure) return null;
  const names = [
    ...columns.filter((c) => !NEEDS_NUMBER.has(figure.take) || c.role === 'number').map((c) => c.name),
    ...made.map((m) => m.name),
  ];
  return (
    <>
      <Choose
        label="Take"
        value={figure.take}
        options={TAKES}
        change={(take) => change(retaken(figure, take, names[0]))}
      />
      {figure.take !== 'count' && (
        <Choose
          label="Of"
          value={figure.of ?? ''}
          options={same(names)}
          change={(of) => change({ ...figure, of })}
        />
      )}
    </>
  );
}

function retaken(figure: Figure, take: string, column: string | undefined): Figure {
  const next = { ...figure, take } as Taken;
  if (take === 'count') delete next.of;
  else next.of ??= column ?? '';
  return next;
}

function Places({ figure, change }: { figure: Figure; change: (figure: Figure) => void }) {
  const options: [string, string][] = [['', 'as they come'], ...same(['0', '1', '2', '3', '4'])];
  const places = figure.format?.places;
  return (
    <Choose
      label="Decimal places"
      value={places === null || places === undefined ? '' : String(places)}
      options={options}
      change={(p) => change({ ...figure, format: { ...figure.format, places: p === '' ? null : Number(p) } })}
    />
  );
}
