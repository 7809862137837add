import './editors.css';

import { useQuery } from '@tanstack/react-query';
import { Button, IconButton } from '@mui/material';
import { useState } from 'react';

import { post, type Clause, type Clauses, type ColumnView, type Report } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose } from '../parts/Field';
import { useLabels } from '../definition/sentence';
import { ClauseFields } from './ClauseFields';
import { isWhole, kindOf } from './clauses';
import { Tried } from './Tried';

interface Props {
  condition: string;
  /** The column of a new condition. */
  begin?: string | undefined;
  label?: string;
  source: number | undefined;
  columns: ColumnView[];
  /** The report with the condition applied. */
  made: (condition: string) => Report;
  set: (report: Report) => void;
  close: () => void;
}

/** A condition on records: columns, what they are to be, and how several go together; or a formula. A new one is empty
 * until it says something. */
export function OnlyEditor(props: Props) {
  const { condition, begin, columns } = props;
  const tests = useLabels();
  const read = useQuery({
    queryKey: ['clauses', condition],
    queryFn: () => post('/sentence/clauses', { sql: condition }) as Promise<Clauses | null>,
    enabled: condition !== '',
    retry: false,
  });
  if (!tests || (condition !== '' && read.isPending)) return null;
  const first = (column: string) => started(columns, column, tests);
  const empty = { any: false, clauses: [first(begin ?? columns[0]?.name ?? '')] };
  return <Draft {...props} read={condition ? (read.data ?? null) : empty} first={first} />;
}

/** An empty clause on a column. */
function started(
  columns: ColumnView[],
  column: string,
  tests: Record<string, Record<string, string>>,
): Clause {
  const kind = kindOf(columns, column);
  return { column, test: Object.keys(tests[kind] ?? {})[0] ?? 'among', values: [], kind };
}

interface DraftProps extends Props {
  /** The condition as clauses; null if a form cannot show it. */
  read: Clauses | null;
  first: (column: string) => Clause;
}

function Draft({
  condition,
  label = 'Only where',
  source,
  columns,
  made,
  set,
  close,
  read,
  first,
}: DraftProps) {
  const [asFormula, setAsFormula] = useState(read === null);
  const [draft, setDraft] = useState<Clauses>(
    read ?? { any: false, clauses: [first(columns[0]?.name ?? '')] },
  );
  const [fault, setFault] = useState<unknown>(null);
  if (asFormula)
    return (
      <>
        <Tried
          label={label}
          value={condition}
          made={made}
          change={set}
          help={
            label === 'Only where'
              ? "an SQL condition, as gross > 100 AND status = 'sailed'"
              : 'a condition over figures, as "Net fare" > 1000'
          }
        />
        {read !== null && (
          <Button onClick={() => setAsFormula(false)} sx={{ justifySelf: 'start', ml: -0.75 }}>
            Choose instead
          </Button>
        )}
      </>
    );
  const put = (index: number, clause: Clause) =>
    setDraft({ ...draft, clauses: draft.clauses.map((c, i) => (i === index ? clause : c)) });
  const apply = async () => {
    const clauses = draft.clauses.map((clause) => ({ ...clause, kind: kindOf(columns, clause.column) }));
    try {
      const { sql } = await post('/sentence/condition', { ...draft, clauses });
      set(made(sql));
      close();
    } catch (error) {
      setFault(error);
    }
  };
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
            change={(next) => put(i, next.column === clause.column ? next : first(next.column))}
          />
          {draft.clauses.length > 1 && (
            <IconButton
              size="small"
              aria-label="Remove this part"
              onClick={() => setDraft({ ...draft, clauses: draft.clauses.filter((_, k) => k !== i) })}
            >
              ×
            </IconButton>
          )}
        </div>
      ))}
      <FaultNote error={fault as Error | null} />
      <div className="foot plain">
        <Button
          onClick={() =>
            setDraft({
              ...draft,
              clauses: [...draft.clauses, first(draft.clauses[0]?.column ?? columns[0]?.name ?? '')],
            })
          }
        >
          Add another
        </Button>
        <Button onClick={() => setAsFormula(true)}>Write a formula</Button>
        <span style={{ flex: 1 }} />
        <Button variant="contained" disabled={!draft.clauses.every(isWhole)} onClick={() => void apply()}>
          Apply
        </Button>
      </div>
    </>
  );
}
