import './sources.css';

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { type IntakeView, post } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { counted, day } from '../parts/words';
import { RefusedDialog } from './RefusedDialog';

const JOINED: Record<string, string> = {
  replace_dates: 'replaced the days it spans',
  replace_months: 'replaced the months it is about',
  replace_all: 'replaced everything',
  update: 'replaced by key',
};

/** A file of a source, or lines entered by hand: what came with it, and what takes it back. */
export function FileLine({ intake, mend }: { intake: IntakeView; mend: (file: File) => void }) {
  const queries = useQueryClient();
  const [showing, setShowing] = useState(false);
  const step = useMutation({
    mutationFn: (what: 'undo' | 'redo' | 'reverse') => post(`/intakes/${intake.id}/${what}`),
    onSuccess: () => queries.invalidateQueries(),
  });
  const byHand = intake.origin === 'hand';
  const mayReverse = byHand && !intake.undone && intake.reverses === null && intake.reversed_by === null;
  return (
    <div className={`file${intake.undone ? ' undone' : ''}`}>
      <b>{byHand ? intake.reason : intake.file_name}</b>
      <div className="about">
        <span>{how(intake)}</span>
        <button
          className="link"
          onClick={() => step.mutate(intake.undone ? 'redo' : 'undo')}
          disabled={step.isPending}
        >
          {intake.undone ? 'redo' : 'undo'}
        </button>
      </div>
      {mayReverse && (
        <button
          className="link"
          onClick={() => step.mutate('reverse')}
          disabled={step.isPending}
          title="The same lines on the first day of the next month, with their amounts turned round"
        >
          reverse next month
        </button>
      )}
      {intake.reversed_by !== null && <span className="quiet">reversed</span>}
      {intake.refused > intake.mended && (
        <button className="link" onClick={() => setShowing(true)}>
          see {counted(intake.refused - intake.mended, 'refused line')}
        </button>
      )}
      {intake.mended > 0 && (
        <span className="quiet"> {counted(intake.mended, 'refused line')} corrected since</span>
      )}
      {showing && <RefusedDialog intake={intake} close={() => setShowing(false)} mend={mend} />}
      <FaultNote error={step.error} />
    </div>
  );
}

/** How its records came, and when. */
function how(intake: IntakeView): string {
  const records = counted(intake.records, 'record');
  if (intake.origin === 'hand') {
    return `${records} by hand${intake.by ? `, by ${intake.by}` : ''} · ${day(intake.brought_at)}`;
  }
  const came = { push: 'sent by a program', query: 'fetched' }[intake.origin as string] ?? 'imported';
  const way = intake.replaced > 0 ? JOINED[intake.joined_by] : came;
  return `${records}${intake.mends ? ' corrected' : ''} · ${way} ${day(intake.brought_at)}`;
}
