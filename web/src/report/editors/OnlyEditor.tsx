import { Button, IconButton } from '@mui/material';
import { useState } from 'react';

import type { ColumnView, Report } from '../../api/client';
import { Choose } from '../../parts/Field';
import { conditionSql, isWhole, OPS, readCondition, type Clause, type Condition } from '../brief/conditions';
import { ClauseFields } from './ClauseFields';
import { kindOf } from './kindOf';
import { Tried } from './Tried';

const started = (columns: ColumnView[], column: string): Clause => ({
  column,
  op: OPS[kindOf(columns, column)][0]?.[0] ?? 'among',
  values: [],
});

/** A condition on records: columns, what they are to be, and how several go together; or a formula. A new one is empty
 * until it says something. */
export function OnlyEditor({
  condition,
  begin,
  label = 'Only where',
  source,
  columns,
  made,
  set: use,
  close,
}: {
  condition: string;
  /** The column that a new condition is to be about. */
  begin?: string | undefined;
  label?: string;
  source: number | undefined;
  columns: ColumnView[];
  /** The report with the condition in its place. */
  made: (condition: string) => Report;
  set: (report: Report) => void;
  close: () => void;
}) {
  const read = condition ? readCondition(condition) : null;
  const [asFormula, setAsFormula] = useState(condition !== '' && read === null);
  const [draft, setDraft] = useState<Condition>(
    read ?? { any: false, clauses: [started(columns, begin ?? columns[0]?.name ?? '')] },
  );
  if (asFormula)
    return (
      <>
        <Tried
          label={label}
          value={condition}
          made={made}
          change={use}
          help={
            label === 'Only where'
              ? "an SQL condition, as gross > 100 AND status = 'sailed'"
              : 'a condition over figures, as "Net fare" > 1000'
          }
        />
        {(read !== null || condition === '') && (
          <Button onClick={() => setAsFormula(false)} sx={{ justifySelf: 'start', ml: -0.75 }}>
            Choose instead
          </Button>
        )}
      </>
    );
  const set = (index: number, clause: Clause) =>
    setDraft({ ...draft, clauses: draft.clauses.map((c, i) => (i === index ? clause : c)) });
  const without = (index: number) =>
    setDraft({ ...draft, clauses: draft.clauses.filter((_, i) => i !== index) });
  const ready = draft.clauses.length > 0 && draft.clauses.every(isWhole);
  return (
    <>
      {draft.clauses.length > 1 && (
        <Choose
          label="Records count where"
          value={draft.any ? 'any' : 'all'}
          options={[
            ['all', 'all of these hold'],
            ['any', 'any of these holds'],
          ]}
          change={(v) => setDraft({ ...draft, any: v === 'any' })}
        />
      )}
      {draft.clauses.map((clause, i) => (
        <div key={i} className="clause">
          <ClauseFields
            label={label}
            clause={clause}
            source={source}
            columns={columns}
            change={(next) => set(i, next.column === clause.column ? next : started(columns, next.column))}
          />
          {draft.clauses.length > 1 && (
            <IconButton size="small" aria-label="Remove this part" onClick={() => without(i)}>
              ×
            </IconButton>
          )}
        </div>
      ))}
      <div className="foot plain">
        <Button
          onClick={() =>
            setDraft({
              ...draft,
              clauses: [
                ...draft.clauses,
                started(columns, draft.clauses[0]?.column ?? columns[0]?.name ?? ''),
              ],
            })
          }
        >
          Add another
        </Button>
        <Button onClick={() => setAsFormula(true)}>Write a formula</Button>
        <span style={{ flex: 1 }} />
        <Button
          variant="contained"
          disabled={!ready}
          onClick={() => {
            use(made(conditionSql(draft, (name) => kindOf(columns, name))));
            close();
          }}
        >
          Apply
        </Button>
      </div>
    </>
  );
}
