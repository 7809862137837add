import '../parts/list.css';

import { Dialog, DialogActions, DialogContent, DialogTitle, Button } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';

import { post, remove, type ReportLine, type ReportView } from '../api/client';
import { useReports, useSources, useWorkspace } from '../api/queries';
import { MainButton, Masthead } from '../app/Masthead';
import { Choose } from '../parts/Field';
import { FaultNote } from '../parts/Fault';
import { counted, day } from '../parts/words';

/** All reports, and a new one. */
export function ReportList() {
  const reports = useReports();
  const sources = useSources();
  const workspace = useWorkspace().data;
  const [adding, setAdding] = useState(false);
  const none = sources.data?.length === 0;
  return (
    <>
      <Masthead>
        <MainButton onClick={() => setAdding(true)} disabled={none}>
          New report
        </MainButton>
      </Masthead>
      <main className="list-page">
        <h1 className="page-title">Reports</h1>
        <p className="say">
          {workspace?.name} · today is {day(workspace?.today)}
        </p>
        <FaultNote error={reports.error} />
        <div className="paper list">
          {reports.data?.map((report) => (
            <Line key={report.id} report={report} />
          ))}
          {reports.data?.length === 0 && (
            <p className="empty">
              {none ? (
                <>
                  There is nothing to report on yet. <Link to="/sources">Import a file</Link> first.
                </>
              ) : (
                <>
                  No report yet.{' '}
                  <button className="link" onClick={() => setAdding(true)}>
                    Make the first
                  </button>
                  .
                </>
              )}
            </p>
          )}
        </div>
      </main>
      <footer className="tie">
        <span>
          <b>{reports.data?.length ?? 0}</b> {reports.data?.length === 1 ? 'report' : 'reports'} over{' '}
          <b>{counted(sources.data?.length ?? 0, 'source')}</b>
        </span>
      </footer>
      <NewReport open={adding} close={() => setAdding(false)} />
    </>
  );
}

function Line({ report }: { report: ReportLine }) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ['reports'] });
  const copy = useMutation({ mutationFn: () => post(`/reports/${report.id}/copy`), onSuccess: refresh });
  const away = useMutation({ mutationFn: () => remove(`/reports/${report.id}`), onSuccess: refresh });
  return (
    <div className="list-line">
      <Link to={`/reports/${report.id}`} className="list-main">
        <b>{report.title}</b>
        <span className="quiet">from {report.source}</span>
      </Link>
      <span className="quiet">changed {day(report.saved_at)}</span>
      <span className="list-actions">
        <Button onClick={() => copy.mutate()}>Copy</Button>
        <Button
          color="error"
          onClick={() => window.confirm(`Remove the report “${report.title}”?`) && away.mutate()}
        >
          Remove
        </Button>
      </span>
    </div>
  );
}

function NewReport({ open, close }: { open: boolean; close: () => void }) {
  const sources = useSources().data ?? [];
  const [source, setSource] = useState('');
  const go = useNavigate();
  const add = useMutation({
    mutationFn: () => post<ReportView>('/reports', { source: source || sources[0]?.name }),
    onSuccess: (view) => go(`/reports/${view.id}`),
  });
  return (
    <Dialog open={open} onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>New report</DialogTitle>
      <DialogContent sx={{ pt: '8px !important' }}>
        <FaultNote error={add.error} />
        <Choose
          label="Over the source"
          value={source || (sources[0]?.name ?? '')}
          options={sources.map((s) => [s.name, `${s.name} · ${counted(s.records, 'record')}`])}
          change={setSource}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={add.isPending || sources.length === 0}
          onClick={() => add.mutate()}
        >
          Create
        </Button>
      </DialogActions>
    </Dialog>
  );
}
