import './board.css';
import '../margin/trail.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { post, type Cadence, type Delivery, type Report } from '../api/client';
import { useWorkspace } from '../api/queries';
import { FaultNote } from '../parts/Fault';
import { counted } from '../parts/words';
import { useReportEditing } from '../definition/useReportEditing';
import { CadenceFields } from './CadenceFields';
import { CheckFields } from './CheckFields';
import { DeliveryFields } from './DeliveryFields';

const TABS = ['When', 'Checks', 'Who gets it'] as const;

/** How a report recurs: when its editions are due, what is checked before they are issued, and who receives them. */
export function CadenceDialog({ id, close }: { id: number; close: () => void }) {
  const editing = useReportEditing(id);
  const report = editing.shown;
  if (!report) return null;
  return <Fields id={id} report={report} save={editing.change} close={close} error={editing.error} />;
}

const firstCadence = (report: Report, today: string): Cadence => {
  const calendar = report.window?.calendar ?? null;
  return {
    every: 'month',
    ...(calendar ? { calendar } : {}),
    since: `${today.slice(0, 4)}-01-01`,
    due: { working_days: 3 },
  } as Cadence;
};

function Fields({
  id,
  report,
  save,
  close,
  error,
}: {
  id: number;
  report: Report;
  save: (report: Report) => void;
  close: () => void;
  error: Error | null;
}) {
  const today = useWorkspace().data?.today ?? '2026-01-01';
  const [tab, setTab] = useState<(typeof TABS)[number]>('When');
  const [cadence, setCadence] = useState<Cadence>(() => report.cadence ?? firstCadence(report, today));
  const [delivery, setDelivery] = useState<Delivery | null>(report.delivery ?? null);
  const queries = useQueryClient();
  const seen = () => {
    void queries.invalidateQueries({ queryKey: ['board'] });
    void queries.invalidateQueries({ queryKey: ['checks'] });
  };
  const past = useMutation({
    mutationFn: () => post(`/reports/${id}/past?since=${cadence.since}`),
    onSettled: seen,
  });
  const keep = (next: Report) => {
    save(next);
    setTimeout(seen, 400);
    close();
  };
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>
        {report.title}, every period
      </DialogTitle>
      <DialogContent>
        <div className="tabs" role="tablist">
          {TABS.map((name) => (
            <button key={name} role="tab" aria-selected={tab === name} onClick={() => setTab(name)}>
              {name}
            </button>
          ))}
        </div>
        <FaultNote error={error ?? past.error} />
        {tab === 'When' && <CadenceFields report={report} cadence={cadence} change={setCadence} />}
        {tab === 'Checks' && <CheckFields report={report} cadence={cadence} change={setCadence} />}
        {tab === 'Who gets it' && <DeliveryFields report={report} delivery={delivery} change={setDelivery} />}
        {tab === 'When' && report.cadence?.since && (
          <p className="quiet past-periods">
            Periods before now that have no edition can be issued as the report stands:{' '}
            <button className="link" disabled={past.isPending} onClick={() => past.mutate()}>
              issue all past periods
            </button>
            {past.data && ` · ${counted(past.data.length, 'edition')} issued`}
          </p>
        )}
      </DialogContent>
      <DialogActions>
        {report.cadence && (
          <Button color="error" sx={{ mr: 'auto' }} onClick={() => keep({ ...report, cadence: null })}>
            Issue it no more
          </Button>
        )}
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" onClick={() => keep({ ...report, cadence, delivery })}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  );
}
