import './groupings.css';
import '../parts/list.css';
import '../parts/panes.css';

import { useQuery } from '@tanstack/react-query';
import { NavLink, useParams } from 'react-router';

import { get } from '../api/client';
import { useGroupings } from '../api/queries';
import { Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { BucketScreen } from './BucketScreen';
import { CalendarScreen } from './CalendarScreen';
import { NewGrouping } from './NewGrouping';
import { TreeScreen } from './TreeScreen';

const KINDS: [string, string][] = [
  ['tree', 'Category trees'],
  ['calendar', 'Calendars'],
  ['buckets', 'Bucket sets'],
];

/** Category trees, calendars and bucket sets, each beside the real data. */
export function GroupingsScreen() {
  const all = useGroupings();
  const wanted = useParams().id;
  const id =
    wanted === undefined
      ? (all.data?.find((g) => g.kind === 'tree')?.id ?? all.data?.[0]?.id)
      : Number(wanted);
  const found = useQuery({
    queryKey: ['grouping', id],
    queryFn: () => get(`/groupings/${id}`),
    enabled: id !== undefined,
  });
  const side = <Side shown={id} />;
  const view = found.data;
  if (!view) {
    return (
      <>
        <Masthead title="Groupings">
          <NewGrouping />
        </Masthead>
        <main className="groupings panes">
          {side}
          <section className="work">
            <FaultNote error={found.error ?? all.error} />
            {all.data?.length === 0 && (
              <div className="paper">
                <p className="empty">
                  No grouping yet. Make a category tree, a calendar or a bucket set with New grouping.
                </p>
              </div>
            )}
          </section>
        </main>
        <footer className="tie" />
      </>
    );
  }
  const props = { view, side };
  if (view.kind === 'tree') return <TreeScreen key={view.id} {...props} />;
  return view.kind === 'calendar' ? (
    <CalendarScreen key={view.id} {...props} />
  ) : (
    <BucketScreen key={view.id} {...props} />
  );
}

function Side({ shown }: { shown: number | undefined }) {
  const all = useGroupings().data ?? [];
  return (
    <nav className="side" aria-label="Groupings">
      {KINDS.map(([kind, title]) => (
        <div key={kind}>
          <h3>{title}</h3>
          {all
            .filter((g) => g.kind === kind)
            .map((g) => (
              <NavLink
                key={g.id}
                to={`/groupings/${g.id}`}
                className={`${kind}${g.id === shown ? ' active' : ''}`}
              >
                {g.name}
              </NavLink>
            ))}
        </div>
      ))}
    </nav>
  );
}
