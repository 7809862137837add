import './list.css';

import { useMemo, useState } from 'react';

import { useReports, useSources, useWorkspace } from '../../api/queries';
import { GhostButton, MainButton, Masthead } from '../../parts/Masthead';
import { FaultNote } from '../../parts/Fault';
import { counted, day } from '../../parts/words';
import { BundleDialog } from '../handing/BundleDialog';
import { PackDialog } from '../handing/PackDialog';
import { useListKeys } from './useListKeys';
import { NewReport } from '../../start/NewReport';
import { Proposals } from '../../start/Proposals';
import { ReportLine } from './ReportLine';
import { Welcome } from '../../start/Welcome';

/** All reports, each as the sentence that it is; proposals for a source that has none; a welcome where there is nothing. */
export function ReportList() {
  const reports = useReports();
  const sources = useSources();
  const workspace = useWorkspace().data;
  const [adding, setAdding] = useState(false);
  const [search, setSearch] = useState<string | null>(null);
  const [away, setAway] = useState(false);
  const [taking, setTaking] = useState<'pack' | 'bundle' | null>(null);
  useListKeys({ search: () => setSearch((now) => now ?? ''), add: () => setAdding(true) });
  const all = useMemo(() => reports.data ?? [], [reports.data]);
  const found = useMemo(() => {
    const wanted = (search ?? '').toLowerCase().split(/\s+/).filter(Boolean);
    return all.filter((report) => {
      const text = `${report.title} ${report.source} ${report.said}`.toLowerCase();
      return report.archived === away && wanted.every((word) => text.includes(word));
    });
  }, [all, search, away]);
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
            placeholder="Search titles, sources and what reports say"
            aria-label="Search reports"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            onKeyDown={(event) => event.key === 'Escape' && setSearch(null)}
          />
        )}
        {bare && search === null && <Proposals source={bare} />}
        {bare && all.length > 0 && search === null && <h2 className="list-title">Yours</h2>}
        {all.length > 0 && (
          <div className="paper report-lines">
            {found.map((report) => (
              <ReportLine key={report.id} report={report} />
            ))}
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
