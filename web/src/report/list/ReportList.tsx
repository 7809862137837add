import '../../parts/list.css';
import '../../parts/tools.css';
import './list.css';

import { Fragment, useMemo, useState } from 'react';

import { useReports, useSources, useWorkspace } from '../../api/queries';
import { GhostButton, MainButton, Masthead } from '../../parts/Masthead';
import { FaultNote } from '../../parts/Fault';
import { useEscape } from '../../parts/useEscape';
import { counted, day } from '../../parts/words';
import { BundleDialog } from '../handing/BundleDialog';
import { PackDialog } from '../handing/PackDialog';
import { openedOn } from './opened';
import { first, ordered, ordersOf, type Order } from './ordering';
import { useListKeys } from './useListKeys';
import { useMore } from './useMore';
import { NewReport } from '../../start/NewReport';
import { Proposals } from '../../start/Proposals';
import { ReportLine } from './ReportLine';
import { Welcome } from '../../start/Welcome';

const AT_ONCE = 14;
const FEW = 3;

/** All reports, each with its sentence; proposals for a source without reports; a welcome in an empty workspace. */
export function ReportList() {
  const reports = useReports();
  const sources = useSources();
  const workspace = useWorkspace().data;
  const [adding, setAdding] = useState(false);
  const [search, setSearch] = useState<string | null>(null);
  const [away, setAway] = useState(false);
  const [taking, setTaking] = useState<'pack' | 'bundle' | null>(null);
  useEscape(() => setSearch(null), search !== null);
  useListKeys({ search: () => setSearch((now) => now ?? ''), add: () => setAdding(true) });
  const all = useMemo(() => reports.data ?? [], [reports.data]);
  const found = useMemo(() => {
    const wanted = (search ?? '').toLowerCase().split(/\s+/).filter(Boolean);
    return all.filter((report) => {
      const text =
        `${report.title} ${report.source} ${report.said} ${report.marks.join(' ')} ${report.made_by}`.toLowerCase();
      return report.archived === away && wanted.every((word) => text.includes(word));
    });
  }, [all, search, away]);
  const marks = useMemo(() => [...new Set(all.flatMap((report) => report.marks))].sort(), [all]);
  const [order, setOrder] = useState<Order>('title');
  const groups = useMemo(() => ordered(found, order, openedOn), [found, order]);
  const { shown, end } = useMore(AT_ONCE);
  if (sources.data?.length === 0 && all.length === 0) return <Welcome />;
  const bare = sources.data?.find((source) => !all.some((report) => report.source === source.name));
  const put = all.filter((report) => report.archived).length;
  return (
    <>
      <Masthead title="Reports">
        <GhostButton onClick={() => setSearch(search === null ? '' : null)} title="/">
          Search
        </GhostButton>
        <GhostButton onClick={() => setTaking('bundle')}>Import a definition</GhostButton>
        <GhostButton onClick={() => setTaking('pack')}>Export a pack</GhostButton>
        <MainButton onClick={() => setAdding(true)} title="N">
          New report
        </MainButton>
      </Masthead>
      <main className="list-page">
        <h1 className="page-title">Reports</h1>
        <p className="say">
          {workspace?.name} · today is {day(workspace?.today)}
        </p>
        <FaultNote error={reports.error} />
        {search !== null && (
          <input
            className="list-search"
            autoFocus
            type="search"
            placeholder="Search titles, sources, marks and what reports say"
            aria-label="Search reports"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
        )}
        {bare && search === null && <Proposals source={bare} />}
        {bare && all.length > 0 && search === null && <h2 className="list-title">Yours</h2>}
        {all.length > 0 && (
          <div className="paper report-lines">
            {all.length > FEW && (
              <div className="report-order tools" role="group" aria-label="Order">
                {ordersOf(all).map(([value, words]) => (
                  <button
                    key={value}
                    className={`tool${order === value ? ' on' : ''}`}
                    aria-pressed={order === value}
                    onClick={() => setOrder(value)}
                  >
                    {words}
                  </button>
                ))}
              </div>
            )}
            {first(groups, shown).map((group) => (
              <Fragment key={group.heading}>
                {group.heading && <h2 className="report-source">{group.heading}</h2>}
                {group.reports.map((report) => (
                  <ReportLine key={report.id} report={report} marks={marks} />
                ))}
              </Fragment>
            ))}
            {shown < found.length && <div ref={end} className="more-below" aria-hidden="true" />}
            {found.length === 0 && <p className="empty">No report says that.</p>}
          </div>
        )}
        {put > 0 && (
          <button className="link list-away" onClick={() => setAway(!away)}>
            {away ? 'Back to the reports in use' : `Archived: ${counted(put, 'report')}`}
          </button>
        )}
      </main>
      <footer className="tie">
        <span>
          <b>{all.length}</b> {all.length === 1 ? 'report' : 'reports'} over{' '}
          <b>{counted(sources.data?.length ?? 0, 'source')}</b>
          <span className="arrow">·</span>
          type <kbd className="kbd">/</kbd> to search, <kbd className="kbd">N</kbd> for a new one
        </span>
      </footer>
      {taking === 'pack' && (
        <PackDialog reports={all.filter((r) => !r.archived)} close={() => setTaking(null)} />
      )}
      {taking === 'bundle' && <BundleDialog close={() => setTaking(null)} />}
      <NewReport open={adding} close={() => setAdding(false)} />
    </>
  );
}
