import { Menu, MenuItem } from '@mui/material';
import { useState } from 'react';

import { GhostButton, GhostLink } from '../parts/Masthead';
import type { EditionPlace } from '../api/paths';

const FORMATS = [
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
      <FileMenu base={base} at={at} close={() => setAt(null)} />
    </>
  );
}

/** The formats of an edition's file, under what opened them. */
export const FileMenu = (props: { base: EditionPlace; at: HTMLElement | null; close: () => void }) => (
  <Menu anchorEl={props.at} open={props.at !== null} onClose={props.close}>
    {FORMATS.map(([form, words]) => (
      <MenuItem
        key={form}
        component="a"
        dense
        href={`/api${props.base}/file?format=${form}`}
        onClick={props.close}
      >
        {words}
      </MenuItem>
    ))}
  </Menu>
);
