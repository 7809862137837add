import '../intake/intake.css';
import '../parts/margin.css';
import '../parts/note.css';
import './sources.css';
import '../parts/panes.css';

import { useEffect, useRef, useState } from 'react';
import { useLocation, useNavigate, useParams } from 'react-router';

import {
  type ColumnView,
  type MadeColumn,
  type MadeView,
  type SourceView,
  type WaitingView,
} from '../api/client';
import { useSource } from '../api/queries';
import { GhostButton, Masthead } from '../parts/Masthead';
import { noteSource } from '../parts/atHand';
import { FaultNote } from '../parts/Fault';
import { count, counted, kindWords, span } from '../parts/words';
import { AdjustDialog } from './AdjustDialog';
import { ChooseFile, dropping } from '../intake/ChooseFile';
import { ColumnDialog } from './ColumnDialog';
import { DropFolder } from './DropFolder';
import { Fed } from './Fed';
import { FileLine } from './FileLine';
import { ReadingNote } from '../intake/HowFar';
import { Linked } from './Linked';
import { JoinSettings } from './JoinSettings';
import { MadeDialog } from './MadeDialog';
import { RemoveSource, SourceName } from './SourceName';
import { Spread } from './Spread';
import { useBringingIn } from '../intake/useBringingIn';
import { NewReport } from '../start/NewReport';
import { Waiting } from '../intake/Waiting';

/** A source: how each column was read, what is in it, and the files so far. */
export function SourceScreen() {
  const id = Number(useParams().id);
  const found = useSource(id);
  const [over, setOver] = useState(false);
  const [making, setMaking] = useState<{ column: MadeColumn; isNew: boolean } | null>(null);
  const [adjusting, setAdjusting] = useState(false);
  const [reporting, setReporting] = useState(false);
  const way = useBringingIn(found.data?.name ?? '');
  const source = found.data;
  const takesFiles = source?.summary_of === null && !source.link;
  const name = source?.name;
  useEffect(() => {
    if (name) noteSource(name);
  }, [name]);
  const { hash } = useLocation();
  const go = useNavigate();
  const opened = useRef('');
  useEffect(() => {
    if (hash === opened.current) return;
    opened.current = hash;
    if (!hash) return;
    void go('.', { replace: true });
    way.lookAtDropped(id, decodeURIComponent(hash.slice(1)));
  });
  return (
    <>
      <Masthead title={source?.name ?? ''}>
        {source && <GhostButton onClick={() => setReporting(true)}>New report</GhostButton>}
        <GhostButton onClick={() => setMaking({ column: { name: '', formula: '' }, isNew: true })}>
          Add a column
        </GhostButton>
        <GhostButton
          onClick={() =>
            setMaking({
              column: { name: '', lookup: { source: '', match: {}, as_at: {}, take: '' } },
              isNew: true,
            })
          }
        >
          Look up from…
        </GhostButton>
        {takesFiles && <GhostButton onClick={() => setAdjusting(true)}>Adjust by hand</GhostButton>}
        {takesFiles && <ChooseFile take={way.look} busy={way.busy} />}
      </Masthead>
      {way.waiting ? (
        <Waiting way={way} waiting={way.waiting} />
      ) : (
        <main
          className={`source-page panes${over ? ' dropping' : ''}`}
          {...(takesFiles ? dropping(way.look, setOver) : {})}
        >
          <section className="source-main">
            {source ? <SourceName source={source} /> : <h1 className="page-title"> </h1>}
            <p className="say">{source && about(source)}</p>
            <FaultNote error={way.error ?? found.error} />
            <ReadingNote way={way} />
            <div className="paper">
              {source && (
                <ColumnTable source={source} open={(column) => setMaking({ column, isNew: false })} />
              )}
            </div>
          </section>
          <aside className="margin" aria-label="Files">
            {source?.link ? <Linked source={source} /> : <h2>Files so far</h2>}
            {source && !source.link && (
              <>
                {source.summary_of === null && <Fed source={source} look={way.ask} />}
                <Around source={source} look={(file, ifSure) => way.lookAtDropped(source.id, file, ifSure)} />
              </>
            )}
            {!source?.link &&
              source?.intakes.map((intake) => (
                <FileLine key={intake.id} intake={intake} mend={(file) => way.look(file, intake.id)} />
              ))}
            {source && <RemoveSource source={source} />}
          </aside>
        </main>
      )}
      {source &&
        (way.waiting ? <WaitingFoot waiting={way.waiting} source={source} /> : <LastFile source={source} />)}
      <NewReport open={reporting} close={() => setReporting(false)} />
      {source && adjusting && <AdjustDialog source={source} close={() => setAdjusting(false)} />}
      {source && making && (
        <MadeDialog source={source} made={making.column} isNew={making.isNew} close={() => setMaking(null)} />
      )}
    </>
  );
}

const about = (source: SourceView) =>
  `${counted(source.records, 'record')} from ${counted(source.files, 'file')}${adjusted(source)}${
    source.first_day ? `, ${span(source.first_day, source.last_day)}` : ''
  }. ${source.link ? 'Its files are read where they lie' : 'Every new file is read the same way'}.`;

/** How many lots were entered by hand, where any were. */
function adjusted(source: SourceView): string {
  const standing = source.intakes.filter((intake) => intake.origin === 'hand' && !intake.undone).length;
  return standing > 0 ? ` and ${counted(standing, 'adjustment')} by hand` : '';
}

