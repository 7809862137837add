import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useCallback, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';

import type { Grouping } from '../api/client';
import { useBackHeld } from './useBackHeld';
import type { Draft } from './useDraft';

/** The target of a click within the application; null if it does not leave the screen, or opens a new tab. */
function leads(event: MouseEvent): string | null {
  const link = (event.target as Element).closest<HTMLAnchorElement>('a[href]');
  if (!link || event.button !== 0 || event.ctrlKey || event.metaKey || event.shiftKey || link.target)
    return null;
  const to = new URL(link.href);
  const here = to.origin !== window.location.origin || to.pathname === window.location.pathname;
  return here || to.pathname.startsWith('/api/') ? null : to.pathname + to.search;
}

const BACK = Symbol('back');

/** Blocks leaving a grouping with unsaved changes: save, discard, or stay. */
export function HeldOnLeaving<G extends Grouping>({ draft }: { draft: Draft<G> }) {
  const go = useNavigate();
  const [to, setTo] = useState<string | typeof BACK | null>(null);
  const held = draft.dirty;
  useEffect(() => {
    if (!held) return;
    const click = (event: MouseEvent) => {
      const where = leads(event);
      if (where === null) return;
      event.preventDefault();
      event.stopPropagation();
      setTo(where);
    };
    const unload = (event: BeforeUnloadEvent) => event.preventDefault();
    document.addEventListener('click', click, true);
    window.addEventListener('beforeunload', unload);
    return () => {
      document.removeEventListener('click', click, true);
      window.removeEventListener('beforeunload', unload);
    };
  }, [held]);
  const goesBack = useCallback(() => setTo(BACK), []);
  const back = useBackHeld(held || to !== null, goesBack);
  const stay = () => {
    setTo(null);
    back.hold();
  };
  const leave = () => {
    setTo(null);
    if (to === BACK) back.go();
    else void go(to ?? '', { replace: back.release() }); // the entry that held the way back goes with it
  };
  return (
    <Dialog open={to !== null} onClose={stay} maxWidth="xs" fullWidth>
      <DialogTitle>Save the changes to {draft.now.name} first?</DialogTitle>
      <DialogContent>
        <p className="say">They are not saved yet; reports show the grouping as it was.</p>
      </DialogContent>
      <DialogActions>
        <Button onClick={stay}>Stay here</Button>
        <Button
          onClick={() => {
            draft.leave();
            leave();
          }}
        >
          Discard them
        </Button>
        <Button
          variant="contained"
          disabled={draft.saving}
          onClick={() => void draft.saved().then(leave, stay)}
        >
          Save and go on
        </Button>
      </DialogActions>
    </Dialog>
  );
}
