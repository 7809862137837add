import './groupings.css';

import type { Grouping, GroupingView } from '../api/client';
import { GhostButton, MainButton } from '../parts/Masthead';
import { listed } from '../parts/words';
import { HeldOnLeaving } from './HeldOnLeaving';
import type { Draft } from './useDraft';

/** Saves or discards the changes of a grouping. */
export function SaveButtons<G extends Grouping>({ draft }: { draft: Draft<G> }) {
  if (!draft.dirty) return null;
  if (draft.other) return <HeldOnLeaving draft={draft} />;
  return (
    <>
      <HeldOnLeaving draft={draft} />
      <GhostButton onClick={draft.leave}>Discard changes</GhostButton>
      <MainButton onClick={draft.save} disabled={draft.saving}>
        Save
      </MainButton>
    </>
  );
}

/** Which reports the changes affect, and by how much, before they are saved. */
export function ImpactNote<G extends Grouping>({ draft, view }: { draft: Draft<G>; view: GroupingView }) {
  if (!draft.dirty) return null;
  if (view.used_by.length === 0) return <div className="impact">Not saved yet. No report uses it.</div>;
  const moved = (draft.impact ?? []).filter((i) => i.moved > 0 || i.problem);
  return (
    <div className="impact" aria-label="What saving moves">
      {draft.impact === undefined && 'Working out what this moves…'}
      {draft.impact && moved.length === 0 && `Not saved yet. It moves no line of ${listed(view.used_by)}.`}
      {moved.map((report) => (
        <div key={report.report}>
          Saving moves <b>{report.report}</b>
          {report.problem && <div className="neg">{report.problem}</div>}
          <table>
            <tbody>
              {report.lines.map((line) => (
                <tr key={line.line}>
                  <td>{line.line}</td>
                  <td className="num quiet">{line.before || '–'}</td>
                  <td className="num">{line.after || '–'}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ))}
    </div>
  );
}
