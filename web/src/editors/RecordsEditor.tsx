import './editors.css';

import { Checkbox } from '@mui/material';

import type { ColumnView, Report } from '../api/client';
import { Choose } from '../parts/Field';

/** Which columns of the records are listed under the lowest level, and in which order. */
export function RecordsEditor({
  report,
  columns,
  change,
}: {
  report: Report;
  columns: ColumnView[];
  change: (report: Report) => void;
}) {
  const records = report.records ?? {};
  const listed = records.columns ?? [];
  const toggle = (name: string) => {
    const next = listed.includes(name) ? listed.filter((n) => n !== name) : [...listed, name];
    change({ ...report, records: { ...records, columns: next } });
  };
  return (
    <>
      <p className="say">Columns of the records, in the order chosen; all where none is.</p>
      <div className="choices" role="group" aria-label="Columns listed">
        {columns.map(({ name }) => (
          <label key={name}>
            <Checkbox
              size="small"
              sx={{ p: 0.25 }}
              checked={listed.includes(name)}
              onChange={() => toggle(name)}
            />
            {name}
            <span className="num">{listed.includes(name) ? listed.indexOf(name) + 1 : ''}</span>
          </label>
        ))}
      </div>
      <Choose
        label="Ordered by"
        value={records.order?.[0] ?? ''}
        options={[['', 'as they came'], ...columns.map((c): [string, string] => [c.name, c.name])]}
        change={(name) => change({ ...report, records: { ...records, order: name ? [name] : [] } })}
      />
    </>
  );
}
