import './groupings.css';
import '../parts/panes.css';

import type { ReactNode } from 'react';

import type { Grouping, GroupingView } from '../api/client';
import { Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { GroupingName, RemoveGrouping } from './GroupingName';
import { NewGrouping } from './NewGrouping';
import { OtherSaved } from './OtherSaved';
import { ImpactNote, SaveButtons } from './SaveBar';
import type { Draft } from './useDraft';

interface Props<G extends Grouping> {
  view: GroupingView;
  draft: Draft<G>;
  error: Error | null;
  busy: boolean;
  side: ReactNode;
  about: ReactNode;
  tie: ReactNode;
  actions?: ReactNode;
  children: ReactNode;
}

/** The frame of a grouping shown on one card: its name, its kind, the effect of saving, and the strip below. */
export function CardFrame<G extends Grouping>(props: Props<G>) {
  const { view, draft, error, busy, side, about, tie, actions, children } = props;
  return (
    <>
      <Masthead title={view.document.name}>
        {actions}
        <SaveButtons draft={draft} />
        {!draft.dirty && <NewGrouping />}
      </Masthead>
      <main className="groupings panes">
        {side}
        <section className="work cards" aria-busy={busy}>
          <OtherSaved draft={draft} />
          <FaultNote error={draft.error ?? error} />
          <div className="paper card" style={{ flex: 'none' }}>
            <GroupingName view={view} />
            <p className="say">{about}</p>
            {children}
            <ImpactNote draft={draft} view={view} />
            <RemoveGrouping view={view} />
          </div>
        </section>
      </main>
      <footer className="tie">{tie}</footer>
    </>
  );
}
