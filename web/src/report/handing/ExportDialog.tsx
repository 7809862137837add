import './handing.css';

import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  LinearProgress,
} from '@mui/material';
import { useState } from 'react';

import { post, type Report, type SheetView } from '../../api/client';
import { FaultNote } from '../../parts/Fault';
import { Choose } from '../../parts/Field';
import { count } from '../../parts/words';
import { cutLevels, FORMATS, withPages, WORKBOOK, type Export } from './formats';
import { HeadlineFields } from './HeadlineFields';
import { Preview } from './Preview';
import { usePreview } from './usePreview';
import { useFile } from './useFile';

interface Props {
  id: number;
  revision: number;
  report: Report;
  sheet: SheetView | undefined;
  change: (report: Report) => void;
  close: () => void;
  summary: () => void;
}

const LAST = 'kalendor.format';

/** The optional contents of a bundle, as a query. */
const asked = (bundled: Record<string, boolean>) => {
  const wanted = Object.keys(bundled).filter((name) => bundled[name]);
  return wanted.length > 0 ? `?${wanted.map((name) => `${name}=true`).join('&')}` : '';
};

/** Exports the sheet as a file: the format, its settings, which are stored with the report, and a preview. */
export function ExportDialog({ id, revision, report, sheet, change, close, summary }: Props) {
  const [format, setFormat] = useState(() => localStorage.getItem(`${LAST}.${id}`) ?? 'xlsx');
  const [shape, setShape] = useState('sheet');
  const [level, setLevel] = useState('');
  const [bundled, setBundled] = useState({ notes: false, delivery: false });
  const file = useFile(close);
  const kind = FORMATS.find((f) => f.format === format) ?? WORKBOOK;
  const own: Partial<Export> = report.export ?? {};
  const set = (next: Partial<Export>) => change({ ...report, export: { ...own, ...next } });
  const query = `format=${kind.format}${kind.shapes.length ? `&shape=${shape}` : ''}`;
  const seen = usePreview(id, revision, query);
  const choose = (next: string) => {
    localStorage.setItem(`${LAST}.${id}`, next);
    setFormat(next);
  };
  const made = () =>
    file.make(() =>
      post(`/reports/${id}/files?${query}${level ? `&level=${encodeURIComponent(level)}` : ''}`),
    );
  return (
    <Dialog open onClose={close} fullWidth maxWidth="lg" className="handing">
      <DialogTitle>Export</DialogTitle>
      <DialogContent className="handing-content">
        <div className="formats" role="radiogroup" aria-label="Format">
          {FORMATS.map((f) => (
            <button
              key={f.format}
              role="radio"
              aria-checked={f.format === kind.format}
              className={f.format === kind.format ? 'on' : ''}
              onClick={() => choose(f.format)}
            >
              {f.label}
              <small>{f.about}</small>
            </button>
          ))}
        </div>
        <div className="file-choices">
          {kind.shapes.length > 0 && (
            <Choose label="Shape" value={shape} options={kind.shapes} change={setShape} />
          )}
          {kind.choices.map((choice) => (
            <Choose
              key={choice.key}
              label={choice.label}
              value={String(own[choice.key] ?? choice.options[0]?.[0])}
              options={withPages(choice, seen.data?.choices)}
              change={(value) => set({ [choice.key]: value })}
            />
          ))}
          <Choose label="Files" value={level} options={cutLevels(sheet)} change={setLevel} />
          {kind.page && (
            <Tick label="With a chart" on={own.chart ?? false} change={(chart) => set({ chart })} />
          )}
          {kind.format === 'csv' && (
            <Tick
              label="Raw text, as it stands in the records"
              on={own.raw ?? false}
              change={(raw) => set({ raw })}
            />
          )}
          {kind.page && (
            <Tick
              label="With a headline"
              on={own.headline ?? true}
              change={(headline) => set({ headline })}
            />
          )}
          {kind.page && (own.headline ?? true) && (
            <HeadlineFields id={id} revision={revision} report={report} change={change} />
          )}
        </div>
        <Preview id={id} revision={revision} found={seen} />
      </DialogContent>
      <DialogActions>
        <Button onClick={summary}>Save as a source…</Button>
        <Button
          component="a"
          href={`/api/reports/${id}/bundle${asked(bundled)}`}
          title="The report with its groupings, to be imported elsewhere"
        >
          The definition, to import elsewhere
        </Button>
        <span className="bundled">
          {(report.notes ?? []).length > 0 && (
            <Tick
              label="with notes"
              on={bundled.notes}
              change={(notes) => setBundled({ ...bundled, notes })}
            />
          )}
          {report.delivery && (
            <Tick
              label="with receivers"
              on={bundled.delivery}
              change={(delivery) => setBundled({ ...bundled, delivery })}
            />
          )}
        </span>
        <FaultNote error={file.error} />
        {file.job && (
          <span className="quiet making" role="status">
            {file.job.total > 0 && file.job.done > 0
              ? `${count(file.job.done)} of ${count(file.job.total)} lines`
              : 'Being written'}
            <LinearProgress />
          </span>
        )}
        {file.busy ? <Button onClick={file.stop}>Stop</Button> : <Button onClick={close}>Cancel</Button>}
        <Button variant="contained" disabled={file.busy} onClick={made}>
          Export
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const Tick = ({ label, on, change }: { label: string; on: boolean; change: (on: boolean) => void }) => (
  <FormControlLabel
    label={label}
    control={<Checkbox size="small" checked={on} onChange={(event) => change(event.target.checked)} />}
  />
);
