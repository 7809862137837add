import './sources.css';

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useParams } from 'react-router';

import { post, type IntakeView, type SourceView } from '../api/client';
import { useSource } from '../api/queries';
import { Masthead } from '../app/Masthead';
import { FaultNote } from '../parts/Fault';
import { count, counted, day, kindWords, span } from '../parts/words';
import { ChooseFile, dropping } from './ChooseFile';
import { RefusedDialog } from './RefusedDialog';
import { Spread } from './Spread';
import { useBringingIn } from './useBringingIn';
import { Waiting } from './Waiting';

/** A source: how each column was read, what is in it, and the files so far. */
export function SourceScreen() {
  const id = Number(useParams().id);
  const found = useSource(id);
  const [over, setOver] = useState(false);
  const way = useBringingIn(found.data?.name ?? '', () => undefined);
  const source = found.data;
  return (
    <>
      <Masthead>
        <ChooseFile take={way.look} busy={way.busy || !source} />
      </Masthead>
      {way.waiting ? (
        <Waiting way={way} waiting={way.waiting} />
      ) : (
        <main className={`source-page${over ? ' dropping' : ''}`} {...dropping(way.look, setOver)}>
          <section className="source-main">
            <h1 className="page-title">{source?.name ?? ' '}</h1>
            <p className="say">{source && about(source)}</p>
            <FaultNote error={way.error ?? found.error} />
            <div className="paper">{source && <ColumnTable source={source} />}</div>
          </section>
          <aside className="margin" aria-label="Files">
            <h2>Files so far</h2>
            {source?.intakes.map((intake) => (
              <FileLine key={intake.id} intake={intake} />
            ))}
          </aside>
        </main>
      )}
      {source && <LastFile source={source} />}
    </>
  );
}

const about = (source: SourceView) =>
  `${counted(source.records, 'record')} from ${counted(source.files, 'file')}${
    source.first_day ? `, ${span(source.first_day, source.last_day)}` : ''
  }. Every new file is read the same way.`;

function ColumnTable({ source }: { source: SourceView }) {
  return (
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
              <b>{column.name}</b>
            </td>
            <td className="quiet">{kindWords(column.kind, column.places)}</td>
            <td title={column.warning || undefined}>
              {column.summary}
              {column.warning && (
                <div style={{ color: 'var(--marigold-ink)', fontSize: 12 }}>{column.warning}</div>
              )}
            </td>
            <td className="num">{count(column.different)}</td>
            <td className="num">{count(column.blank)}</td>
            <td>
              <Spread bars={column.spread} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function FileLine({ intake }: { intake: IntakeView }) {
  const queries = useQueryClient();
  const [showing, setShowing] = useState(false);
  const step = useMutation({
    mutationFn: () => post(`/intakes/${intake.id}/${intake.undone ? 'redo' : 'undo'}`),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className={`file${intake.undone ? ' undone' : ''}`}>
      <b>{intake.file_name}</b>
      <div className="about">
        <span>
          {counted(intake.records, 'record')} · brought in {day(intake.brought_at)}
        </span>
        <button className="link" onClick={() => step.mutate()} disabled={step.isPending}>
          {intake.undone ? 'redo' : 'undo'}
        </button>
      </div>
      {intake.refused > 0 && (
        <button className="link" onClick={() => setShowing(true)}>
          see {counted(intake.refused, 'refused line')}
        </button>
      )}
      {showing && <RefusedDialog intake={intake} close={() => setShowing(false)} />}
      <FaultNote error={step.error} />
    </div>
  );
}

function LastFile({ source }: { source: SourceView }) {
  const last = source.intakes.find((intake) => !intake.undone);
  return (
    <footer className="tie">
      {last && (
        <>
          <span>
            Last file: <b>{count(last.records + last.refused)}</b> lines read
          </span>
          <span className="arrow">→</span>
          <span>
            <b>{count(last.records)}</b> records
          </span>
          <span className="arrow">+</span>
          <span>
            <b>{count(last.refused)}</b> refused {last.refused === 1 ? 'line' : 'lines'} kept aside
          </span>
        </>
      )}
      <span className="ok">{count(source.records)} records in all</span>
    </footer>
  );
}
