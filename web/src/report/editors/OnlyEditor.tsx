import { Button, Checkbox, TextField } from '@mui/material';
import { useState } from 'react';

import type { ColumnView } from '../../api/client';
import { useValues } from '../../api/queries';
import { Choose, Written } from '../../parts/Field';
import { count } from '../../parts/words';
import { readChoice, writeChoice, type Choice } from '../brief/brief';

/** A condition on records: values picked from a list, or a formula. */
export function OnlyEditor({
  condition,
  source,
  columns,
  change,
  close,
}: {
  condition: string;
  source: number | undefined;
  columns: ColumnView[];
  change: (condition: string) => void;
  close: () => void;
}) {
  const choice = readChoice(condition);
  const [asFormula, setAsFormula] = useState(choice === null);
  if (asFormula || choice === null) {
    return (
      <>
        <Written
          label="Only where"
          multiline
          value={condition}
          change={change}
          help="an SQL condition, as gross > 100 AND status = 'sailed'"
        />
        {choice && <Button onClick={() => setAsFormula(false)}>Pick from a list</Button>}
      </>
    );
  }
  return (
    <>
      <Picked choice={choice} source={source} columns={columns} change={change} close={close} />
      <Button onClick={() => setAsFormula(true)} sx={{ justifySelf: 'start', ml: -0.75 }}>
        Write it as a formula
      </Button>
    </>
  );
}

function Picked({
  choice,
  source,
  columns,
  change,
  close,
}: {
  choice: Choice;
  source: number | undefined;
  columns: ColumnView[];
  change: (condition: string) => void;
  close: () => void;
}) {
  const [draft, setDraft] = useState(choice);
  const [search, setSearch] = useState('');
  const found = useValues(source, draft.column);
  const values = (found.data ?? []).filter((v) =>
    (v.value ?? '(blank)').toLowerCase().includes(search.toLowerCase()),
  );
  const names: [string, string][] = columns
    .filter((c) => c.kind === 'text' || c.kind === 'yes_no')
    .map((c) => [c.name, c.name]);
  if (!names.some(([n]) => n === draft.column)) names.push([draft.column, draft.column]);
  const isOn = (value: string | null) => (value === null ? draft.blank : draft.values.includes(value));
  const toggle = (value: string | null) =>
    setDraft(
      value === null
        ? { ...draft, blank: !draft.blank }
        : {
            ...draft,
            values: isOn(value) ? draft.values.filter((v) => v !== value) : [...draft.values, value],
          },
    );
  const ready = draft.values.length > 0 || draft.blank;
  return (
    <>
      <Choose
        label="Only where"
        value={draft.column}
        options={names}
        change={(column) => setDraft({ column, negated: false, values: [], blank: false })}
      />
      <Choose
        label="Its value"
        value={draft.negated ? 'not' : 'is'}
        options={[
          ['is', 'is one of'],
          ['not', 'is none of'],
        ]}
        change={(v) => setDraft({ ...draft, negated: v === 'not' })}
      />
      <TextField
        fullWidth
        placeholder="Search values"
        value={search}
        onChange={(e) => setSearch(e.target.value)}
      />
      <div className="choices" role="group" aria-label="Values">
        {values.map((v) => (
          <label key={v.value ?? ' blank'}>
            <Checkbox
              size="small"
              sx={{ p: 0.25 }}
              checked={isOn(v.value ?? null)}
              onChange={() => toggle(v.value ?? null)}
            />
            {v.value ?? <i className="quiet">(blank)</i>}
            <span className="num">{count(v.records)}</span>
          </label>
        ))}
      </div>
      <Button
        variant="contained"
        disabled={!ready}
        onClick={() => {
          change(writeChoice(draft));
          close();
        }}
      >
        Use this
      </Button>
    </>
  );
}
