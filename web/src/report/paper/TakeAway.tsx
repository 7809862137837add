import { useState } from 'react';

import type { Report, SheetView } from '../../api/client';
import { GhostButton } from '../../parts/Masthead';
import { ExportDialog } from '../handing/ExportDialog';
import { SummaryDialog } from './SummaryDialog';

/** Exports the sheet as a file, or saves it as a source. */
export function TakeAway({
  id,
  revision,
  report,
  sheet,
  change,
}: {
  id: number;
  revision: number | undefined;
  report: Report | undefined;
  sheet: SheetView | undefined;
  change: (report: Report) => void;
}) {
  const [open, setOpen] = useState(false);
  const [naming, setNaming] = useState(false);
  return (
    <>
      <GhostButton onClick={() => setOpen(true)} disabled={!report} aria-haspopup="dialog">
        Export
      </GhostButton>
      {open && report && revision !== undefined && (
        <ExportDialog
          id={id}
          revision={revision}
          report={report}
          sheet={sheet}
          change={change}
          close={() => setOpen(false)}
          summary={() => {
            setOpen(false);
            setNaming(true);
          }}
        />
      )}
      {naming && report && <SummaryDialog id={id} title={report.title} close={() => setNaming(false)} />}
    </>
  );
}
