import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';

import { get } from '../api/client';
import { isElsewhere } from '../parts/keys';

const KEYS: [string, [string[], string][]][] = [
  [
    'Everywhere',
    [
      [['Ctrl', 'Z'], 'undo the last change'],
      [['Ctrl', 'Shift', 'Z'], 'redo it'],
      [['Esc'], 'close what is open'],
      [['?'], 'this list'],
    ],
  ],
  [
    'The board',
    [
      [['↑', '↓', '←', '→'], 'move'],
      [['Enter'], 'open what is there'],
      [['I'], 'issue the chosen edition'],
      [['A'], 'issue all that are ready'],
      [['R'], 'issue those that have moved again, or leave them as they are'],
    ],
  ],
  [
    'List of reports',
    [
      [['/'], 'search'],
      [['N'], 'new report'],
      [['1', '–', '3'], 'use a proposed report'],
    ],
  ],
  [
    'The sentence of a report',
    [
      [['/'], 'add to the sentence, or say another'],
      [['E'], 'edit the whole sentence as text'],
      [['Tab'], 'take the nearest word, or the word begun'],
      [['Enter'], 'edit the phrase that has the focus'],
      [['Alt', '←', '→'], 'move it'],
      [['T'], 'turn it from down to across, or back'],
      [['X'], 'disable it; hide a figure'],
      [['Del'], 'remove it'],
    ],
  ],
  [
    'The sheet',
    [
      [['↑', '↓', '←', '→'], 'move; with Shift choose a block, with Ctrl go to the end'],
      [['Enter'], 'explain the number; open or close the group'],
      [['Space'], 'choose the line'],
      [['S'], 'sort by the column'],
      [['M'], 'all that can be done at this place'],
      [['Alt', '↑', '↓'], 'move the line up or down'],
      [['Ctrl', 'C'], 'copy what is chosen'],
      [['F'], 'find a line'],
      [['C'], 'chart'],
      [['0', '–', '9'], 'open to that level; 0 shows the total alone'],
    ],
  ],
  [
    'An edition',
    [
      [['Enter'], 'open or close the group; explain the number, or why it moved'],
      [['F'], 'find a line'],
      [['C'], 'chart'],
    ],
  ],
  [
    'A category tree',
    [
      [['G'], 'gather the chosen values into a new category'],
      [['M'], 'move them to a category'],
      [['R'], 'write a rule that catches them'],
      [['Alt', '↑', '↓'], 'move the chosen line up or down'],
    ],
  ],
];

/** All keys in one list, on `?`. */
export function Keys() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key === '?' && !isElsewhere(event)) setOpen(true);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
  return (
    <Dialog open={open} onClose={() => setOpen(false)} maxWidth="md">
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>Keys</DialogTitle>
      <DialogContent>
        <div style={{ columns: '2 330px', columnGap: 36 }}>
          {KEYS.map(([where, keys]) => (
            <table key={where} style={{ breakInside: 'avoid', marginBottom: 14 }}>
              <caption style={{ textAlign: 'left', font: '600 14.5px var(--serif)', padding: '2px 0' }}>
                {where}
              </caption>
              <tbody>
                {keys.map(([names, does]) => (
                  <tr key={does}>
                    <td style={{ padding: '3px 14px 3px 0', whiteSpace: 'nowrap' }}>
                      {names.map((key) => (
                        <kbd key={key} className="kbd" style={{ marginRight: 3 }}>
                          {key}
                        </kbd>
                      ))}
                    </td>
                    <td>{does}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          ))}
        </div>
        <About close={() => setOpen(false)} />
      </DialogContent>
    </Dialog>
  );
}

/** The version, and the link to the API's description. */
function About({ close }: { close: () => void }) {
  const found = useQuery({
    queryKey: ['workspace'],
    queryFn: () => get('/workspace'),
    retry: false,
  });
  return (
    <p className="quiet" style={{ margin: '6px 0 0' }}>
      Kalendor {found.data?.version} ·{' '}
      <Link className="link" to="/reference" onClick={close}>
        for programs
      </Link>
    </p>
  );
}
