import './editions.css';

import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import { useState } from 'react';
import { Link } from 'react-router';

import type { MovedCause, MovedCellView } from '../api/client';
import { count, counted } from '../parts/words';

type Cause = Pick<MovedCause, 'title' | 'words' | 'listed'>;
type Why = MovedCellView['parts'][number]['words'][number];

/** The link to what changed. */
const wayTo = (why: Why) => (why.kind === 'source' ? `/sources/${why.of}` : `/history?of=${why.of}`);

/** The change by one cause: its size, in words that link to what changed, and its records in a list. */
export function CauseLines(props: {
  cause: Cause;
  by?: string;
  none?: boolean;
  totals?: MovedCause['totals'];
}) {
  const { cause, by = '', none = false, totals = [] } = props;
  const [open, setOpen] = useState(false);
  const all = cause.listed.records.length + cause.listed.more;
  return (
    <div className="cause">
      <div className="head">
        <span>{cause.title}</span>
        <span className={signed(by)}>{by}</span>
      </div>
      {cause.words.map((why) => (
        <p key={why.text}>
          <Link to={wayTo(why)}>{why.text}</Link>
        </p>
      ))}
      {cause.words.length === 0 && none && <p>nothing in it</p>}
      {all > 0 && (
        <p>
          <button className="link" onClick={() => setOpen(true)}>
            {counted(all, 'record')}
          </button>{' '}
          came or left
        </p>
      )}
      {totals.map((one) => (
        <p className="moved-total" key={one.figure}>
          <span>{one.figure}</span>
          <span className={signed(one.by)}>{one.by}</span>
        </p>
      ))}
      {open && <CameDialog cause={cause} close={() => setOpen(false)} />}
    </div>
  );
}

const signed = (by: string) => (by.startsWith('(') ? 'neg' : '');

/** The records added or removed, each with its file and line. */
function CameDialog({ cause, close }: { cause: Cause; close: () => void }) {
  const { records, columns, more } = cause.listed;
  const parted = records.some((one) => one.part !== 'value' && one.part !== '');
  const given = records.some((one) => one.amount !== '');
  return (
    <Dialog open onClose={close} maxWidth="lg" fullWidth>
      <DialogTitle>
        {cause.title}: {counted(records.length + more, 'record')}
      </DialogTitle>
      <DialogContent>
        <div style={{ overflowX: 'auto' }}>
          <table className="came">
            <thead>
              <tr>
                <th scope="col" />
                {parted && <th scope="col">part</th>}
                {given && <th scope="col">amount</th>}
                {columns.map((name) => (
                  <th key={name} scope="col">
                    {name}
                  </th>
                ))}
                <th scope="col">file and line</th>
              </tr>
            </thead>
            <tbody>
              {records.map((one) => (
                <tr
                  key={`${one.came} ${one.file} ${one.line} ${one.part}`}
                  className={one.came ? '' : 'left'}
                >
                  <td style={{ textDecoration: 'none' }}>{one.came ? 'came' : 'left'}</td>
                  {parted && <td>{one.part}</td>}
                  {given && <td className="num">{one.amount}</td>}
                  {one.values.map((value, i) => (
                    <td key={columns[i]}>{value}</td>
                  ))}
                  <td>
                    {one.file}, {one.line}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {more > 0 && <p className="quiet">and {count(more)} more</p>}
      </DialogContent>
    </Dialog>
  );
}
