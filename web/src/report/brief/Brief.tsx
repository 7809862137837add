import { Popover } from '@mui/material';
import { useEffect, useState } from 'react';

import type { Report, SheetView } from '../../api/client';
import { useSource } from '../../api/queries';
import { isTyping } from '../../parts/keys';
import { AddPhrase } from './AddPhrase';
import { brief, entryWords, figureWords, takeWords, type Phrase } from './brief';
import { shifted, turned, without } from '../change';
import { PhraseEditor } from '../editors/PhraseEditor';

interface Editing {
  phrase: Phrase;
  anchor: HTMLElement;
}

/** The report as a sentence; each phrase opens a small editor at its place, and `/` adds one. */
export function Brief({
  report,
  source,
  sheet,
  change,
}: {
  report: Report;
  source: number | undefined;
  sheet: SheetView | undefined;
  change: (report: Report) => void;
}) {
  const [editing, setEditing] = useState<Editing | null>(null);
  const [adding, setAdding] = useState(false);
  const [addButton, setAddButton] = useState<HTMLButtonElement | null>(null);
  const columns = useSource(source).data?.columns ?? [];

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key !== '/' || isTyping(event)) return;
      event.preventDefault();
      setAdding(true);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);

  const close = () => setEditing(null);
  const after = (next: Report) => {
    close();
    change(next);
  };
  return (
    <p className="brief" aria-label="Brief">
      {brief(report).map((piece, i) =>
        typeof piece === 'string' ? (
          <span key={i}>{piece}</span>
        ) : (
          <button
            key={i}
            className={`phrase ${piece.tone}${editing?.phrase.kind === piece.kind && editing.phrase.index === piece.index ? ' open' : ''}`}
            title={tip(report, piece)}
            onClick={(event) => setEditing({ phrase: piece, anchor: event.currentTarget })}
          >
            {piece.text}
          </button>
        ),
      )}
      <button ref={setAddButton} className="add-phrase" onClick={() => setAdding(true)} title="/">
        + phrase
      </button>
      <Popover
        open={editing !== null}
        anchorEl={editing?.anchor}
        onClose={close}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      >
        {editing && (
          <PhraseEditor
            key={`${editing.phrase.kind}${editing.phrase.index}`}
            report={report}
            phrase={editing.phrase}
            columns={columns}
            source={source}
            sheet={sheet}
            change={change}
            close={close}
            remove={() => after(without(report, editing.phrase))}
            move={(by) => after(shifted(report, editing.phrase, by))}
            turn={() =>
              (editing.phrase.kind === 'down' || editing.phrase.kind === 'across') &&
              after(turned(report, editing.phrase.kind, editing.phrase.index))
            }
          />
        )}
      </Popover>
      <AddPhrase
        open={adding}
        anchor={addButton}
        report={report}
        sheet={sheet}
        columns={columns}
        close={() => setAdding(false)}
        add={(next) => {
          setAdding(false);
          change(next);
        }}
      />
    </p>
  );
}

function tip(report: Report, phrase: Phrase): string {
  if (phrase.kind === 'figure') {
    const figure = report.figures[phrase.index];
    if (!figure) return '';
    const words = takeWords(figure);
    return figureWords(figure) === figure.name ? words : `${figure.name}: ${words}`;
  }
  if (phrase.kind === 'only') return report.only?.[phrase.index] ?? '';
  if (phrase.kind === 'window') return 'which periods the sheet shows';
  if (phrase.kind === 'totals') return 'where totals stand';
  if (phrase.kind === 'keep') return report.keep?.[phrase.index]?.where ?? '';
  if (phrase.kind === 'beside') return 'a second source on the same lines and columns';
  const entry = report[phrase.kind]?.[phrase.index];
  return entry ? `${phrase.kind} by ${entryWords(entry)}` : '';
}
