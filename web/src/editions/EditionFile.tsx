import { Menu, MenuItem } from '@mui/material';
import { useState } from 'react';

import { GhostButton, GhostLink } from '../parts/Masthead';
import type { EditionPlace } from '../api/paths';

export const FORMATS = [
  ['pdf', 'PDF, as a printed page'],
  ['xlsx', 'Workbook'],
  ['html', 'HTML, one file'],
  ['csv', 'Delimited text'],
  ['ods', 'OpenDocument spreadsheet'],
  ['json', 'JSON'],
  ['parquet', 'Parquet'],
] as const;

/** The edition as a file of any format, or printed. */
export function EditionFile({ base }: { base: EditionPlace }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <GhostLink href={`/api${base}/file?format=pdf`} title="A PDF to print">
        Print
      </GhostLink>
      <GhostButton aria-haspopup="menu" onClick={(event) => setAt(event.currentTarget)}>
        Export
      </GhostButton>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        {FORMATS.map(([form, words]) => (
          <MenuItem
            key={form}
            component="a"
            dense
            href={`/api${base}/file?format=${form}`}
            onClick={() => setAt(null)}
          >
            {words}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
