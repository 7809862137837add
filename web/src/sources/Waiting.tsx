import { Button, MenuItem, Select } from '@mui/material';

import type { ColumnReading, ReadColumn, WaitingView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose, Written } from '../parts/Field';
import { capital, count, counted, money, span } from '../parts/words';
import { cameFrom, Changed, FromNowOn } from './Changed';
import { FootTotals } from './FootTotals';
import { HowFar } from './HowFar';
import { Joining, Strip } from './Joining';
import { readingOf, READINGS } from './readings';
import type { BringingIn } from './useBringingIn';

type ReadAgain = (columns: Record<string, ColumnReading>) => void;

/** A file that was read and waits: its columns and first records, to be kept, read otherwise, or left. */
export function Waiting({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  const readAgain: ReadAgain = (columns) => way.readAgain({ columns });
  return (
    <main className="waiting">
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
            {waiting.outcome.months.length > 0 && <Strip months={waiting.outcome.months} />}
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
            {waiting.outcome.months.length > 0 && <Strip months={waiting.outcome.months} />}
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
        {waiting.refused.length > 0 && <RefusedList waiting={waiting} />}
      </aside>
    </main>
  );
}

function Keeping({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  const { outcome } = waiting;
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
        <div className="heed">{counted(outcome.doubled, 'record')} stand in it more than once.</div>
      )}
      {waiting.is_new ? (
        <>
          {waiting.fits.map((name) => (
            <div key={name} className="fits">
              It has the columns of <b>{name}</b>.{' '}
              <Button variant="outlined" size="small" onClick={() => way.readAgain({ source: name })}>
                Add it to {name}
              </Button>
            </div>
          ))}
          <div>Makes a new source.</div>
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
            variant="contained"
            color="secondary"
            disabled={way.busy || (waiting.records === 0 && waiting.is_new) || outcome.problem !== ''}
            onClick={way.keep}
          >
            {waiting.already
              ? 'Import it again'
              : outcome.held.length > 0
                ? 'Import it all the same'
                : 'Import'}
          </Button>
          <Button onClick={way.leave}>{waiting.dropped ? 'Leave it waiting' : 'Cancel'}</Button>
        </div>
      )}
    </div>
  );
}

const DELIMITERS: [string, string][] = [
  [',', 'commas'],
  [';', 'semicolons'],
  ['\t', 'tabs'],
  ['|', 'bars'],
];
const ENCODINGS: [string, string][] = [
  ['utf-8', 'UTF-8'],
  ['utf-8-sig', 'UTF-8 with BOM'],
  ['utf-16', 'UTF-16'],
  ['utf-32', 'UTF-32'],
  ['utf-8 and windows-1252', 'UTF-8 and Windows-1252, line by line'],
  ['cp1252', 'Windows-1252 (Western)'],
  ['cp1250', 'Windows-1250 (Central European)'],
  ['cp1254', 'Windows-1254 (Turkish)'],
  ['cp1257', 'Windows-1257 (Baltic)'],
  ['mac_roman', 'Mac Roman'],
  ['cp850', 'Code page 850'],
  ['cp1251', 'Windows-1251 (Cyrillic)'],
  ['koi8_r', 'KOI8-R (Cyrillic)'],
  ['cp1253', 'Windows-1253 (Greek)'],
  ['cp1255', 'Windows-1255 (Hebrew)'],
  ['cp1256', 'Windows-1256 (Arabic)'],
  ['cp874', 'Windows-874 (Thai)'],
  ['cp932', 'Shift JIS (Japanese)'],
  ['euc_jp', 'EUC-JP (Japanese)'],
  ['gb18030', 'GB 18030 (Chinese)'],
  ['big5', 'Big5 (Chinese)'],
  ['cp949', 'Windows-949 (Korean)'],
];

/** How a delimited file is laid out, as it was found; each finding can be overruled. */
function LaidOut({ way, layout }: { way: BringingIn; layout: NonNullable<WaitingView['layout']> }) {
  return (
    <details className="note">
      <summary>
        Separated by {DELIMITERS.find(([d]) => d === layout.delimiter)?.[1] ?? layout.delimiter}, headings on
        line {layout.heading_line}
      </summary>
      <Choose
        label="Separator"
        value={layout.delimiter}
        options={DELIMITERS}
        change={(delimiter) => way.readAgain({ delimiter })}
      />
      <Choose
        label="Encoding"
        value={layout.encoding}
        options={ENCODINGS}
        change={(encoding) => way.readAgain({ encoding })}
      />
      <Written
        label="Headings on line"
        type="number"
        value={String(layout.heading_line)}
        change={(n) => way.readAgain({ heading_line: Math.max(1, Number(n) || 1) })}
      />
    </details>
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

/** Where both orders of day and month fit, the analyst is asked, with the first values read either way. */
function Rival({ column, readAgain }: { column: ReadColumn; readAgain: ReadAgain }) {
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

/** Whether what a column is read as is asked about among those that changed. */
const asksOf = ({ changes }: WaitingView, name: string) =>
  changes?.columns.some((one) => one.name === name && one.other) ?? false;

/** Where a mark in numbers may be the decimal one or one between thousands, the analyst is asked. */
function OpenMark({ column, readAgain }: { column: ReadColumn; readAgain: ReadAgain }) {
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
        <Button onClick={() => say(false)}>It parts thousands</Button>
      </div>
    </div>
  );
}

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
