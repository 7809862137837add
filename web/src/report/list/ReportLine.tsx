import '../../parts/list.css';
import './list.css';

import { Button } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';

import { get, patch, post, remove, type ReportLine as Line } from '../../api/client';
import { day } from '../../parts/words';
import { MarkReport } from './MarkReport';
import { openedAt } from './opened';

/** A report in the list: its title and sentence, its last figure with a small line by period, and when it was opened. */
export function ReportLine({ report, marks }: { report: Line; marks: string[] }) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ['reports'] });
  const copy = useMutation({ mutationFn: () => post(`/reports/${report.id}/copy`), onSuccess: refresh });
  const away = useMutation({ mutationFn: () => remove(`/reports/${report.id}`), onSuccess: refresh });
  const archive = useMutation({
    mutationFn: () => patch(`/reports/${report.id}`, { archived: !report.archived }),
    onSuccess: refresh,
  });
  const glance = useQuery({
    queryKey: ['glance', report.id, report.saved_at],
    queryFn: () => get(`/reports/${report.id}/glance`),
    retry: false,
  }).data;
  return (
    <div className="report-line">
      <Link to={`/reports/${report.id}`} className="report-line-main">
        <b>
          {report.title}
          {report.marks.map((mark) => (
            <span key={mark} className="mark-chip">
              {mark}
            </span>
          ))}
        </b>
        <span className="quiet" title={report.said}>
          {report.said}
        </span>
      </Link>
      <Bars values={glance?.bars ?? []} />
      <span className="report-line-number" title={glance?.fault}>
        <b className={`num${/^[(−]/.test(glance?.number ?? '') ? ' neg' : ''}`}>{glance?.number}</b>
        <span className="quiet">
          {glance?.fault ? 'cannot be worked out' : glance?.moved || glance?.figure}
        </span>
      </span>
      <span className="report-line-when">
        <span className="quiet">{openedAt(report.id) ?? `changed ${day(report.saved_at)}`}</span>
        <span className="list-actions">
          <MarkReport report={report} known={marks} />
          <Button onClick={() => copy.mutate()}>Copy</Button>
          <Button onClick={() => archive.mutate()}>{report.archived ? 'Bring back' : 'Archive'}</Button>
          <Button
            color="error"
            onClick={() => window.confirm(`Remove the report “${report.title}”?`) && away.mutate()}
          >
            Remove
          </Button>
        </span>
      </span>
    </div>
  );
}

/** A small line chart by period, with the last one highlighted. */
function Bars({ values }: { values: number[] }) {
  const high = Math.max(0, ...values);
  const low = Math.min(0, ...values);
  const y = (n: number) => 26 - ((n - low) / (high - low || 1)) * 24;
  return (
    <svg viewBox="0 0 120 28" width="120" height="28" aria-hidden="true">
      {values.map((value, i) => (
        <rect
          key={i}
          x={120 - (values.length - i) * 10}
          width="8"
          y={Math.min(y(value), y(0))}
          height={Math.max(1, Math.abs(y(value) - y(0)))}
          fill={i === values.length - 1 ? '#0d5a6a' : '#b9cfd2'}
        />
      ))}
    </svg>
  );
}