/** What else is to be known of a source: whose summary it is, records that stand twice, where files can be dropped. */
function Around({ source, look }: { source: SourceView; look: (file: string, ifSure?: boolean) => void }) {
  if (source.summary_of !== null) {
    return (
      <>
        <p className="say">
          The sheet of the report {source.summary_of}, worked out again when what it is made from changes.
        </p>
        {source.stale && (
          <p className="warn">What stands here is from before: {source.stale}. Mend the report first.</p>
        )}
      </>
    );
  }
  return (
    <>
      {source.doubled > 0 && (
        <p className="heed">
          {counted(source.doubled, 'record stands', 'records stand')} in it more than once, every column the
          same.
        </p>
      )}
      {source.drop_folder && <DropFolder id={source.id} folder={source.drop_folder} look={look} />}
      <JoinSettings source={source} />
    </>
  );
}

function ColumnTable({ source, open }: { source: SourceView; open: (column: MadeColumn) => void }) {
  const [chosen, setChosen] = useState<ColumnView | null>(null);
  const made = new Map(source.made.map((m) => [m.column.name, m]));
  const broken = source.made.filter(
    (m) => m.problem && !source.columns.some((c) => c.name === m.column.name),
  );
  return (
    <>
      {chosen && <ColumnDialog source={source} column={chosen} close={() => setChosen(null)} />}
      <table className="columns">
        <thead>
          <tr>
            <th>Column</th>
            <th>Read as</th>
            <th>From – to</th>
            <th className="num">Different</th>
            <th className="num">Blank</th>
            <th>Spread</th>
          </tr>
        </thead>
        <tbody>
          {source.columns.map((column) => (
            <tr key={column.name}>
              <td>
                <i className={`mark ${column.role}`} />
                {made.has(column.name) ? (
                  <button
                    className="made-name"
                    onClick={() => open((made.get(column.name) as MadeView).column)}
                  >
                    <b>{column.name}</b>
                    <span className="made">
                      {'lookup' in (made.get(column.name) as MadeView).column ? 'look up' : 'made'}
                    </span>
                  </button>
                ) : (
                  <button
                    className="made-name"
                    disabled={source.summary_of !== null}
                    onClick={() => setChosen(column)}
                  >
                    <b>{column.name}</b>
                  </button>
                )}
              </td>
              <td className="quiet">{readAs(column, made.get(column.name))}</td>
              <td className="source-range">
                {column.summary}
                {(column.warning || made.get(column.name)?.note) && (
                  <div className="heed">{column.warning || made.get(column.name)?.note}</div>
                )}
              </td>
              <td className="num">
                {source.link && column.different === 0 && column.summary !== 'all blank'
                  ? '–'
                  : count(column.different)}
              </td>
              <td className="num">{source.link && made.has(column.name) ? '–' : count(column.blank)}</td>
              <td>
                <Spread bars={column.spread} />
              </td>
            </tr>
          ))}
          {broken.map((m) => (
            <tr key={m.column.name}>
              <td>
                <button className="made-name" onClick={() => open(m.column)}>
                  <b>{m.column.name}</b>
                  <span className="made">made</span>
                </button>
              </td>
              <td colSpan={5} className="neg">
                {m.problem}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** How a column was read, or what it is made of. */
function readAs(column: ColumnView, made: MadeView | undefined): string {
  const unit = column.unit && `, in ${column.unit}`;
  if (!made) return kindWords(column.kind, column.places) + unit;
  if ('formula' in made.column) return made.column.formula + unit;
  const { source, match, as_at } = made.column.lookup;
  const by = [...Object.keys(match ?? {}), ...Object.keys(as_at ?? {}).map((day) => `as at ${day}`)];
  return `from ${source}, by ${by.join(', ')}`;
}

/** What a waiting file holds, and what stands meanwhile. */
function WaitingFoot({ waiting, source }: { waiting: WaitingView; source: SourceView }) {
  const held = waiting.outcome.months.filter((month) => month.held).length;
  return (
    <footer className="tie">
      <LinesRead read={waiting.records + waiting.refused_count} records={waiting.records} />
      {held > 0 && (
        <span className="heed">
          {held} of {counted(waiting.outcome.months.length, 'month')} {held === 1 ? 'is' : 'are'} held
        </span>
      )}
      <span className="ok">
        {count(source.records)} records in {source.name}, unchanged so far
      </span>
    </footer>
  );
}

function LinesRead({ read, records }: { read: number; records: number }) {
  return (
    <>
      <span>
        <b>{count(read)}</b> lines read
      </span>
      <span className="arrow">→</span>
      <span>
        <b>{count(records)}</b> records
      </span>
      <span className="arrow">+</span>
      <span>
        <b>{count(read - records)}</b> refused {read - records === 1 ? 'line' : 'lines'} kept aside
      </span>
    </>
  );
}

function LastFile({ source }: { source: SourceView }) {
  const last = source.intakes.find((intake) => !intake.undone && intake.origin !== 'hand');
  return (
    <footer className="tie">
      {last && !source.link && (
        <>
          <span>Last file: </span>
          <LinesRead read={last.records + last.refused} records={last.records} />
        </>
      )}
      <span className="ok">{count(source.records)} records in all</span>
    </footer>
  );
}
