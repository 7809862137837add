import '../parts/conflict.css';

import { Button } from '@mui/material';

import type { Grouping } from '../api/client';
import type { Draft } from './useDraft';

/** A conflict: somebody else saved the grouping meanwhile; both versions can be viewed, and one is chosen. */
export function OtherSaved<G extends Grouping>({ draft }: { draft: Draft<G> }) {
  const { other } = draft;
  if (!other) return null;
  return (
    <div className="conflict" role="alertdialog" aria-label="Saved by somebody else">
      <p>
        Somebody else saved this grouping after you began to change it. Below is{' '}
        {other.looking ? 'theirs' : 'yours'}; nothing is saved until you choose.
      </p>
      <div className="conflict-choice">
        <Button variant="contained" color="secondary" onClick={other.keepMine}>
          Keep mine
        </Button>
        <Button onClick={other.takeTheirs}>Take theirs</Button>
        <Button onClick={() => other.look(!other.looking)}>
          {other.looking ? 'Show mine' : 'Show theirs'}
        </Button>
        <span className="quiet">
          If you keep yours, theirs stays in the history, and Undo brings it back.
        </span>
      </div>
    </div>
  );
}
