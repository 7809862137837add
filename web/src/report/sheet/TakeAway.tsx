import { Divider, Menu, MenuItem } from '@mui/material';
import { useState } from 'react';

import { GhostButton } from '../../app/Masthead';
import { SummaryDialog } from './SummaryDialog';

const WAYS = [
  { label: 'CSV, as seen', query: 'format=csv&shape=sheet' },
  { label: 'CSV, flat for other tools', query: 'format=csv&shape=flat' },
  { label: 'JSON, as seen', query: 'format=json&shape=sheet' },
  { label: 'JSON, flat for other tools', query: 'format=json&shape=flat' },
  { label: 'Parquet, flat for other tools', query: 'format=parquet&shape=flat' },
];

/** The sheet as a file. */
export function TakeAway({ id }: { id: number }) {
  const [naming, setNaming] = useState(false);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <GhostButton onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="menu">
        Export ▾
      </GhostButton>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {WAYS.map((way) => (
          <MenuItem
            key={way.query}
            component="a"
            href={`/api/reports/${id}/file?${way.query}`}
            onClick={() => setAnchor(null)}
          >
            {way.label}
          </MenuItem>
        ))}
        <Divider />
        <MenuItem
          onClick={() => {
            setAnchor(null);
            setNaming(true);
          }}
        >
          Save as a source…
        </MenuItem>
      </Menu>
      <SummaryDialog id={id} open={naming} close={() => setNaming(false)} />
    </>
  );
}
