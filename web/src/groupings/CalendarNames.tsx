import './groupings.css';

import { Button } from '@mui/material';
import { useState } from 'react';

import type { Calendar, CalendarLook } from '../api/client';
import { datesIn } from '../parts/dates';
import { Written } from '../parts/Field';
import { counted, day, listed } from '../parts/words';

type Change = (calendar: Calendar) => void;
/** Custom names of quarters and periods, and holidays. */
export function CalendarNames({
  calendar,
  look,
  change,
}: {
  calendar: Calendar;
  look: CalendarLook | undefined;
  change: Change;
}) {
  const [open, setOpen] = useState(false);
  const holidays = calendar.holidays ?? [];
  return (
    <section className="names">
      <p className="say">
        {calendar.table ? '' : namesWords(calendar)}
        {holidays.length
          ? `${counted(holidays.length, 'holiday')} taken off the working days: ${listed(holidays.slice(0, 3).map(day))}${
              holidays.length > 3 ? ' and more' : ''
            }.`
          : 'No holidays: every Monday to Friday counts as a working day.'}{' '}
        <Button size="small" onClick={() => setOpen(!open)}>
          {open ? 'Close' : 'Change names and holidays'}
        </Button>
      </p>
      {open && !calendar.table && (
        <>
          <Names
            label="Quarter"
            names={calendar.quarter_names ?? null}
            plain={(look?.quarters ?? []).map((q) => q.name)}
            change={(quarter_names) => change({ ...calendar, quarter_names })}
          />
          <Names
            label="Period"
            names={calendar.period_names ?? null}
            plain={(look?.periods ?? []).map((p) => p.name)}
            change={(period_names) => change({ ...calendar, period_names })}
          />
        </>
      )}
      {open && <Holidays calendar={calendar} change={change} />}
    </section>
  );
}

const namesWords = ({ quarter_names: quarters, period_names: periods }: Calendar) =>
  [
    quarters && `Quarters are named ${listed(quarters)}. `,
    periods && `Periods are named ${listed(periods)}. `,
  ].join('');

function Names({
  label,
  names,
  plain,
  change,
}: {
  label: string;
  names: string[] | null;
  plain: string[];
  change: (names: string[] | null) => void;
}) {
  const now = plain.map((name, i) => names?.[i] ?? name);
  return (
    <div className="name-row" role="group" aria-label={`${label} names`}>
      {now.map((name, i) => (
        <Written
          key={i}
          label={`${label} ${i + 1}`}
          value={name}
          change={(text) => {
            const next = now.map((n, k) => (k === i ? text : n));
            change(next.join('\n') === plain.join('\n') ? null : next);
          }}
        />
      ))}
      {names && <Button onClick={() => change(null)}>As they come</Button>}
    </div>
  );
}

function Holidays({ calendar, change }: { calendar: Calendar; change: Change }) {
  const [fault, setFault] = useState('');
  return (
    <Written
      label="Holidays"
      multiline
      clear
      value={(calendar.holidays ?? []).join(', ')}
      help={fault || 'days as 2026-12-25, with commas or line ends between; a column of dates can be pasted'}
      change={(text) => {
        const holidays = datesIn(text);
        setFault(holidays ? '' : 'not all of these are days written as 2026-12-25; nothing was changed');
        if (holidays) change({ ...calendar, holidays });
      }}
    />
  );
}
