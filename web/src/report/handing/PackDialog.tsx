import './handing.css';

import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  TextField,
} from '@mui/material';
import { useState } from 'react';

import { post, type ReportLine } from '../../api/client';
import { FaultNote } from '../../parts/Fault';
import { Choose } from '../../parts/Field';
import { counted } from '../../parts/words';
import { useFile } from './useFile';
import { WhoseItIs } from './WhoseItIs';

const AS: [string, string][] = [
  ['xlsx', 'one workbook, a sheet each, with contents'],
  ['pdf', 'one PDF, with a cover, contents and bookmarks'],
  ['html', 'web pages in a zip'],
  ['csv', 'delimited text in a zip'],
  ['ods', 'OpenDocument spreadsheets in a zip'],
];

/** Exports several reports together. */
export function PackDialog({ reports, close }: { reports: ReportLine[]; close: () => void }) {
  const [title, setTitle] = useState('Month end');
  const [format, setFormat] = useState('xlsx');
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const file = useFile(close);
  const tick = (id: number) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  const ids = reports.map((r) => r.id).filter((id) => chosen.has(id));
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>Export a pack</DialogTitle>
      <DialogContent className="pack">
        <TextField
          fullWidth
          label="Title of the pack"
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
        <Choose label="As" value={format} options={AS} change={setFormat} />
        {(format === 'pdf' || format === 'xlsx') && <WhoseItIs />}
        <fieldset className="pack-reports">
          <legend>Reports, in this order</legend>
          {reports.map((report) => (
            <FormControlLabel
              key={report.id}
              label={report.title}
              control={
                <Checkbox size="small" checked={chosen.has(report.id)} onChange={() => tick(report.id)} />
              }
            />
          ))}
        </fieldset>
        <FaultNote error={file.error} />
      </DialogContent>
      <DialogActions>
        {file.busy ? <Button onClick={file.stop}>Stop</Button> : <Button onClick={close}>Cancel</Button>}
        <Button
          variant="contained"
          disabled={ids.length === 0 || !title.trim() || file.busy}
          onClick={() => file.make(() => post('/packs', { title: title.trim(), reports: ids, format }))}
        >
          {ids.length ? `Export ${counted(ids.length, 'report')}` : 'Export'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
