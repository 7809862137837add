import type { ColumnView, Figure, Taken } from '../api/client';
import { Choose, Written } from '../parts/Field';

type CompareFigure = Extract<Figure, { compare: string }>;
type MovingFigure = Extract<Figure, { moving: string }>;
type Change = (figure: Figure) => void;

const AS: [string, string][] = [
  ['percent', 'Change in percent'],
  ['difference', 'Difference'],
  ['base', 'The earlier figure itself'],
  ['index', 'Index (earlier = 100)'],
];
const WITH: [string, string][] = [
  ['year_earlier', 'a year earlier'],
  ['period_before', 'the period before'],
  ['back', 'some periods back'],
  ['figure', 'another figure'],
  ['member', 'a member of the category'],
];
const GRAINS = ['year', 'half', 'quarter', 'month', 'week', 'day'];
const same = (names: string[]): [string, string][] => names.map((name) => [name, name]);
const wayOf = (base: CompareFigure['with']) =>
  typeof base === 'string' ? base : (Object.keys(base)[0] ?? '');

/** What a comparison is with, and number format. */
export function Compared({
  figure,
  others,
  change,
}: {
  figure: CompareFigure;
  others: string[];
  change: Change;
}) {
  const base = figure.with;
  const set = (next: unknown) => change({ ...figure, with: next } as Figure);
  const begin = (way: string) =>
    set(
      way === 'back'
        ? { back: 1, grain: 'year' }
        : way === 'figure'
          ? { figure: others[0] ?? '' }
          : way === 'member'
            ? { member: '' }
            : way,
    );
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
      <Choose label="Compared with" value={wayOf(base)} options={WITH} change={begin} />
      {typeof base !== 'string' && 'back' in base && (
        <>
          <Written
            label="How many back"
            type="number"
            value={String(base.back)}
            change={(n) => set({ ...base, back: Math.max(1, Number(n) || 1) })}
          />
          <Choose
            label="Of the period"
            value={base.grain}
            options={same(GRAINS)}
            change={(grain) => set({ ...base, grain })}
          />
        </>
      )}
      {typeof base !== 'string' && 'figure' in base && (
        <Choose
          label="The figure"
          value={base.figure}
          options={same(others)}
          change={(name) => set({ figure: name })}
        />
      )}
      {typeof base !== 'string' && 'member' in base && (
        <Written label="The member, as labelled" value={base.member} change={(member) => set({ member })} />
      )}
      {(typeof base === 'string' || 'back' in base) && (
        <Choose
          label="A part period"
          value={figure.to_date === false ? 'whole' : 'part'}
          options={[
            ['part', 'is compared with the same part'],
            ['whole', 'is compared with the whole'],
          ]}
          change={(v) => change({ ...figure, to_date: v === 'part' })}
        />
      )}
    </>
  );
}

/** The last few periods of a figure. */
export function MovingFields({
  figure,
  others,
  change,
}: {
  figure: MovingFigure;
  others: string[];
  change: Change;
}) {
  return (
    <>
      <Choose
        label="Moving"
        value={figure.take ?? 'mean'}
        options={same(['mean', 'sum'])}
        change={(take) => change({ ...figure, take } as Figure)}
      />
      <Choose
        label="Of the figure"
        value={figure.moving}
        options={same(others)}
        change={(moving) => change({ ...figure, moving })}
      />
      <Written
        label="Over how many periods"
        type="number"
        value={String(figure.periods)}
        change={(n) => change({ ...figure, periods: Math.max(1, Number(n) || 1) })}
      />
    </>
  );
}

/** What some takes need besides their column, and a condition of the figure's own. */
export function TakeDetails({
  figure,
  columns,
  change,
}: {
  figure: Taken;
  columns: ColumnView[];
  change: Change;
}) {
  const dates = columns.filter((c) => c.role === 'period').map((c) => c.name);
  const numbers = columns.filter((c) => c.role === 'number').map((c) => c.name);
  const dated = ['first', 'last', 'balance'].includes(figure.take);
  return (
    <>
      {figure.take === 'percentile' && (
        <Written
          label="Which percentile"
          type="number"
          value={String(figure.p ?? '')}
          change={(p) => change({ ...figure, p: Number(p) })}
        />
      )}
      {figure.take.startsWith('nth') && (
        <Written
          label="Which place"
          type="number"
          value={String(figure.n ?? '')}
          change={(n) => change({ ...figure, n: Number(n) })}
        />
      )}
      {figure.take === 'weighted_mean' && (
        <Choose
          label="Weighted by"
          value={figure.weight ?? ''}
          options={same(numbers)}
          change={(weight) => change({ ...figure, weight })}
        />
      )}
      {dated && (
        <Choose
          label="By the date"
          value={figure.by ?? ''}
          options={same(dates)}
          change={(by) => change({ ...figure, by })}
        />
      )}
      {figure.take === 'balance' && (
        <Choose
          label="The last of each"
          value={figure.keys?.[0] ?? ''}
          options={same(columns.filter((c) => c.role === 'category').map((c) => c.name))}
          change={(key) => change({ ...figure, keys: [key] })}
        />
      )}
      <Written
        label="Only for this figure"
        value={figure.where ?? ''}
        help="an SQL condition, as fare_type <> 'staff'"
        clear
        change={(where) => change({ ...figure, where: where || null })}
      />
    </>
  );
}

/** The initial settings of a take, so that it can be computed at once. */
export function withNeeds(figure: Taken, columns: ColumnView[]): Taken {
  const date = columns.find((c) => c.role === 'period')?.name;
  const number = columns.find((c) => c.role === 'number')?.name;
  const next = { ...figure };
  if (next.take === 'percentile') next.p ??= 90;
  if (next.take.startsWith('nth')) next.n ??= 2;
  if (next.take === 'weighted_mean') next.weight ??= number ?? null;
  if (['first', 'last', 'balance'].includes(next.take)) next.by ??= date ?? null;
  return next;
}
