import './groupings.css';

import type { Calendar } from '../api/client';
import { capital, MONTHS_IN_FULL } from '../parts/words';

const DAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
type Change = (calendar: Calendar) => void;

function Pick({
  label,
  value,
  options,
  change,
}: {
  label: string;
  value: string;
  options: [string, string][];
  change: (v: string) => void;
}) {
  return (
    <select aria-label={label} value={value} onChange={(e) => change(e.target.value)}>
      {options.map(([v, text]) => (
        <option key={v} value={v}>
          {text}
        </option>
      ))}
    </select>
  );
}

const monthOptions = MONTHS_IN_FULL.map((m, i): [string, string] => [String(i + 1), m]);
const dayOptions = DAYS.map((d): [string, string] => [d, capital(d)]);

function Naming({ calendar, change }: { calendar: Calendar; change: Change }) {
  const naming = calendar.year_name ?? {};
  const set = (next: object) => change({ ...calendar, year_name: { ...naming, ...next } });
  return (
    <>
      are named{' '}
      <input
        aria-label="Prefix of years"
        value={naming.prefix ?? ''}
        size={Math.max(2, (naming.prefix ?? '').length)}
        onChange={(e) => set({ prefix: e.target.value })}
      />
      <Pick
        label="Digits of years"
        value={String(naming.digits ?? 4)}
        options={[
          ['2', '26'],
          ['4', '2026'],
        ]}
        change={(d) => set({ digits: Number(d) })}
      />{' '}
      after the year they{' '}
      <Pick
        label="Named by"
        value={naming.by ?? 'end'}
        options={[
          ['end', 'end'],
          ['start', 'start'],
        ]}
        change={(by) => set({ by })}
      />{' '}
      in
    </>
  );
}

/** Years of months, as a sentence. */
export function MonthSentence({ calendar, change }: { calendar: Calendar; change: Change }) {
  const months = calendar.months ?? {};
  const set = (next: object) => change({ ...calendar, months: { ...months, ...next } });
  const days = Array.from({ length: 28 }, (_, i): [string, string] => [String(i + 1), String(i + 1)]);
  return (
    <p className="sentence">
      Years start on{' '}
      <Pick
        label="Start day"
        value={String(months.start_day ?? 1)}
        options={days}
        change={(d) => set({ start_day: Number(d) })}
      />{' '}
      <Pick
        label="Start month"
        value={String(months.start_month ?? 1)}
        options={monthOptions}
        change={(m) => set({ start_month: Number(m) })}
      />
      , <Naming calendar={calendar} change={change} />, split into quarters of three months; weeks start on{' '}
      <Pick
        label="Week start"
        value={calendar.week_start ?? 'monday'}
        options={dayOptions}
        change={(w) => change({ ...calendar, week_start: w as Calendar['week_start'] })}
      />
      .
    </p>
  );
}

/** Years of 52 or 53 weeks, as a sentence. */
export function WeekSentence({ calendar, change }: { calendar: Calendar; change: Change }) {
  const weeks = calendar.weeks;
  if (!weeks) return null;
  const set = (next: object) => change({ ...calendar, weeks: { ...weeks, ...next } });
  const patterns: [string, string][] = ['4-4-5', '4-5-4', '5-4-4'].map((p) => [p, `${p} weeks a quarter`]);
  return (
    <p className="sentence">
      Years of 52 or 53 weeks in periods of{' '}
      <Pick
        label="Pattern"
        value={weeks.pattern ?? '4-4-5'}
        options={[...patterns, ['13x4', 'four weeks, thirteen of them']]}
        change={(pattern) => set({ pattern })}
      />{' '}
      end on the{' '}
      <Pick
        label="Ends"
        value={weeks.ends}
        options={[
          ['last', 'last'],
          ['nearest', 'nearest'],
        ]}
        change={(ends) => set({ ends })}
      />{' '}
      <Pick
        label="Weekday"
        value={weeks.weekday}
        options={dayOptions}
        change={(weekday) => set({ weekday })}
      />{' '}
      {weeks.ends === 'last' ? 'of' : 'to the end of'}{' '}
      <Pick
        label="Month"
        value={String(weeks.month)}
        options={monthOptions}
        change={(m) => set({ month: Number(m) })}
      />
      , <Naming calendar={calendar} change={change} />.
    </p>
  );
}
