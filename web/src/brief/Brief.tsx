import './brief.css';
import '../editors/editors.css';

import { Popover } from '@mui/material';
import { memo, useEffect, useRef, useState } from 'react';

import type { ColumnView, Report, SheetView } from '../api/client';
import { useSource } from '../api/queries';
import { isElsewhere } from '../parts/keys';
import { putBefore, shifted, silenced, turned, without } from '../definition/change';
import { asColumns } from '../editors/KeepEditor';
import { OnlyEditor } from '../editors/OnlyEditor';
import { useLatest } from '../parts/useLatest';
import { AddPhrase } from './AddPhrase';
import { asksSheet, EditedPhrase, type Editing } from './EditedPhrase';
import type { Beginning } from './AddPhrase';
import { Say } from './Say';
import { phrasesOf, useSentence, useTypedSentence, type Phrase } from '../definition/sentence';
import { tip } from './tips';

const NONE: ColumnView[] = [];

/** The report as a sentence; each phrase opens a small editor at its place and can be dragged to another, and `/` adds
 * one. */
export const Brief = memo(function Brief({
  report,
  source,
  sheet,
  awaited,
  change,
  tried,
}: {
  report: Report;
  source: number | undefined;
  sheet: SheetView | undefined;
  /** Whether the sentence comes with an edit that is on its way. */
  awaited: boolean;
  change: (report: Report) => void;
  tried: (report: Report | null) => void;
}) {
  const [editing, setEditing] = useState<Editing | null>(null);
  const [typing, setTyping] = useState<'add' | 'all' | null>(null);
  const { worded, old } = useSentence(report, awaited);
  const typed = useTypedSentence(report, typing === 'all');
  const [begun, setBegun] = useState<Beginning | null>(null);
  const [addButton, setAddButton] = useState<HTMLButtonElement | null>(null);
  const columns = useSource(source).data?.columns ?? NONE;
  const dragged = useRef<Phrase | null>(null);

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const way = { '/': 'add', e: 'all' }[event.key] as 'add' | 'all' | undefined;
      if (!way || isElsewhere(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      setTyping(way);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);

  const close = () => setEditing(null);
  const after = (next: Report | null) => {
    close();
    if (next) change(next);
  };
  const closed = useLatest(close);
  const afterwards = useLatest(after);
  const keys = (event: React.KeyboardEvent, phrase: Phrase) => {
    if (old) return;
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const onAxis = phrase.kind === 'down' || phrase.kind === 'across';
    if (event.altKey && by) {
      event.preventDefault();
      change(shifted(report, phrase, by));
    } else if (event.key === 't' && onAxis) change(turned(report, phrase.kind as 'down', phrase.index));
    else if (event.key === 'x' && phrase.kind !== 'silenced') after(silenced(report, phrase));
    else if (event.key === 'Delete') after(without(report, phrase));
  };
  const done = (next: Report | null) => {
    setTyping(null);
    tried(null);
    if (next) change(next);
  };
  if (typing === 'add')
    return (
      <AddPhrase
        report={report}
        columns={columns}
        close={() => done(null)}
        begin={(what) => {
          done(null);
          setBegun(what);
        }}
        add={done}
        tried={tried}
      />
    );
  if (typing === 'all' && typed !== undefined)
    return (
      <Say
        source={report.source}
        report={report}
        begin={typed}
        take={done}
        tried={tried}
        close={() => done(null)}
      />
    );
  if (!worded) return <p className="brief" aria-label="Brief" aria-busy="true" />; // nothing that would move once it is here
  return (
    <p className="brief" aria-label="Brief" aria-busy={old}>
      {phrasesOf(worded).map((piece, i) =>
        typeof piece === 'string' ? (
          <span key={i} onDoubleClick={() => setTyping('all')}>
            {piece}
          </span>
        ) : (
          <button
            key={`${piece.kind} ${piece.index} ${i}`}
            className={`phrase ${piece.tone}${piece.kind === 'silenced' ? ' silenced' : ''}${editing?.phrase.kind === piece.kind && editing.phrase.index === piece.index ? ' open' : ''}`}
            title={tip(report, piece)}
            draggable
            onDragStart={() => (dragged.current = piece)}
            onDragOver={(event) => event.preventDefault()}
            onDrop={(event) => {
              event.preventDefault();
              if (dragged.current && !old) after(putBefore(report, dragged.current, piece));
              dragged.current = null;
            }}
            onKeyDown={(event) => keys(event, piece)}
            onClick={(event) => !old && setEditing({ phrase: piece, anchor: event.currentTarget })}
          >
            {piece.text}
          </button>
        ),
      )}
      <button ref={setAddButton} className="add-phrase" onClick={() => setTyping('add')} title="/">
        + add
      </button>
      <button className="add-phrase" onClick={() => setTyping('all')} title="E">
        edit as text
      </button>
      <EditedPhrase
        editing={editing}
        report={report}
        columns={columns}
        source={source}
        sheet={editing && asksSheet(editing.phrase) ? sheet : undefined}
        change={change}
        close={closed}
        after={afterwards}
      />
      <Popover
        open={begun !== null}
        anchorEl={addButton}
        onClose={() => setBegun(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      >
        {begun !== null && (
          <div className="editor">
            {'only' in begun ? (
              <OnlyEditor
                condition=""
                begin={begun.only}
                source={source}
                columns={columns}
                made={(only) => ({ ...report, only: [...(report.only ?? []), only] })}
                set={change}
                close={() => setBegun(null)}
              />
            ) : (
              <OnlyEditor
                condition=""
                label={`Keep lines of ${begun.keep} where`}
                source={undefined}
                columns={asColumns(report)}
                made={(where) => ({
                  ...report,
                  keep: [...(report.keep ?? []), { level: begun.keep, where }],
                })}
                set={change}
                close={() => setBegun(null)}
              />
            )}
          </div>
        )}
      </Popover>
    </p>
  );
});
