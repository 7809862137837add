import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';

import { post, type Calendar, type CalendarLook, type GroupingView } from '../api/client';
import { Masthead } from '../app/Masthead';
import { FaultNote } from '../parts/Fault';
import { capital, count, counted, day, listed, span } from '../parts/words';
import { NewGrouping } from './NewGrouping';
import { ImpactNote, SaveButtons } from './SaveBar';
import { useDraft } from './useDraft';

const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];
const DAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
const SHADES = ['#0d5a6a', '#2c6f7d', '#437f8b', '#5a7f87'];
type Change = (calendar: Calendar) => void;

/** A calendar as a sentence, with the year laid out beside it and the years that the data touches. */
export function CalendarScreen({ view, side }: { view: GroupingView; side: ReactNode }) {
  const draft = useDraft<Calendar>(view);
  const look = useQuery({
    queryKey: ['look', 'calendar', JSON.stringify(draft.now)],
    queryFn: () => post<CalendarLook>('/look/calendar', draft.now),
    placeholderData: (before) => before,
    retry: false,
  });
  const found = look.data;
  return (
    <>
      <Masthead>
        <SaveButtons draft={draft} />
        {!draft.dirty && <NewGrouping />}
      </Masthead>
      <main className="groupings">
        {side}
        <section className="work cards">
          <FaultNote error={draft.error ?? look.error} />
          <div className="paper card" style={{ flex: 'none' }}>
            <h1 className="page-title">{draft.now.name}</h1>
            <p className="say">
              {view.used_by.length ? `Used by ${listed(view.used_by)}` : 'Used by no report yet'}
            </p>
            {draft.now.months && <MonthSentence calendar={draft.now} change={draft.change} />}
            {draft.now.weeks && <WeekSentence calendar={draft.now} change={draft.change} />}
            {draft.now.table && (
              <p className="sentence">
                Periods by table, {counted(draft.now.table.periods.length, 'period')} to{' '}
                {day(draft.now.table.ends)}.
              </p>
            )}
            {found && <Year look={found} />}
            {found && <Years look={found} />}
            <ImpactNote draft={draft} view={view} />
          </div>
        </section>
      </main>
      <footer className="tie">
        {found?.over && (
          <span>
            beside <b>{found.over.source}</b> · {found.over.column}
            <span className="arrow">→</span>
            <b>{count(found.years.reduce((sum, y) => sum + y.records, 0))}</b> records in{' '}
            {counted(found.years.length, 'year')}
          </span>
        )}
        <span className="ok">{draft.dirty ? 'not saved yet' : `saved · revision ${view.revision}`}</span>
      </footer>
    </>
  );
}

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

const monthOptions = MONTHS.map((m, i): [string, string] => [String(i + 1), m]);
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

function MonthSentence({ calendar, change }: { calendar: Calendar; change: Change }) {
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

function WeekSentence({ calendar, change }: { calendar: Calendar; change: Change }) {
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

function Year({ look }: { look: CalendarLook }) {
  const days = (first: string, last: string) => (Date.parse(last) - Date.parse(first)) / 86_400_000 + 1;
  const columns = (periods: CalendarLook['periods']) =>
    periods.map((p) => `${days(p.first, p.last)}fr`).join(' ');
  return (
    <>
      <div className="strip" style={{ gridTemplateColumns: columns(look.periods) }}>
        {look.periods.map((p, i) => (
          <div
            key={p.first}
            style={{ background: SHADES[p.quarter % 4] }}
            title={`${p.label}: ${span(p.first, p.last)}`}
          >
            <b>{p.name}</b>
            <small>
              P{i + 1} · {p.first.slice(0, 4)}
            </small>
          </div>
        ))}
      </div>
      <div className="strip quarters" style={{ gridTemplateColumns: columns(look.quarters), marginTop: 2 }}>
        {look.quarters.map((q) => (
          <div key={q.first}>
            <b>{q.name}</b> {span(q.first, q.last)}
          </div>
        ))}
      </div>
    </>
  );
}

function Years({ look }: { look: CalendarLook }) {
  return (
    <table className="years" aria-label="Years">
      <tbody>
        {look.years.map((year) => (
          <tr key={year.first}>
            <td>
              <b>{year.name}</b>
            </td>
            <td>{span(year.first, year.last)}</td>
            <td>
              {counted(year.days, 'day')}
              {year.days % 7 === 0 && `, ${counted(year.weeks, 'week')}`}
            </td>
            <td className="quiet">{counted(year.working_days, 'working day')}</td>
            <td className="quiet">{counted(year.records, 'record')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
