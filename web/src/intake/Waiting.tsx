import './changed.css';
import './intake.css';
import '../parts/margin.css';
import '../parts/note.css';
import '../parts/panes.css';

import { Button, MenuItem, Select } from '@mui/material';

import type { ReadColumn, WaitingView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose, Written } from '../parts/Field';
import { capital, count, counted, money, span } from '../parts/words';
import { cameFrom, Changed, FromNowOn } from './Changed';
import { Currencies, OpenMark, Rival, type ReadAgain } from './Doubts';
import { FootTotals } from './FootTotals';
import { HowFar } from './HowFar';
import { Joining, Strip } from './Joining';
import { LaidOut } from './LaidOut';
import { readingOf, READINGS } from './readings';
import type { BringingIn } from './useBringingIn';

/** A file that was read and waits: its columns and first records, to be kept, read otherwise, or left. */
export function Waiting({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  const readAgain: ReadAgain = (columns) => way.readAgain({ columns });
  return (
    <main className="waiting panes">
      <section className="source-main">
        <h1 className="page-title">
          {waiting.file_name}
          {waiting.changes && ' is not like the files before'}
        </h1>
        <p className="say">
          {waiting.mends ? 'Corrected lines of a file that is here. ' : ''}
          {waiting.changes
            ? `${cameFrom(waiting)} Nothing is kept yet.`
            : 'Nothing is kept yet. Look over how each column was read.'}
        </p>
        <FaultNote
          error={way.error ?? (waiting.outcome.problem ? new Error(waiting.outcome.problem) : null)}
        />
        {waiting.changes ? (
          <div className="differing">
            <Changed way={way} waiting={waiting} changes={waiting.changes} />
            {waiting.outcome.months.length > 0 && <Strip waiting={waiting} />}
            <details className="paper">
              <summary>How each column is read</summary>
              <Columns columns={waiting.columns} samples={waiting.first_records} readAgain={readAgain} />
            </details>
          </div>
        ) : (
          <>
            <div className="paper">
              <Columns columns={waiting.columns} samples={waiting.first_records} readAgain={readAgain} />
            </div>
            {waiting.outcome.months.length > 0 && <Strip waiting={waiting} />}
          </>
        )}
      </section>
      <aside className="margin" aria-label="Import">
        <h2>Import</h2>
        <Keeping way={way} waiting={waiting} />
        {waiting.changes && <FromNowOn waiting={waiting} changes={waiting.changes} />}
        <FootTotals way={way} waiting={waiting} />
        {waiting.layout && <LaidOut way={way} layout={waiting.layout} />}
        {waiting.sheets.length > 0 && <SheetChoice way={way} waiting={waiting} />}
        {waiting.columns
          .filter((c) => c.rival)
          .map((c) => (
            <Rival key={c.name} column={c} readAgain={readAgain} />
          ))}
        {waiting.columns
          .filter((c) => c.open_mark && !asksOf(waiting, c.name))
          .map((c) => (
            <OpenMark key={c.name} column={c} readAgain={readAgain} />
          ))}
        <Currencies waiting={waiting} readAgain={readAgain} />
        {waiting.refused.length > 0 && <RefusedList waiting={waiting} />}
      </aside>
    </main>
  );
}

const MAIN = { variant: 'contained', color: 'secondary' } as const;
const OTHER = { variant: 'outlined' } as const;

function Keeping({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  const { outcome } = waiting;
  const mostLikely = !waiting.is_new || waiting.fits.length === 0; // else it is one more file of a source that is there
  return (
    <div className="note">
      <div>
        <b>{counted(waiting.records, 'record')}</b>
        {waiting.first_day && <> for {span(waiting.first_day, waiting.last_day)}</>}.
        {outcome.sums.map(([name, sum]) => (
          <div key={name} className="quiet">
            {name} {money(sum ?? '')}
          </div>
        ))}
      </div>
      {waiting.notes.map((note) => (
        <div key={note} className="heed">
          {capital(note)}.
        </div>
      ))}
      {outcome.doubled > 0 && (
        <div className="heed">
          {counted(outcome.doubled, 'record stands', 'records stand')} in it more than once.
        </div>
      )}
      {waiting.is_new ? (
        <>
          {waiting.fits.map((name) => (
            <div key={name} className="fits">
              It has the columns of <b>{name}</b>.{' '}
              <Button
                variant="contained"
                color="secondary"
                size="small"
                disabled={way.busy}
                onClick={() => way.readAgain({ source: name })}
              >
                Add it to {name}
              </Button>
            </div>
          ))}
          <div>{waiting.fits.length > 0 ? 'Or make a new source of it.' : 'Makes a new source.'}</div>
          <Written
            label="Name of the source"
            value={waiting.source}
            change={(source) => way.readAgain({ source })}
          />
        </>
      ) : (
        waiting.mends === null && <Joining way={way} waiting={waiting} />
      )}
      {waiting.already && (
        <div className="heed">
          The same content is there already: {waiting.already}. Keeping it counts every record twice.
        </div>
      )}
      {way.job ? (
        <HowFar way={way} />
      ) : (
        <div style={{ display: 'flex', gap: 8 }}>
          <Button
            {...(mostLikely ? MAIN : OTHER)}
            disabled={way.busy || (waiting.records === 0 && waiting.is_new) || outcome.problem !== ''}
            onClick={way.keep}
          >
            {waiting.already
              ? 'Import it again'
              : outcome.held.length > 0
                ? 'Import it all the same'
                : mostLikely
                  ? 'Import'
                  : 'Import as a new source'}
          </Button>
          <Button onClick={way.leave}>{waiting.dropped ? 'Leave it waiting' : 'Cancel'}</Button>
        </div>
      )}
    </div>
  );
}

function SheetChoice({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  return (
    <div className="note">
      <Choose
        label="Sheet"
        value={waiting.sheets[0] ?? ''}
        options={[...waiting.sheets].sort().map((s) => [s, s])}
        change={(sheet) => way.readAgain({ sheet })}
      />
      <Written
        label="Area"
        value={waiting.area ?? ''}
        change={(area) => way.readAgain({ area })}
        help="as B3:H400; the whole sheet where left empty"
      />
    </div>
  );
}

function Columns({
  columns,
  samples,
  readAgain,
}: {
  columns: ReadColumn[];
  samples: string[][];
  readAgain: ReadAgain;
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
                value={column.reading.percent ? 'percent' : column.kind}
                inputProps={{ 'aria-label': `${column.name} read as` }}
                sx={{ fontSize: 13 }}
                onChange={(event) => readAgain({ [column.name]: readingOf(event.target.value) })}
              >
                {READINGS.map(([type, words]) => (
                  <MenuItem key={type} value={type} dense>
                    {words}
                  </MenuItem>
                ))}
              </Select>
              {column.reading.unit && <div className="quiet">in {column.reading.unit.column}</div>}
            </td>
            <td className="quiet">
              {samples
                .map((row) => row[i])
                .filter(Boolean)
                .slice(0, 5)
                .join(' · ') || 'blank in the first lines'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Whether what a column is read as is asked about among those that changed. */
const asksOf = ({ changes }: WaitingView, name: string) =>
  changes?.columns.some((one) => one.name === name && one.other) ?? false;

function RefusedList({ waiting }: { waiting: WaitingView }) {
  const more = waiting.refused_count - waiting.refused.length;
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
        {more > 0 && <li>and {count(more)} more</li>}
      </ul>
    </>
  );
}
