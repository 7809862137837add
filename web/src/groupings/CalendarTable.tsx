import './groupings.css';

import { Button, IconButton } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useRef } from 'react';

import { sendTable, type Calendar } from '../api/client';
import { datesIn } from '../parts/dates';
import { FaultNote } from '../parts/Fault';
import { counted, day } from '../parts/words';

type Table = NonNullable<Calendar['table']>;
type Period = Table['periods'][number];

/** The day after another, as 2026-01-01. */
const after = (date: string, by: number) =>
  new Date(Date.parse(date) + by * 86_400_000).toISOString().slice(0, 10);

/** Periods by table: first day, name, quarter and year of each, typed or read from a file. */
export function CalendarTable({ table, change }: { table: Table; change: (table: Table) => void }) {
  const file = useRef<HTMLInputElement>(null);
  const read = useMutation({ mutationFn: sendTable, onSuccess: change });
  const set = (at: number, next: Partial<Period>) =>
    change({ ...table, periods: table.periods.map((p, i) => (i === at ? { ...p, ...next } : p)) });
  const add = () => {
    const last = table.periods[table.periods.length - 1];
    if (!last) return;
    const start = after(table.ends, 1);
    change({ periods: [...table.periods, { ...last, start, name: 'New period' }], ends: after(start, 27) });
  };
  return (
    <>
      <p className="sentence">
        {counted(table.periods.length, 'period')} by table, the last one to{' '}
        <Cell label="Last day" value={table.ends} day change={(ends) => change({ ...table, ends })} />.
      </p>
      <FaultNote error={read.error} />
      <div className="table-rows">
        <table className="years" aria-label="Periods by table">
          <thead>
            <tr>
              <th>First day</th>
              <th>Period</th>
              <th>Quarter</th>
              <th>Year</th>
              <th>Last day</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {table.periods.map((p, i) => (
              <tr key={i}>
                <td>
                  <Cell
                    label={`First day of period ${i + 1}`}
                    value={p.start}
                    day
                    change={(start) => set(i, { start })}
                  />
                </td>
                <td>
                  <Cell
                    label={`Name of period ${i + 1}`}
                    value={p.name}
                    change={(name) => set(i, { name })}
                  />
                </td>
                <td>
                  <Cell
                    label={`Quarter of period ${i + 1}`}
                    value={p.quarter ?? ''}
                    empty
                    change={(quarter) => set(i, { quarter: quarter || null })}
                  />
                </td>
                <td>
                  <Cell
                    label={`Year of period ${i + 1}`}
                    value={p.year}
                    change={(year) => set(i, { year })}
                  />
                </td>
                <td className="quiet">
                  {day(after(table.periods[i + 1]?.start ?? after(table.ends, 1), -1))}
                </td>
                <td>
                  {table.periods.length > 1 && (
                    <IconButton
                      size="small"
                      aria-label={`Take out period ${i + 1}`}
                      onClick={() => change({ ...table, periods: table.periods.filter((_, k) => k !== i) })}
                    >
                      ×
                    </IconButton>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <input
        ref={file}
        hidden
        type="file"
        aria-label="Table file"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          e.target.value = '';
          if (chosen) read.mutate(chosen);
        }}
      />
      <Button onClick={add}>Add a period</Button>
      <Button onClick={() => file.current?.click()}>Read from a file</Button>
    </>
  );
}

/** A field that applies on blur; days are written as 2026-12-31, and invalid input is reverted. */
function Cell({
  label,
  value,
  change,
  empty = false,
  day: isDay = false,
}: {
  label: string;
  value: string;
  change: (text: string) => void;
  empty?: boolean;
  day?: boolean;
}) {
  return (
    <input
      key={value}
      aria-label={label}
      defaultValue={value}
      onBlur={(e) => {
        const text = e.target.value.trim();
        const good = isDay ? datesIn(text)?.length === 1 : text !== '' || empty;
        if (good && text !== value) change(text);
        if (!good) e.target.value = value;
      }}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}
