import './intake.css';
import '../parts/note.css';

import { Button } from '@mui/material';
import { useState } from 'react';

import type { ColumnReading, ReadColumn, WaitingView } from '../api/client';

export type ReadAgain = (columns: Record<string, ColumnReading>) => void;

/** Where both orders of day and month fit, the analyst is asked, with the first values read either way. */
export function Rival({ column, readAgain }: { column: ReadColumn; readAgain: ReadAgain }) {
  const { rival } = column;
  const now = column.reading.format ?? '';
  if (!rival) return null;
  const words = (format: string) => (format.startsWith('%d') ? 'day first' : 'month first');
  return (
    <div className="note" role="alert">
      <div>
        The dates in <b>{column.name}</b> fit both orders. They were read <b>{words(now)}</b>.
      </div>
      <table className="orders">
        <thead>
          <tr>
            <th>In the file</th>
            <th>{words(now)}</th>
            <th>{words(rival.format)}</th>
          </tr>
        </thead>
        <tbody>
          {rival.examples.map(([text, here, there]) => (
            <tr key={text}>
              <td>{text}</td>
              <td>
                <b>{here}</b>
              </td>
              <td className="quiet">{there}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div style={{ display: 'flex', gap: 8 }}>
        <Button
          variant="outlined"
          onClick={() => readAgain({ [column.name]: { type: column.reading.type, format: rival.format } })}
        >
          Read them {words(rival.format)}
        </Button>
        <Button onClick={() => readAgain({ [column.name]: { type: column.reading.type, format: now } })}>
          They are {words(now)}
        </Button>
      </div>
    </div>
  );
}

/** Where a mark in numbers may be the decimal one or one between thousands, the analyst is asked. */
export function OpenMark({ column, readAgain }: { column: ReadColumn; readAgain: ReadAgain }) {
  const { open_mark: text } = column;
  const isComma = text.includes(',');
  const mark = isComma ? 'comma' : 'point';
  const say = (decimal: boolean) =>
    readAgain({ [column.name]: { type: 'decimal', decimal_mark: decimal === isComma ? ',' : '.' } });
  return (
    <div className="note" role="alert">
      <div>
        The numbers in <b>{column.name}</b> can be read in two ways: <b>{text}</b> is{' '}
        {text.replaceAll(/[.,]/g, '')}, or with a decimal {mark} {text.replace(',', '.')}. They were read as{' '}
        <b>{isComma ? text.replaceAll(',', '') : text}</b>.
      </div>
      <div style={{ display: 'flex', gap: 8 }}>
        <Button variant="outlined" onClick={() => say(true)}>
          It is a decimal {mark}
        </Button>
        <Button onClick={() => say(false)}>It separates thousands</Button>
      </div>
    </div>
  );
}

/** Where a column holds currencies, the analyst is asked whether the amounts are in them. */
export function Currencies({
  waiting: { columns, currencies, first_records: samples },
  readAgain,
}: {
  waiting: WaitingView;
  readAgain: ReadAgain;
}) {
  const [isNone, setNone] = useState(false);
  if (!currencies || isNone) return null;
  const amounts = columns.filter(
    ({ kind, reading }) => ['decimal', 'approximate'].includes(kind) && !reading.percent,
  );
  const at = columns.findIndex((column) => column.name === currencies);
  const seen = [...new Set(samples.map((row) => row[at]).filter(Boolean))].slice(0, 3);
  const told = amounts.map(({ name, reading }) => [name, { ...reading, unit: { column: currencies } }]);
  return (
    <div className="note" role="alert">
      <div>
        <b>{currencies}</b> holds currencies, such as {seen.join(', ')}. Is each amount in{' '}
        <b>{amounts.map(({ name }) => name).join(', ')}</b> in the one beside it? Then no sum is shown over
        several of them.
      </div>
      <div style={{ display: 'flex', gap: 8 }}>
        <Button
          variant="outlined"
          onClick={() => readAgain(Object.fromEntries(told) as Record<string, ColumnReading>)}
        >
          Yes
        </Button>
        <Button onClick={() => setNone(true)}>No, all are in one</Button>
      </div>
    </div>
  );
}
