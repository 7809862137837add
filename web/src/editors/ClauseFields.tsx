import './editors.css';

import { Checkbox, TextField } from '@mui/material';
import { useState } from 'react';

import type { Clause, ColumnView } from '../api/client';
import { useValues } from '../api/queries';
import { datesIn } from '../parts/dates';
import { Choose } from '../parts/Field';
import { count } from '../parts/words';
import { useLabels } from '../definition/sentence';
import { isList, kindOf, needs } from './clauses';
import { fromField, inField } from '../parts/notation';

const UNITS: [string, string][] = [
  ['day', 'days'],
  ['month', 'months'],
  ['year', 'years'],
];

/** One part of a condition: a column, how it is compared, and with what. */
export function ClauseFields({
  label,
  clause,
  source,
  columns,
  change,
}: {
  label: string;
  clause: Clause;
  source: number | undefined;
  columns: ColumnView[];
  change: (clause: Clause) => void;
}) {
  const kind = kindOf(columns, clause.column);
  const names: [string, string][] = columns.map((c) => [c.name, c.name]);
  if (!names.some(([n]) => n === clause.column)) names.push([clause.column, clause.column]);
  const tests = Object.entries(useLabels()?.[kind] ?? {});
  const picked = isList(clause.test);
  const put = (at: number, value: string) => {
    const values = [...clause.values];
    values[at] = value;
    change({ ...clause, values });
  };
  return (
    <div className="clause-fields">
      <div className="pair">
        <Choose
          label={label}
          value={clause.column}
          options={names}
          change={(column) => change({ ...clause, column, values: [] })}
        />
        <Choose
          label="Compared"
          value={clause.test}
          options={tests}
          change={(test) =>
            change({
              ...clause,
              test,
              values: test === 'last' ? ['3', 'month'] : sameShape(clause.test, test) ? clause.values : [],
            })
          }
        />
      </div>
      {picked && <Picked clause={clause} source={source} change={change} />}
      {!picked && clause.test === 'last' && (
        <div className="pair">
          <TextField
            label="How many"
            value={clause.values[0] ?? ''}
            onChange={(event) => put(0, event.target.value.replaceAll(/\D/g, ''))}
          />
          <Choose label="Of" value={clause.values[1] ?? 'month'} options={UNITS} change={(u) => put(1, u)} />
        </div>
      )}
      {!picked && clause.test !== 'last' && needs(clause.test) > 0 && (
        <div className="pair">
          {Array.from({ length: needs(clause.test) }, (_, k) => (
            <Value
              key={k}
              label={needs(clause.test) === 2 ? (k === 0 ? 'From' : 'To, included') : 'Value'}
              kind={kind}
              value={clause.values[k] ?? ''}
              change={(value) => put(k, value)}
            />
          ))}
        </div>
      )}
    </div>
  );
}

const sameShape = (a: string, b: string) => needs(a) === needs(b) && isList(a) === isList(b);

function Value({
  label,
  kind,
  value,
  change,
}: {
  label: string;
  kind: string;
  value: string;
  change: (value: string) => void;
}) {
  const [text, setText] = useState(kind === 'number' ? inField(value) : value);
  const wrong = text !== '' && !isGood(kind, text);
  return (
    <TextField
      label={label}
      fullWidth
      value={text}
      placeholder={kind === 'date' ? '2026-12-31' : ''}
      error={wrong}
      helperText={
        wrong ? (kind === 'date' ? 'a date as 2026-12-31' : `a number, as ${inField('1250.50')}`) : undefined
      }
      slotProps={{ inputLabel: { shrink: true } }}
      onChange={(event) => {
        const next = event.target.value;
        setText(next);
        change(
          isGood(kind, next)
            ? kind === 'number'
              ? fromField(next)
              : kind === 'date'
                ? next.trim()
                : next
            : '',
        );
      }}
    />
  );
}

/** Whether a text is a value of the kind. */
function isGood(kind: string, text: string): boolean {
  if (kind === 'number') return /^-?\d+(\.\d+)?$/.test(fromField(text));
  if (kind === 'date') return datesIn(text)?.length === 1;
  return text !== '';
}

/** Values selected from the column's own, the most common first; blank is one of them. */
function Picked({
  clause,
  source,
  change,
}: {
  clause: Clause;
  source: number | undefined;
  change: (clause: Clause) => void;
}) {
  const [search, setSearch] = useState('');
  const found = useValues(source, clause.column);
  const values = (found.data ?? []).filter((v) =>
    (v.value ?? '(blank)').toLowerCase().includes(search.toLowerCase()),
  );
  const gone = clause.values.filter((v) => v !== '' && found.data && !found.data.some((f) => f.value === v));
  const isOn = (value: string | null | undefined) => clause.values.includes(value ?? '');
  const toggle = (value: string | null | undefined) =>
    change({
      ...clause,
      values: isOn(value)
        ? clause.values.filter((v) => v !== (value ?? ''))
        : [...clause.values, value ?? ''],
    });
  return (
    <>
      <TextField
        fullWidth
        placeholder="Search values"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        slotProps={{ htmlInput: { 'aria-label': 'Search values' } }}
      />
      <div className="choices" role="group" aria-label="Values">
        {gone.map((value) => (
          <label key={`gone ${value}`}>
            <Checkbox size="small" sx={{ p: 0.25 }} checked onChange={() => toggle(value)} />
            {value} <i className="quiet">no record now</i>
          </label>
        ))}
        {values.map((v) => (
          <label key={v.value ?? ' blank'}>
            <Checkbox
              size="small"
              sx={{ p: 0.25 }}
              checked={isOn(v.value)}
              onChange={() => toggle(v.value)}
            />
            {v.value ?? <i className="quiet">(blank)</i>}
            {v.records !== null && <span className="num">{count(v.records)}</span>}
          </label>
        ))}
      </div>
    </>
  );
}
