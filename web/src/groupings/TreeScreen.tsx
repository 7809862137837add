import './groupings.css';
import '../parts/panes.css';

import type { ReactNode } from 'react';

import { post, type GroupingView, type Tree } from '../api/client';
import { GhostButton, GhostLink, Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { count, counted, listed } from '../parts/words';
import { GroupingName, RemoveGrouping } from './GroupingName';
import { LoosePanel } from './LoosePanel';
import { NewGrouping } from './NewGrouping';
import { OtherSaved } from './OtherSaved';
import { SaveButtons } from './SaveBar';
import { TreeRows } from './TreeRows';
import { useDraft } from './useDraft';
import { useLook } from './useLook';
import { useTreeEdits } from './useTreeEdits';

/** A category tree over its data; values are gathered, moved, dragged, and matched by rules. */
export function TreeScreen({ view, side }: { view: GroupingView; side: ReactNode }) {
  const draft = useDraft<Tree>(view);
  const { found, asked, busy, error } = useLook('tree', draft.now, (now) => post('/look/tree', now));
  const edits = useTreeEdits(draft.now, found, draft.change);
  const placed = found ? found.values - found.loose.length : 0;
  return (
    <>
      <Masthead title={view.document.name}>
        <GhostLink href={`/api/groupings/${view.id}/file`}>Write to a file</GhostLink>
        {edits.values.length > 0 && (
          <GhostButton onClick={edits.gather}>Gather {edits.values.length} into…</GhostButton>
        )}
        <SaveButtons draft={draft} />
        {!draft.dirty && <NewGrouping />}
      </Masthead>
      <main className="groupings panes with-margin">
        {side}
        <section className="work" aria-busy={busy}>
          <GroupingName view={view} />
          <p className="say">
            {found?.over && (
              <>
                Groups{' '}
                <b>
                  {found.over.specimen ? `some records of ${found.over.source}` : found.over.source} ·{' '}
                  {found.over.column}
                </b>
                .{' '}
              </>
            )}
            {view.used_by.length > 0 ? `Used by ${listed(view.used_by)}. ` : 'Used by no report yet. '}
            Order here is the order on every sheet.
          </p>
          <OtherSaved draft={draft} />
          <FaultNote error={draft.error ?? error} />
          <div className="paper" role="tree" aria-multiselectable="true" tabIndex={0} aria-label="Tree">
            {found && <TreeRows look={found} levels={asked.levels} edits={edits} />}
          </div>
          <RemoveGrouping view={view} />
        </section>
        <LoosePanel look={found} edits={edits} draft={draft} view={view} />
      </main>
      <footer className="tie">
        {found && (
          <>
            <span>
              <b>{count(found.values)}</b> different values
            </span>
            <span className="arrow">→</span>
            <span>
              <b>{count(placed)}</b> placed
            </span>
            <span className="arrow">+</span>
            <span>
              <b>{count(found.loose.length)}</b> not placed
            </span>
            {found.blank > 0 && <span className="warn">{counted(found.blank, 'record')} blank</span>}
            {found.loose.length > 0 && (
              <span className="warn">not placed lines show on every sheet, never dropped</span>
            )}
          </>
        )}
        <span className="ok">{draft.dirty ? 'not saved yet' : `saved · revision ${view.revision}`}</span>
      </footer>
    </>
  );
}
