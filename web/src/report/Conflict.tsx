import '../parts/conflict.css';

import { Button } from '@mui/material';

import type { Report, ReportView } from '../api/client';
import { phrasesOf, useSentence } from '../definition/sentence';

/** A conflict: somebody else changed the report meanwhile; both versions in words, and the choice between them. */
export function Conflict({
  mine,
  theirs,
  settle,
}: {
  mine: Report;
  theirs: ReportView;
  settle: (which: 'mine' | 'theirs') => void;
}) {
  return (
    <div className="conflict" role="alertdialog" aria-label="Changed by somebody else">
      <p>
        Somebody else changed this report after you opened it. Yours is not saved until you choose; the sheet
        below is theirs.
      </p>
      <Version name="Yours" report={mine} other={theirs.document} />
      <Version name="Theirs" report={theirs.document} other={mine} />
      <div className="conflict-choice">
        <Button variant="contained" color="secondary" onClick={() => settle('mine')}>
          Keep mine
        </Button>
        <Button onClick={() => settle('theirs')}>Take theirs</Button>
        <span className="quiet">
          If you keep yours, theirs stays in the history, and Undo brings it back.
        </span>
      </div>
    </div>
  );
}

/** A version in words, with the phrases that the other lacks highlighted. */
function Version({ name, report, other }: { name: string; report: Report; other: Report }) {
  const own = phrasesOf(useSentence(report).worded);
  const theirs = new Set(
    phrasesOf(useSentence(other).worded).map((piece) => (typeof piece === 'string' ? '' : piece.text)),
  );
  return (
    <div className="conflict-version">
      <b>{name}</b>
      <span>
        {report.title !== other.title && <mark>{report.title}: </mark>}
        {own.map((piece, i) =>
          typeof piece === 'string' ? (
            piece
          ) : theirs.has(piece.text) ? (
            <span key={`${piece.kind}${piece.index}${i}`}>{piece.text}</span>
          ) : (
            <mark key={`${piece.kind}${piece.index}${i}`}>{piece.text}</mark>
          ),
        )}
      </span>
    </div>
  );
}
