import './editors.css';

import { Button, IconButton, Popover } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { sendControls, type Control, type Report } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose, Written } from '../parts/Field';
import { plainNumber } from '../parts/numbers';
import { day } from '../parts/words';
import { inField } from '../parts/notation';

/** Control totals of figures, typed or read from a file; each is checked on every sheet. */
export function Controls({
  report,
  asOf,
  words,
  change,
}: {
  report: Report;
  asOf: string;
  words: string;
  change: (report: Report) => void;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <button
        className="expect ok"
        title="a total that is expected, checked on every sheet"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {words}
      </button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      >
        <div className="editor">
          <Editor report={report} asOf={asOf} change={change} />
        </div>
      </Popover>
    </>
  );
}

function Editor({
  report,
  asOf,
  change,
}: {
  report: Report;
  asOf: string;
  change: (report: Report) => void;
}) {
  const file = useRef<HTMLInputElement>(null);
  const [fault, setFault] = useState('');
  const controls = report.controls ?? [];
  const figures = report.figures.map((f) => f.name);
  const set = (next: Control[]) => change({ ...report, controls: next });
  const read = useMutation({
    mutationFn: sendControls,
    onSuccess: (found) => {
      const known = found.filter((c) => figures.includes(c.figure));
      const unknown = found.filter((c) => !figures.includes(c.figure)).map((c) => c.figure);
      setFault(unknown.length ? `no figure here is named ${unknown.join(', ')}; left out` : '');
      const named = new Set(known.map((c) => c.figure));
      set([...controls.filter((c) => !named.has(c.figure)), ...known]);
    },
  });
  return (
    <>
      <h3>Expected totals</h3>
      <p className="say">
        Checked against the grand total, and said in the strip below the sheet
        {report.cadence ? '; a new one is that of this as-of date alone.' : '.'}
      </p>
      <FaultNote error={read.error ?? (fault ? new Error(fault) : null)} />
      {controls.map((control, i) => (
        <div key={i} className="control-row">
          <Choose
            label="Figure"
            value={control.figure}
            options={figures.map((f) => [f, f])}
            change={(figure) => set(controls.map((c, k) => (k === i ? { ...c, figure } : c)))}
          />
          <Written
            label="Expected"
            help={control.as_of ? `as of ${day(control.as_of)}` : ''}
            value={inField(control.expect)}
            change={(text) => {
              const expect = plainNumber(text);
              setFault(expect ? '' : `${text} is no number; nothing was changed`);
              if (expect) set(controls.map((c, k) => (k === i ? { ...c, expect } : c)));
            }}
          />
          <IconButton
            size="small"
            aria-label={`Take out the total of ${control.figure}`}
            onClick={() => set(controls.filter((_, k) => k !== i))}
          >
            ×
          </IconButton>
        </div>
      ))}
      <div className="foot">
        <Button
          onClick={() => {
            const free = figures.find((f) => !controls.some((c) => c.figure === f)) ?? figures[0];
            if (!free) return;
            const fresh = { figure: free, expect: '0', as_of: report.cadence ? asOf : null };
            set([...controls, fresh]);
          }}
        >
          Add a total
        </Button>
        <Button onClick={() => file.current?.click()}>Read from a file</Button>
        <input
          ref={file}
          hidden
          type="file"
          aria-label="File of totals"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = '';
            if (chosen) read.mutate(chosen);
          }}
        />
      </div>
    </>
  );
}
