import '../../editors/editors.css';

import { Button, TextField } from '@mui/material';
import { useState } from 'react';

import type { Gathering, Report } from '../../api/client';
import { useEscape } from '../../parts/useEscape';
import { counted } from '../../parts/words';
import { withLine } from '../../definition/change';
import type { Row } from '../../sheet/outline';

/** Gathers selected lines of the sheet in a category of the entry's tree, or of a new tree over its column. */
export function Gather({
  report,
  level,
  chosen,
  change,
  gather,
  typing,
  done,
}: {
  report: Report;
  level: string | undefined;
  chosen: Row[];
  change: (report: Report) => void;
  gather: (what: Gathering) => void;
  typing: boolean;
  done: () => void;
}) {
  const [name, setName] = useState('');
  useEscape(done);
  const at = chosen[0]?.entry ?? -1;
  const values = chosen.map((row) => row.value).filter((v): v is string => v !== null);
  const together = () => {
    if (!name.trim()) return;
    gather({ entry: at, values, label: name.trim() });
    done();
  };
  return (
    <div className="gather" role="group" aria-label="Gather">
      <span>{counted(values.length, 'line')} chosen</span>
      <TextField
        autoFocus={typing}
        placeholder="Name of the category"
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') together();
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Name of the category' } }}
      />
      <Button variant="contained" disabled={!name.trim()} onClick={together}>
        Gather into a category
      </Button>
      {chosen.length > 1 && level && (
        <Button
          title="a line of its own, which counts in no total"
          onClick={() => {
            change(withLine(report, level, inOrder(chosen)));
            done();
          }}
        >
          {chosen[0]?.label} less {chosen.length === 2 ? chosen[1]?.label : 'the others'}
        </Button>
      )}
      <Button onClick={done}>Cancel</Button>
    </div>
  );
}

/** The labels of the selected lines, in order of selection, and of the last one on the sheet. */
const inOrder = (chosen: Row[]) => ({
  labels: chosen.map((row) => row.label),
  last: [...chosen].sort((a, b) => a.at - b.at).pop()?.label ?? null,
});
