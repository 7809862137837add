import { Button, MenuItem, Select } from '@mui/material';

import type { ColumnReading, ReadColumn, WaitingView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Written } from '../parts/Field';
import { counted, span } from '../parts/words';
import type { BringingIn } from './useBringingIn';

const TYPES: [NonNullable<ColumnReading['type']>, string][] = [
  ['text', 'text'],
  ['whole', 'whole number'],
  ['decimal', 'number with places'],
  ['approximate', 'approximate number'],
  ['date', 'date'],
  ['datetime', 'date and time'],
  ['time', 'time of day'],
  ['yes_no', 'yes or no'],
];

/** A file that was read and waits: its columns and first records, to be kept, read otherwise, or left. */
export function Waiting({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  return (
    <main className="waiting">
      <section className="source-main">
        <h1 className="page-title">{waiting.file_name}</h1>
        <p className="say">Nothing is kept yet. Look over how each column was read.</p>
        <FaultNote error={way.error} />
        <div className="paper">
          <Columns
            columns={waiting.columns}
            samples={waiting.first_records}
            readAgain={(columns) => way.readAgain({ columns })}
          />
        </div>
      </section>
      <aside className="margin" aria-label="Bringing in">
        <h2>Bringing in</h2>
        <div className="note">
          <div>
            <b>{counted(waiting.records, 'record')}</b>
            {waiting.first_day && <> for {span(waiting.first_day, waiting.last_day)}</>}.
          </div>
          <div>{waiting.is_new ? 'Makes a new source.' : 'Adds to what is there.'}</div>
          {waiting.is_new && (
            <Written label="Source" value={waiting.source} change={(source) => way.readAgain({ source })} />
          )}
          {waiting.already && (
            <div style={{ color: 'var(--marigold-ink)' }}>
              The same content is there already: {waiting.already}. Keeping it counts every record twice.
            </div>
          )}
          <div style={{ display: 'flex', gap: 8 }}>
            <Button
              variant="contained"
              color="secondary"
              disabled={way.busy || waiting.records === 0}
              onClick={way.keep}
            >
              {waiting.already ? 'Keep it again' : 'Keep'}
            </Button>
            <Button onClick={way.leave}>Leave it</Button>
          </div>
        </div>
        {waiting.columns
          .filter((c) => c.rival)
          .map((c) => (
            <Rival key={c.name} column={c} readAgain={(columns) => way.readAgain({ columns })} />
          ))}
        {waiting.refused.length > 0 && <RefusedList waiting={waiting} />}
      </aside>
    </main>
  );
}

function Columns({
  columns,
  samples,
  readAgain,
}: {
  columns: ReadColumn[];
  samples: string[][];
  readAgain: (columns: Record<string, ColumnReading>) => void;
}) {
  return (
    <table className="columns sample">
      <thead>
        <tr>
          <th>Column</th>
          <th>Read as</th>
          <th>First values</th>
        </tr>
      </thead>
      <tbody>
        {columns.map((column, i) => (
          <tr key={column.name}>
            <td>
              <b>{column.name}</b>
            </td>
            <td>
              <Select
                variant="standard"
                value={column.kind}
                inputProps={{ 'aria-label': `${column.name} read as` }}
                sx={{ fontSize: 13 }}
                onChange={(event) =>
                  readAgain({ [column.name]: { type: event.target.value as ColumnReading['type'] } })
                }
              >
                {TYPES.map(([type, words]) => (
                  <MenuItem key={type} value={type} dense>
                    {words}
                  </MenuItem>
                ))}
              </Select>
            </td>
            <td className="quiet">
              {samples
                .map((row) => row[i])
                .filter(Boolean)
                .slice(0, 5)
                .join(' · ') || 'all blank'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Where both orders of day and month fit, the analyst is asked. */
function Rival({
  column,
  readAgain,
}: {
  column: ReadColumn;
  readAgain: (columns: Record<string, ColumnReading>) => void;
}) {
  const now = column.reading.format ?? '';
  const other = column.rival ?? '';
  const words = (format: string) => (format.startsWith('%d') ? 'day first' : 'month first');
  return (
    <div className="note" role="alert">
      <div>
        The dates in <b>{column.name}</b> fit both orders. They were read <b>{words(now)}</b>.
      </div>
      <Button
        variant="outlined"
        onClick={() => readAgain({ [column.name]: { type: column.reading.type, format: other } })}
      >
        Read them {words(other)}
      </Button>
    </div>
  );
}

function RefusedList({ waiting }: { waiting: WaitingView }) {
  return (
    <>
      <h2>Refused lines</h2>
      <p className="say">Kept aside with their reason; the rest comes in.</p>
      <ul className="refused">
        {waiting.refused.map((line) => (
          <li key={`${line.line}${line.column}`}>
            line {line.line}: {line.reason}
          </li>
        ))}
      </ul>
    </>
  );
}
